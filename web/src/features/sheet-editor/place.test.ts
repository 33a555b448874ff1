// A fault's place in words, as it stands in the list of what hinders a sheet.
import { expect, test } from 'vitest'
import { blank, put } from './draft'
import { checkOptions, familyOptions, partOptions } from './names'
import { placeWords } from './place'

const sheet = put(
  put(
    put(blank(), '/shafts/0/parts', [{ key: 'a', name: 'First gear', kind: 'gear', width: '20 mm' }]),
    '/checks',
    [
      {
        key: 'c',
        name: 'Input float',
        kind: 'end_float',
        method: 'dial_travel',
        ready: [{ tick: 'Seats clean', why: '' }],
      },
      { key: 'new-1', name: '', kind: 'end_float', method: 'dial_travel' },
    ],
  ),
  '/families',
  [{ key: 'f', name: 'Float washers', sizes: [{ thickness: '1.05 mm' }] }],
)

test.each([
  ['', 'the sheet'],
  ['/name', 'name'],
  ['/shafts/0', 'shaft 1, Main shaft'],
  ['/shafts/0/parts/0/width', 'shaft 1, Main shaft › part 1, First gear › width'],
  ['/shafts/0/parts/0/gap_before', 'shaft 1, Main shaft › part 1, First gear › bare shaft before it'],
  ['/checks/0/window/low', 'check 1, Input float › window › low'],
  ['/checks/0/set_by', 'check 1, Input float › set by'],
  ['/checks/0/ready/0', 'check 1, Input float › tick 1, Seats clean'],
  ['/checks/1/name', 'check 2 › name'],
  ['/families/0/sizes/0', 'pieces 1, Float washers › size 1, 1.05 mm'],
  // A place that is gone is told all the same.
  ['/checks/7/torque', 'check 8 › torque'],
])('%s is “%s”', (place, words) => expect(placeWords(sheet, place)).toBe(words))

test('what has no name yet can be chosen all the same', () => {
  expect(checkOptions(sheet)).toEqual([
    ['c', 'Input float'],
    ['new-1', '(no name yet)'],
  ])
  expect(checkOptions(sheet, 'c')).toEqual([['new-1', '(no name yet)']])
  expect(familyOptions(sheet)).toEqual([['f', 'Float washers']])
  expect(partOptions(sheet)).toEqual([['a', 'First gear, main shaft']])
})
