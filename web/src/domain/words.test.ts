import { expect, test } from 'vitest'
import { allInSentence, inSentence, plain } from './words'

test.each([
  ['Input shaft end float', 'input shaft end float'],
  ['ATF pump clearance', 'ATF pump clearance'],
  ['Élan gear', 'élan gear'],
  ['3-4 hub', '3-4 hub'],
  ['A gear', 'a gear'],
  ['', ''],
])('%s within a sentence', (name, within) => expect(inSentence(name)).toBe(within))

test('names in a row keep their capitals', () =>
  expect(allInSentence(['ATF pump', 'Main float'])).toBe('ATF pump, main float'))

test('what is searched for has no accents and no capitals', () =>
  expect(plain('Bäckerei ŁÉ')).toBe('backerei le'))
