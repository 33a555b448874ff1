import { expect, test } from 'vitest'
import { figureOf } from './fields'

test.each([
  ['', null],
  ['  ', null],
  ['12', 12],
  [' 1,5 ', 1.5],
  ['.25', 0.25],
  ['−3', -3],
  ['-3', -3],
] as const)('“%s” is %s', (text, figure) => expect(figureOf(text)).toBe(figure))

test.each(['1.', 'a', '1 2', '1e3', '0x10', 'Infinity', '1,2,3', '--1'])('“%s” is no figure', (text) =>
  expect(figureOf(text)).toBeNaN(),
)
