import { expect, test } from 'vitest'
import { entryOf, readingWords } from './readings'

test('what was typed is told in a line, and nothing where nothing was', () => {
  expect(entryOf({ kind: 'travel', travel: ' 0.25 ', tilt: '', pull: '' })).toBe('0.25')
  expect(entryOf({ kind: 'pair', home: '1', out: '', tilt: '', pull: '' })).toBe('1')
  expect(entryOf({ kind: 'pair', home: '1', out: '3', tilt: '', pull: '' })).toBe('1 to 3')
  expect(entryOf({ kind: 'known_shim', shim: '', float: '2' })).toBe('none in, float 2')
  expect(entryOf({ kind: 'known_shim', shim: '3', float: ' ' })).toBe('')
  expect(entryOf({ kind: 'by_hand', from: '6', to: '8' })).toBe('6 to 8')
})

test('a reading is told in the person’s unit', () => {
  expect(readingWords({ kind: 'travel', travel_nm: 254_000, tilt_deg: 0, pull_n: null }, 'thou')).toBe('10.0')
  expect(readingWords({ kind: 'travel', travel_nm: 254_000, tilt_deg: 5, pull_n: 20 }, 'mm')).toBe(
    '0.254, tilted 5°, pulled 20 N',
  )
  expect(
    readingWords({ kind: 'gaps', gear: 2, left_nm: 100_000, right_nm: 200_000 }, 'mm', [
      { name: 'first' },
      { name: 'second' },
    ]),
  ).toBe('second: 0.100 | 0.200')
})
