// Lengths as shown, by hand: an inch is 25.4 mm exactly (international inch, 1959).
import { expect, test } from 'vitest'
import { clearance, nmOf, show, showStated, windowWords } from './units'

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
