import { expect, test } from 'vitest'
import { lengthTicks, scale } from './axis'

test('figures stand at round places of the unit, small ticks between them', () => {
  const { list, smalls, places } = lengthTicks(-50_000, 450_000, 'mm', 720)
  expect(list).toEqual([0, 100_000, 200_000, 300_000, 400_000])
  expect(places).toBe(1)
  expect(smalls).toContain(20_000)
  expect(smalls.every((s) => s >= -50_000 && s <= 460_000)).toBe(true)
})

test('the same range in thou has its own round places', () => {
  const { list, places } = lengthTicks(0, 254_000, 'thou', 600)
  expect(list.map((t) => Math.round(t / 25_400))).toEqual([0, 2, 4, 6, 8, 10])
  expect(places).toBe(0)
})

test('a very narrow range keeps its figures apart', () => {
  const { list, places } = lengthTicks(0, 4_000, 'mm', 600)
  expect(places).toBe(3)
  expect(new Set(list.map((t) => (t / 1_000_000).toFixed(places))).size).toBe(list.length)
})

test('a scale runs from the first pixel to the last', () => {
  const x = scale(0, 10, 20, 120)
  expect([x(0), x(5), x(10)]).toEqual([20, 70, 120])
})
