// Which folder of the front end may import which, for dependency-cruiser; test/layers.test.ts holds them to it.
const ORDER = ['domain', 'api', 'ui', 'charts', 'features', 'app']

/** The rules for a tree whose folders lie under `root`. */
module.exports = (root = 'src') => [
  { name: 'no-ring', severity: 'error', from: {}, to: { circular: true } },
  ...ORDER.slice(0, -1).map((layer, at) => ({
    name: `${layer}-imports-nothing-above-it`,
    severity: 'error',
    from: { path: `^${root}/${layer}/` },
    to: {
      path: `^${root}/(${ORDER.slice(at + 1).join('|')})/`,
      // The interface's own description, made from the server: names and nothing else.
      pathNot: `^${root}/api/schema\\.d\\.ts$`,
    },
  })),
  {
    name: 'features-know-nothing-of-each-other-but-by-their-parts',
    severity: 'error',
    from: { path: `^${root}/(domain|api|ui|charts|features|app)/` },
    to: { path: `^${root}/main\\.tsx$` },
  },
]
