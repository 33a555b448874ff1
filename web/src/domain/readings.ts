// What a reading says in words.
import type { CheckView, Schemas, Unit } from './schema'
import { answerName, fitWords } from './labels'
import { show, showStated, unitName } from './units'

export type Method = Schemas['Method']
export type ReadingInput = Schemas['ReadingInput']

export const torqueText = (n_m: number) => `${n_m.toFixed(2)} N·m`

const SIDES = [{ name: 'bore' }, { name: 'part' }]

type Names = { name: string }[] | undefined

/** What the things are called that a check's readings are of: the gears of a selector, the two sides of a fit. */
export const namesOf = (check: CheckView): Names => (check.kind === 'fit' ? SIDES : check.selector?.gears)

/** A reading in words, and its figure where it is one length. */
export function readingWords(taken: Schemas['Reading'], unit: Unit, names?: Names): string {
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
      return `${names?.[taken.term - 1]?.name ?? `term ${taken.term}`}: ${show(taken.length_nm, unit)}`
    case 'known_shim':
      return `${taken.shim_nm === 0 ? 'none' : showStated(taken.shim_nm, unit)} in, float ${show(taken.float_nm, unit)}`
    case 'torque':
      return torqueText(taken.torque_n_m)
    case 'pull':
      return `${taken.force_n.toFixed(1)} N at ${showStated(taken.radius_nm, unit)} ${unitName[unit]}`
    case 'pinion':
      return `pinion ${taken.pinion}: ${show(taken.play_nm, unit)}`
    case 'tooth':
      return `place ${taken.place}: ${show(taken.play_nm, unit)}${taken.moved_nm === 0 ? '' : `, moved by ${showStated(taken.moved_nm, unit)}`}`
    case 'gaps':
      return `${names?.[taken.gear - 1]?.name ?? `gear ${taken.gear}`}: ${show(taken.left_nm, unit)} | ${show(taken.right_nm, unit)}`
    case 'answer':
      return answerName[taken.answer].toLowerCase()
    case 'by_hand':
      return taken.from_nm === taken.to_nm
        ? `about ${show(taken.from_nm, unit)}`
        : `${show(taken.from_nm, unit)} to ${show(taken.to_nm, unit)}`
  }
}

const tilt = (t: { tilt_deg?: number; pull_n?: number | null; turned?: number | null }) =>
  [
    t.turned != null ? ` at ${t.turned * 90}°` : '',
    t.tilt_deg ? `, tilted ${t.tilt_deg}°` : '',
    t.pull_n ? `, pulled ${t.pull_n.toFixed(0)} N` : '',
  ].join('')

/** The window of a turning torque in words. */
export const torqueWindow = (w: Schemas['TorqueEnds'] | null | undefined) =>
  w?.low_n_m == null
    ? `up to ${w?.high_n_m ?? '?'} N·m`
    : w.high_n_m == null
      ? `${w.low_n_m} N·m or more`
      : `${w.low_n_m} to ${w.high_n_m} N·m`

/** What was typed for a reading, in a line; empty where nothing was. */
export const entryOf = (entry: Schemas['ReadingInput']): string => {
  switch (entry.kind) {
    case 'travel':
      return entry.travel.trim()
    case 'pair':
      return [entry.home.trim(), entry.out.trim()].filter(Boolean).join(' to ')
    case 'leaf':
      return entry.leaves.trim()
    case 'depth':
      return entry.depth.trim()
    case 'term':
      return entry.length.trim()
    case 'known_shim':
      return entry.float.trim() && `${entry.shim.trim() || 'none'} in, float ${entry.float.trim()}`
    case 'torque':
      return entry.torque.trim()
    case 'pull':
      return entry.force.trim()
    case 'pinion':
      return entry.play.trim()
    case 'tooth':
      return entry.play.trim()
    case 'gaps':
      return [entry.left.trim(), entry.right.trim()].filter(Boolean).join(' and ')
    case 'answer':
      return entry.answer
    case 'by_hand':
      return [entry.from.trim(), (entry.to ?? '').trim()].filter(Boolean).join(' to ')
  }
}
