// The names of the ways of measuring, and what a reading says in words.
import type { Schemas, Unit } from '../../api/client'
import { show, showStated, unitName } from '../../ui/units'

export type Way = Schemas['Way']
export type Entry = Schemas['Entry']

export const wayName: Record<Way, string> = {
  dial_travel: 'dial travel',
  feeler: 'feeler leaves',
  depth_from_bar: 'depth from a bar',
  stack_sum: 'stack sum',
  no_shim: 'no shim at all',
  known_shim: 'known shim',
  turning_torque: 'turning torque',
  one_by_one: 'one by one',
  selector_gaps: 'selector gaps',
  by_hand: 'by hand',
}

export const fitWords: Record<Schemas['Fit'], string> = {
  goes: 'goes',
  refused: 'does not go',
  just: 'just fills it',
}

export const torqueText = (n_m: number) => `${n_m.toFixed(2)} N·m`

/** A reading in words, and its figure where it is one length. */
export function readingWords(taken: Schemas['Taken'], unit: Unit, gears?: { name: string }[]): string {
  switch (taken.kind) {
    case 'travel':
      return show(taken.travel_nm, unit) + tilt(taken)
    case 'pair':
      return `${show(taken.home_nm, unit)} → ${show(taken.out_nm, unit)} = ${show(taken.out_nm - taken.home_nm, unit)}${tilt(taken)}`
    case 'leaf':
      return `${taken.leaves_nm.map((l) => showStated(l, unit)).join(' + ')} ${fitWords[taken.fit]}`
    case 'depth':
      return `at ${taken.place}: ${show(taken.depth_nm - taken.bar_nm, unit)}`
    case 'term':
      return `term ${taken.term}: ${show(taken.length_nm, unit)}`
    case 'known_shim':
      return `${taken.shim_nm === 0 ? 'none' : showStated(taken.shim_nm, unit)} in, float ${show(taken.float_nm, unit)}`
    case 'torque':
      return torqueText(taken.torque_n_m)
    case 'pull':
      return `${taken.force_n.toFixed(1)} N at ${showStated(taken.radius_nm, unit)} ${unitName[unit]}`
    case 'pinion':
      return `pinion ${taken.pinion}: ${show(taken.play_nm, unit)}`
    case 'gaps':
      return `${gears?.[taken.gear - 1]?.name ?? `gear ${taken.gear}`}: ${show(taken.left_nm, unit)} | ${show(taken.right_nm, unit)}`
    case 'by_hand':
      return taken.from_nm === taken.to_nm
        ? `about ${show(taken.from_nm, unit)}`
        : `${show(taken.from_nm, unit)} to ${show(taken.to_nm, unit)}`
  }
}

const tilt = (t: { tilt_deg?: number; pull_n?: number | null }) =>
  [t.tilt_deg ? `, tilted ${t.tilt_deg}°` : '', t.pull_n ? `, pulled ${t.pull_n.toFixed(0)} N` : ''].join('')

/** The window of a turning torque in words. */
export const torqueWindow = (w: Schemas['TorqueEnds'] | null | undefined) =>
  w?.low_n_m == null
    ? `up to ${w?.high_n_m ?? '?'} N·m`
    : w.high_n_m == null
      ? `${w.low_n_m} N·m or more`
      : `${w.low_n_m} to ${w.high_n_m} N·m`
