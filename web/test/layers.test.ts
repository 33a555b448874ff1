// Which folder may import which: the tree is clean, and a planted breach is found.
import { cruise, type ICruiseResult } from 'dependency-cruiser'
import { expect, test } from 'vitest'
import rules from '../layers.cjs'

async function breaches(root: string) {
  const found = await cruise([root], {
    ruleSet: { forbidden: rules(root) },
    validate: true,
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
  })
  const { summary } = found.output as ICruiseResult
  return { list: summary.violations.map((v) => `${v.rule.name}: ${v.from}`), files: summary.totalCruised }
}

test('no import runs upward and none in a ring', async () => {
  const { list, files } = await breaches('src')
  expect(list).toEqual([])
  expect(files).toBeGreaterThan(100)
}, 60_000)

test('a planted breach is found', async () => {
  const { list } = await breaches('test/planted')
  expect(list).toContain('domain-imports-nothing-above-it: test/planted/domain/upward.ts')
  expect(list.some((v) => v.startsWith('no-ring'))).toBe(true)
}, 60_000)
