import { expect, test } from 'vitest'
import type { OnJob } from '../strip/acts'
import { labelled } from './choose'

const part = (over: Partial<OnJob>) =>
  ({
    key: 'p',
    name: 'Cup',
    count: 1,
    which: '',
    kept_with: [],
    twin: null,
    stands_there: false,
    ...over,
  }) as OnJob
const box = { job_no: 7, sheet: 'T5', customer: 'A baker', intake: { stamped: 'T·1' } }

test('the box comes first; what stays together, has a twin or lies in a bag is printed by itself', () => {
  const labels = labelled(box, [
    part({ key: 'cup', kept_with: ['Cone'] }),
    part({ key: 'left', name: 'Left washer', twin: 'Right washer', which: 'the thicker' }),
    part({ key: 'balls', name: 'Balls', count: 3 }),
    part({ key: 'gear', name: 'Gear' }),
  ])
  expect(labels.map((l) => [l.key, l.name, l.usual])).toEqual([
    ['', 'T5', true],
    ['cup', 'Cup', true],
    ['left', 'Left washer', true],
    ['balls', '3 × Balls', true],
    ['gear', 'Gear', false],
  ])
  expect(labels[0]?.lines).toEqual(['A baker', 'number T·1'])
  expect(labels[1]?.lines).toEqual(['stays with cone'])
  expect(labels[2]?.lines).toEqual(['the thicker', 'not right washer'])
  expect(labels[3]?.path).toBe('/jobs/7/strip?part=balls')
})
