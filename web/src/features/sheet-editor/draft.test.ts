import { expect, test } from 'vitest'
import { at, blank, copied, freshKey, named, put, slug, withUnit } from './draft'

test('what is put at a place is there, and all else is the very same', () => {
  const before = blank()
  const after = put(before, '/shafts/0/name', 'Lay shaft')
  expect(at(after, '/shafts/0/name')).toBe('Lay shaft')
  expect(at(before, '/shafts/0/name')).toBe('Main shaft')
  expect(after.checks).toBe(before.checks)
  expect(after.shafts).not.toBe(before.shafts)
})

test('a place that is not there yet is made, and nothing takes it away again', () => {
  const check = { key: 'new-1', name: '', kind: 'end_float', method: 'dial_travel' }
  const sheet = put(blank(), '/checks', [check])
  const low = put(sheet, '/checks/0/window/low', '0.1 mm')
  expect(at(low, '/checks/0/window')).toEqual({ low: '0.1 mm' })
  const none = put(low, '/checks/0/window/low', undefined)
  // With neither limit there is no window at all.
  expect(at(none, '/checks/0/window')).toBeUndefined()
  expect(at(put(low, '/checks/0/how', undefined), '/checks/0/window')).toEqual({ low: '0.1 mm' })
})

test('a key is made from a name once, and whatever names the thing follows', () => {
  const sheet = put(blank(), '/checks', [
    { key: 'new-1', name: 'Lay shaft float', kind: 'end_float', method: 'dial_travel' },
    { key: 'new-2', name: '', kind: 'end_float', method: 'dial_travel', after: ['new-1'] },
  ])
  const after = named(sheet, '/checks/0')
  expect(at(after, '/checks/0/key')).toBe('lay-shaft-float')
  expect(at(after, '/checks/1/after/0')).toBe('lay-shaft-float')
  expect(named(after, '/checks/0')).toBe(after)
  expect(freshKey(after)).toBe('new-1')
})

test.each([
  ['Fünfter Gang, Spiel', 'funfter-gang-spiel'],
  ['  3–4 hub ', '3-4-hub'],
  ['***', ''],
])('%s as a key is %s', (name, key) => expect(slug(name)).toBe(key))

test('a bare figure takes the sheet’s unit, one with a unit keeps its own', () => {
  expect(withUnit('0,15 ', 'mm')).toBe('0,15 mm')
  expect(withUnit('6 1/2', 'thou')).toBe('6 1/2 thou')
  expect(withUnit('4 thou', 'mm')).toBe('4 thou')
})

test('a copy has no key of its own yet', () => {
  expect(copied({ ...blank(), key: 'x', name: 'X' })).toMatchObject({ key: '', name: 'X, copy' })
})
