// Every view of the demo, its jobs by their titles (see `placed`).
const BOX = '/jobs/{Creamery van}'
export const VIEWS = [
  '/',
  '/?show=finished',
  BOX,
  `${BOX}/checks/input-float`,
  `${BOX}/checks/main-float`,
  `${BOX}/checks/diff-preload`,
  '/jobs/{Van 17, five-speed}/checks/diff-side',
  '/jobs/{Van 17, five-speed}/checks/input-float',
  `${BOX}/report`,
  `${BOX}/together`,
  `${BOX}/order`,
  '/jobs/{School minibus}/plan',
  '/jobs/{School minibus}/build',
  '/jobs/{Rescue 2}/strip',
  '/jobs/{School minibus}/identify',
  '/identify',
  '/jobs/{School minibus}/since',
  '/sheets/tolvane-t5/found',
  '/jobs/{School minibus}/labels',
  '/jobs/{Library van}/donors',
  '/shelf',
  '/jobs/{Rescue 2}/build',
  '/order',
  '/together',
  '/drawers',
  '/gauges',
  '/sheets',
  '/sheets/tolvane-t5',
  '/sheets/tolvane-t5/past',
  '/sheets/tolvane-t5/write',
  ...[
    'piece',
    'pinch',
    'known-shim',
    'stack',
    'rollers',
    'ratios',
    'heat-fit',
    'hot',
    'units',
    'centring',
    'limited-gaps',
  ].map((sum) => `/sums/${sum}`),
  '/no/such/place',
]

export type Theme = 'light' | 'dark'

/** Both themes where `DRY_ANVIL_LONG` is set, else one: of the nth thing the other than of the next. */
export function themesOf(nth: number): readonly Theme[] {
  const both = ['light', 'dark'] as const
  return process.env.DRY_ANVIL_LONG ? both : both.filter((_, at) => (at + nth + SEED) % 2 === 0)
}

const SEED = Number(process.env.DRY_ANVIL_SEED ?? 0)

/** All of a list where `DRY_ANVIL_LONG` is set, else a third: of the nth thing another third than of the next, and by
 *  `DRY_ANVIL_SEED`. */
export function aThirdOf<T>(list: readonly T[], nth: number): readonly T[] {
  return process.env.DRY_ANVIL_LONG ? list : list.filter((_, at) => (at + nth + SEED) % 3 === 0)
}
