// Lengths as shown, by hand: an inch is 25.4 mm exactly (international inch, 1959).
import { describe, expect, it, test } from 'vitest'
import {
  clearance,
  clockText,
  dayText,
  nmOf,
  percent,
  piecesText,
  show,
  showStated,
  whenText,
  windowWords,
} from './units'

test.each([
  [25_400, 'thou', '1.0'],
  [25_400, 'mm', '0.025'],
  [25_400, 'um', '25'],
  [-1_270_000, 'mm', '−1.270'],
  [-1, 'mm', '0.000'],
  [63_500, 'thou', '2.5'],
] as const)('%i nm in %s is shown as %s', (nm, unit, text) => {
  expect(show(nm, unit)).toBe(text)
})

test.each([
  [1_100_000, 'mm', '1.10'],
  [1_125_000, 'mm', '1.125'],
  [1_000_000, 'mm', '1.00'],
  [63_500, 'thou', '2.5'],
  [25_400, 'thou', '1'],
  [1_500, 'um', '1.5'],
] as const)('a stated %i nm in %s is written %s', (nm, unit, text) => {
  expect(showStated(nm, unit)).toBe(text)
})

test('a clearance has a word for its side and never a minus', () => {
  expect(clearance(50_000, 'mm')).toEqual({ figure: '0.050', word: 'float' })
  expect(clearance(-50_000, 'mm')).toEqual({ figure: '0.050', word: 'preload' })
  expect(clearance(-50_000, 'mm', false, 'retainer_pinch').word).toBe('pinch')
  expect(clearance(50_000, 'mm', false, 'clutch_pack_clearance').word).toBe('clearance')
  expect(clearance(-50_000, 'mm', false, 'gear_side_clearance').word).toBe('tight')
  expect(clearance(50_000, 'mm', false, 'pinion_end_play').word).toBe('end play')
  expect(clearance(50_000, 'mm', false, 'selector_centring').word).toBe('off the middle')
  expect(clearance(100, 'mm').word).toBe('nil')
})

test('an open window says so', () => {
  expect(windowWords(null, 'mm')).toBe('in newton metres')
  expect(windowWords({ low_nm: 100_000, high_nm: 300_000 }, 'mm')).toContain('0.10')
})

test('a thousandth of an inch is a thousandth of an inch', () => {
  expect(nmOf.thou * 1000).toBe(nmOf.in)
})

test.each([
  [{ low_nm: 50_000, high_nm: 150_000 }, 'mm', undefined, '0.05 to 0.15 mm'],
  [{ low_nm: -101_600, high_nm: 0 }, 'thou', undefined, '0 to 4 thou preload'],
  [{ low_nm: -50_800, high_nm: 25_400 }, 'thou', undefined, '2 thou preload to 1 thou'],
  [{ low_nm: null, high_nm: 150_000 }, 'mm', undefined, 'up to 0.15 mm'],
  [{ low_nm: 50_000, high_nm: null }, 'mm', undefined, '0.05 mm or more'],
  [{ low_nm: null, high_nm: -50_000 }, 'mm', undefined, 'up to 0.05 mm preload'],
  [{ low_nm: -60_000, high_nm: -20_000 }, 'um', 'retainer_pinch', '20 to 60 µm pinch'],
  [{ low_nm: null, high_nm: 150_000 }, 'mm', 'selector_centring', 'up to 0.15 mm'],
  [{ low_nm: null, high_nm: null }, 'mm', undefined, ''],
  [null, 'mm', 'pass_fail', 'yes or no by hand'],
] as const)('the window %j in %s of a %s is “%s”', (ends, unit, kind, words) => {
  expect(windowWords(ends, unit, kind)).toBe(words)
})

test.each([
  [1, '> 99.9\u00a0%'],
  [0.9994, '99.9\u00a0%'],
  [0.95, '95\u00a0%'],
  [0.004, '0.4\u00a0%'],
  [0, '< 0.1\u00a0%'],
])('a chance of %f is shown as %s: never as certain', (chance, words) => expect(percent(chance)).toBe(words))

test('a stack says how many of what, and how a piece is known', () => {
  const stack = [
    { thickness_nm: 150_000, count: 2 },
    { thickness_nm: 503_000, count: 1, grade: 'miked' as const },
  ]
  expect(piecesText(stack, 'mm')).toBe('2 × 0.15 + 0.503 (measured)')
  expect(piecesText([], 'mm')).toBe('')
})

describe('days and times', () => {
  // The browser's own formatter of British dates stands beside it.
  const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
  const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
  it.each(Array.from({ length: 24 }, (_, i) => new Date(2026, i, 1 + ((i * 7) % 28), (i * 5) % 24, i * 2)))(
    '%s',
    (at) => {
      const iso = at.toISOString()
      expect(dayText(iso)).toBe(day.format(at))
      expect(clockText(iso)).toBe(clock.format(at))
      expect(whenText(iso)).toBe(`${day.format(at)}, ${clock.format(at)}`)
    },
  )
})
