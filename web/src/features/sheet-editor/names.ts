// What the things of a sheet are called where they are chosen.
import {
  answerName,
  boxName,
  faceName,
  itemName,
  kindName,
  materialName,
  methodName,
  partName,
  symptomName,
  waitName,
} from '../../domain/labels'
import type { Sheet } from './draft'
import { inSentence } from '../../domain/words'

type Options<K extends string> = readonly (readonly [K, string])[]
const options = <K extends string>(of: Record<K, string>) => Object.entries(of) as unknown as Options<K>

export const PART_KINDS = options(partName)
export const MATERIALS = options(materialName)
export const METHODS = options(methodName)
export const ANSWERS = options(answerName)
export const CHECK_KINDS = options(kindName)
export const BOX_KINDS = options(boxName)
export const FACES = options(faceName)
export const ITEM_KINDS = options(itemName)
export const SYMPTOMS = options(symptomName)
export const WAIT_KINDS = options(waitName)
export const STAGES = [
  ['seat', 'until it seats'],
  ['torque', 'to a torque'],
  ['back_off', 'back by an angle'],
  ['angle', 'further by an angle'],
] as const
export const TURNINGS = [
  ['clockwise', 'clockwise'],
  ['anticlockwise', 'anticlockwise'],
] as const
export const HANDS = [
  ['left', 'as a left-hand thread'],
  ['right', 'as a right-hand thread'],
] as const
export const TOWARDS = [
  ['left', 'to the left'],
  ['right', 'to the right'],
  ['up', 'up'],
  ['out', 'outward'],
  ['in', 'inward'],
  ['load', 'to the load'],
] as const
export const UNITS = [
  ['mm', 'mm'],
  ['um', 'µm'],
  ['thou', 'thou'],
  ['in', 'in'],
] as const

const called = (thing: { key: string; name: string }) => thing.name || '(no name yet)'

export const checkOptions = (sheet: Sheet, but?: string) =>
  sheet.checks.filter((c) => c.key !== but).map((c) => [c.key, called(c)] as const)

export const familyOptions = (sheet: Sheet) => (sheet.families ?? []).map((f) => [f.key, called(f)] as const)

export const partOptions = (sheet: Sheet) =>
  sheet.shafts.flatMap((s) => s.parts.map((p) => [p.key, `${called(p)}, ${inSentence(called(s))}`] as const))

export const EFFECT = [
  ['1', 'closes the gap'],
  ['-1', 'opens the gap'],
] as const

/** The parts on the rails, and those off them. */
export const allParts = (sheet: Sheet) =>
  // A key that several builds use each for their own is there once.
  [
    ...new Map(
      [...sheet.shafts.flatMap((s) => s.parts), ...(sheet.items ?? [])].map(
        (p) => [p.key, called(p)] as const,
      ),
    ),
  ]

/** The parts that have teeth. */
export const toothedParts = (sheet: Sheet) =>
  sheet.shafts.flatMap((s) => s.parts.filter((p) => p.teeth != null).map((p) => [p.key, called(p)] as const))
