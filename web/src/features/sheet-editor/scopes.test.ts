import { expect, test } from 'vitest'
import { blank, type Sheet } from './draft'
import { hasIt, scoped, scopedPlaces, withScope } from './scopes'

const sheet: Sheet = {
  ...blank(),
  variants: [
    { key: 'a', name: 'A' },
    { key: 'b', name: 'B' },
  ],
}

test('a thing is in all builds, in those that are named, or in all but those', () => {
  expect(hasIt({}, 'a')).toBe(true)
  expect(hasIt({ only_in: ['b'] }, 'a')).toBe(false)
  expect(hasIt({ not_in: ['b'] }, 'a')).toBe(true)
  expect(hasIt({ not_in: ['a'] }, 'a')).toBe(false)
  expect([{}, { only_in: [] }, { only_in: ['a'] }, { not_in: ['a'] }].map(scoped)).toEqual([
    false,
    false,
    true,
    true,
  ])
})

test('in all builds it says nothing of builds; else it names those that have it', () => {
  const thing = { name: 'Pinion', not_in: ['a'] }
  expect(withScope(sheet, thing, ['a', 'b'])).toEqual({ name: 'Pinion' })
  expect(withScope(sheet, thing, ['a'])).toEqual({ name: 'Pinion', only_in: ['a'] })
})

test('everything that may differ is named with its place', () => {
  const with_steps = { ...sheet, build: [{ key: 's', what: 'Oil the shaft' }] }
  expect(scopedPlaces(with_steps).at(-1)).toMatchObject({
    of: '/build/0',
    what: 'step',
    name: 'Oil the shaft',
  })
})
