// What the things of a sheet are called where they are chosen.
import type { Schemas } from '../../api/client'
import { boxName, kindName } from '../../ui/words'
import type { Sheet } from './draft'

type Options<K extends string> = readonly (readonly [K, string])[]
const options = <K extends string>(of: Record<K, string>) => Object.entries(of) as unknown as Options<K>

export const partName: Record<Schemas['PartKind'], string> = {
  bearing: 'bearing',
  taper_bearing: 'taper bearing',
  needle_bearing: 'needle bearing',
  gear: 'gear',
  hub: 'hub',
  sleeve: 'sleeve',
  washer: 'washer',
  shim: 'shim',
  snap_ring: 'snap ring',
  spacer: 'spacer',
  thrust_plate: 'thrust plate',
  pressure_plate: 'pressure plate',
  friction: 'friction',
  steel: 'steel',
  wave_plate: 'wave plate',
  drum: 'drum',
  planet: 'planet gear',
  diff_case: 'differential case',
  seal: 'seal',
  retainer: 'retainer',
  housing: 'housing',
  collar: 'collar',
}

export const materialName: Record<Schemas['Material'], string> = {
  steel: 'steel',
  cast_iron: 'cast iron',
  aluminium: 'aluminium',
  magnesium: 'magnesium',
  bronze: 'bronze',
}

export const wayName: Record<Schemas['Way'], string> = {
  dial_travel: 'dial travel',
  feeler: 'feeler',
  depth_from_bar: 'depth from a bar',
  stack_sum: 'stack sum',
  no_shim: 'no shim at all',
  known_shim: 'known shim',
  turning_torque: 'turning torque',
  one_by_one: 'pinions, one by one',
  selector_gaps: 'selector gaps',
  by_hand: 'by hand',
}

export const PART_KINDS = options(partName)
export const MATERIALS = options(materialName)
export const WAYS = options(wayName)
export const CHECK_KINDS = options(kindName)
export const BOX_KINDS = options(boxName)
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
  sheet.shafts.flatMap((s) =>
    s.parts.map((p) => [p.key, `${called(p)}, ${called(s).toLowerCase()}`] as const),
  )

export const EFFECT = [
  ['1', 'closes the gap'],
  ['-1', 'opens the gap'],
] as const
