// Why a check gets something else together than one by one: told from its own line and those it shares with.
import { expect, test } from 'vitest'
import type { Schemas } from '../../domain/schema'
import { why } from './why'

type Line = Schemas['AllocationLine']

const choice = (thickness_nm: number, off_target_nm: number) =>
  ({ pieces: [{ thickness_nm, count: 1 }], outcome: { off_target_nm } }) as Schemas['LineChoice']

const line = (name: string, own: Partial<Line>): Line =>
  ({ job_no: 1, name, alone: null, together: null, why: null, ...own }) as Line

const better = line('Output float', { together: choice(1_050_000, 5_000) })
const other = line('Idler float', { job_no: 2, alone: choice(900_000, 0), together: choice(900_000, 0) })

test('nothing is said where nothing is different', () => {
  expect(why(other, [other], 'mm')).toBe('')
})

test('it leaves a piece for one that would have had nothing', () => {
  const giver = line('Input float', {
    alone: choice(1_050_000, 10_000),
    together: choice(1_100_000, 30_000),
    why: { leaves_for: [1], gets_from: [] },
  })
  expect(why(giver, [giver, better], 'mm')).toBe(
    'Leaves 1.05 for output float, which would have nothing in its window otherwise.',
  )
})

test('a check of another job is told with its job, and several in a list', () => {
  const giver = line('Input float', {
    alone: choice(1_050_000, 10_000),
    together: choice(1_100_000, 30_000),
    why: { leaves_for: [1, 2], gets_from: [] },
  })
  expect(why(giver, [giver, better, other], 'mm')).toContain('for output float and idler float of job 2')
})

test('it gets what another would have taken, and what that gains', () => {
  const taker = line('Input float', {
    alone: choice(1_100_000, 30_000),
    together: choice(1_050_000, 10_000),
    why: { leaves_for: [], gets_from: [1] },
  })
  expect(why(taker, [taker, other], 'mm')).toBe(
    'Gets 1.05, which idler float of job 2 would have taken: 0.010 mm off target in place of 0.030 mm off target.',
  )
})

test.each([
  [{ alone: choice(1, 30_000), together: choice(2, 40_000) }, 'so that the others do better'],
  [{ together: choice(2, 40_000) }, 'One by one it would have nothing in its window.'],
  [{}, 'Left out so that more of the others land in their windows.'],
])('without a partner, %j is told plainly', (own, words) => {
  const alone = line('Input float', { ...own, why: { leaves_for: [], gets_from: [] } })
  expect(why(alone, [alone], 'mm')).toContain(words)
})
