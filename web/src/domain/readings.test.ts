import { describe, expect, test } from 'vitest'
import { entryOf, readingWords, torqueWindow, type ReadingInput } from './readings'
import type { Schemas, Unit } from './schema'

const plain = { tilt: '', pull: '' }

/** What was typed, and the line it is told in; nothing where nothing was typed yet. */
const TYPED: [ReadingInput, string][] = [
  [{ kind: 'travel', travel: ' 0.25 ', ...plain }, '0.25'],
  [{ kind: 'travel', travel: '  ', ...plain }, ''],
  [{ kind: 'pair', home: '1', out: '', ...plain }, '1'],
  [{ kind: 'pair', home: '1', out: '3', ...plain }, '1 to 3'],
  [{ kind: 'leaf', leaves: ' 0.1 + 0.05 ', fit: 'goes' }, '0.1 + 0.05'],
  [{ kind: 'depth', place: 1, of: 6, depth: '30', bar: '12' }, '30'],
  [{ kind: 'depth', place: 1, of: 6, depth: '', bar: '12' }, ''],
  [{ kind: 'term', term: 2, length: '18' }, '18'],
  [{ kind: 'known_shim', shim: '', float: '2' }, 'none in, float 2'],
  [{ kind: 'known_shim', shim: '3', float: ' ' }, ''],
  [{ kind: 'torque', torque: '1.9' }, '1.9'],
  [{ kind: 'pull', force: '20', radius: '75 mm' }, '20'],
  [{ kind: 'pinion', pinion: 3, play: '0.3' }, '0.3'],
  [{ kind: 'tooth', place: 3, play: ' 0.14 ', moved: '' }, '0.14'],
  [{ kind: 'gaps', gear: 1, left: '0.6', right: '' }, '0.6'],
  [{ kind: 'gaps', gear: 1, left: '0.6', right: '0.9' }, '0.6 and 0.9'],
  [{ kind: 'answer', answer: 'no' }, 'no'],
  [{ kind: 'by_hand', from: '6', to: '8' }, '6 to 8'],
  [{ kind: 'by_hand', from: '6', to: '' }, '6'],
]

test.each(TYPED)('what was typed, %j, is “%s”', (entry, line) => expect(entryOf(entry)).toBe(line))

const upright = { tilt_deg: 0, pull_n: null }

/** A reading, a unit, and its words; an inch is 25.4 mm exactly (international inch, 1959). */
const TAKEN: [Schemas['Reading'], Unit, string][] = [
  [{ kind: 'travel', travel_nm: 254_000, ...upright }, 'thou', '10.0'],
  [{ kind: 'travel', travel_nm: 254_000, tilt_deg: 5, pull_n: 20 }, 'mm', '0.254, tilted 5°, pulled 20 N'],
  [{ kind: 'pair', home_nm: 1_020_000, out_nm: 1_170_000, ...upright }, 'mm', '1.020 → 1.170 = 0.150'],
  [{ kind: 'pair', home_nm: -50_000, out_nm: 100_000, ...upright }, 'um', '−50 → 100 = 150'],
  [{ kind: 'leaf', leaves_nm: [100_000, 50_000], fit: 'refused' }, 'mm', '0.10 + 0.05 does not go'],
  [{ kind: 'depth', place: 2, of: 6, depth_nm: 30_020_000, bar_nm: 12_000_000 }, 'mm', 'at 2: 18.020'],
  [{ kind: 'term', term: 3, length_nm: 18_020_000 }, 'mm', 'term 3: 18.020'],
  [{ kind: 'known_shim', shim_nm: 76_200, float_nm: 25_400 }, 'thou', '3 in, float 1.0'],
  [{ kind: 'known_shim', shim_nm: 0, float_nm: 101_600 }, 'thou', 'none in, float 4.0'],
  [{ kind: 'torque', torque_n_m: 1.9 }, 'mm', '1.90 N·m'],
  [{ kind: 'pull', force_n: 20, radius_nm: 75_000_000 }, 'mm', '20.0 N at 75.00 mm'],
  [{ kind: 'pinion', pinion: 3, play_nm: 304_800 }, 'thou', 'pinion 3: 12.0'],
  [{ kind: 'tooth', place: 2, play_nm: 140_000, moved_nm: 0 }, 'mm', 'place 2: 0.140'],
  [{ kind: 'tooth', place: 2, play_nm: 240_000, moved_nm: 150_000 }, 'mm', 'place 2: 0.240, moved by 0.15'],
  [{ kind: 'gaps', gear: 2, left_nm: 100_000, right_nm: 200_000 }, 'mm', 'gear 2: 0.100 | 0.200'],
  [{ kind: 'answer', answer: 'yes' }, 'mm', 'yes'],
  [{ kind: 'by_hand', from_nm: 152_400, to_nm: 203_200 }, 'thou', '6.0 to 8.0'],
  [{ kind: 'by_hand', from_nm: 152_400, to_nm: 152_400 }, 'thou', 'about 6.0'],
]

test.each(TAKEN)('%j in %s is “%s”', (taken, unit, words) => expect(readingWords(taken, unit)).toBe(words))

test('every kind of reading has a case', () => {
  const kinds = new Set(TAKEN.map(([taken]) => taken.kind))
  expect(new Set(TYPED.map(([entry]) => entry.kind))).toEqual(kinds)
  expect(kinds.size).toBe(13)
})

test('a gear is told by its name where the sheet has one', () => {
  const gears = [{ name: 'first' }, { name: 'second' }]
  const gaps = { kind: 'gaps', gear: 2, left_nm: 100_000, right_nm: 200_000 } as const
  expect(readingWords(gaps, 'mm', gears)).toBe('second: 0.100 | 0.200')
  expect(readingWords({ ...gaps, gear: 3 }, 'mm', gears)).toBe('gear 3: 0.100 | 0.200')
})

describe('the window of a torque', () => {
  test.each([
    [{ low_n_m: 1, high_n_m: 2.5 }, '1 to 2.5 N·m'],
    [{ low_n_m: null, high_n_m: 2.5 }, 'up to 2.5 N·m'],
    [{ low_n_m: 1, high_n_m: null }, '1 N·m or more'],
  ])('%j is “%s”', (window, words) => expect(torqueWindow(window)).toBe(words))
})
