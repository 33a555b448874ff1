import { expect, test } from 'vitest'
import { daysLate } from './Promised'

test('a day is late by the calendar, not by the hour', () => {
  const night = new Date(2026, 2, 29, 23, 50)
  const morning = new Date(2026, 2, 29, 0, 10)
  for (const now of [night, morning]) {
    expect(daysLate('2026-03-29', now)).toBe(0)
    expect(daysLate('2026-03-28', now)).toBe(1)
    expect(daysLate('2026-03-30', now)).toBe(-1)
    expect(daysLate('2025-03-29', now)).toBe(365)
  }
})
