// Scales and ticks of every plot.
import { range, tickStep, ticks } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import type { Unit } from '../domain/schema'
import { nmOf } from '../domain/units'

/** So far apart, in pixels, stand the figures along an axis of lengths. */
const FIGURES_APART = 120

/** From figures to pixels. */
export const scale = (from: number, to: number, first: number, last: number) =>
  scaleLinear([from, to], [first, last])

/** The ticks of an axis of lengths, in nanometres, at round figures of the unit: those with a figure, the small
    ones between them, and how many decimals the figures want. */
export function lengthTicks(from: number, to: number, unit: Unit, width: number) {
  const nm = nmOf[unit]
  const count = Math.max(1, width / FIGURES_APART)
  const step = tickStep(from / nm, to / nm, count)
  const small = (step * nm) / 5
  return {
    list: ticks(from / nm, to / nm, count).map((t) => t * nm),
    smalls: range(Math.ceil(from / small) * small, to + small / 2, small),
    places: Math.max(0, -Math.floor(Math.log10(step) + 1e-9)),
  }
}
