import { expect, test } from 'vitest'
import { back, nextOf } from './parts'

test.each([
  [1, 4, [1], 2],
  [2, 4, [1, 2, 3], 4],
  // Round again to one that was passed over.
  [4, 4, [1, 3, 4], 2],
  // All have one: the one after it, never the same again.
  [4, 4, [1, 2, 3, 4], 1],
  [1, 1, [1], 1],
])('after %i of %i, with readings at %j, comes %i', (from, count, done, next) => {
  expect(nextOf(from, count, (n) => done.includes(n))).toBe(next)
})

test('only what was refused of the same kind is put back', () => {
  const refused = { kind: 'term', term: 2, length: '18' } as const
  expect(back(refused, 'term')).toBe(refused)
  expect(back(refused, 'travel')).toBeUndefined()
  expect(back(undefined, 'travel')).toBeUndefined()
})
