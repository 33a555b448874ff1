// The words are for people: none is a key, none is empty, none stands for two things in one list.
import { describe, expect, test } from 'vitest'
import * as labels from './labels'

const tables = Object.entries(labels).filter(
  (entry): entry is [string, Record<string, string>] =>
    typeof entry[1] === 'object' && Object.values(entry[1]).every((words) => typeof words === 'string'),
)

test('there are tables of words to look at', () => {
  expect(tables.map(([name]) => name)).toEqual(
    expect.arrayContaining(['methodName', 'kindName', 'phaseName', 'partName']),
  )
})

describe.each(tables)('%s', (_, table) => {
  test('has words, not keys', () => {
    for (const [key, words] of Object.entries(table)) {
      expect(words, key).not.toContain('_')
      expect(words, key).toBe(words.trim())
    }
  })

  test('says two things in two ways', () => {
    const words = Object.values(table).filter((w) => w !== '')
    expect(new Set(words).size).toBe(words.length)
  })
})
