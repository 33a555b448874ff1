// Which builds of a box have what is on its sheet.
import type { Sheet } from './draft'

/** What may be in some builds and not in others. */
export interface Scoped {
  only_in?: string[]
  not_in?: string[]
}

export const builds = (sheet: Sheet) => sheet.variants ?? []

export const scoped = (thing: Scoped) => Boolean(thing.only_in?.length || thing.not_in?.length)

export const hasIt = (thing: Scoped, build: string) =>
  (!thing.only_in?.length || thing.only_in.includes(build)) && !thing.not_in?.includes(build)

/** The thing as these builds alone have it; in all of them it says nothing of builds. */
export function withScope<T extends Scoped>(sheet: Sheet, thing: T, keys: string[]): T {
  const plain = { ...thing }
  delete plain.only_in
  delete plain.not_in
  return keys.length === builds(sheet).length ? plain : { ...plain, only_in: keys }
}

interface Place {
  thing: Scoped
  /** Its place in the sheet. */
  of: string
  /** What it is: a part, a step. */
  what: string
  name: string
}

/** All that may be in some builds and not in others. */
export function scopedPlaces(sheet: Sheet): Place[] {
  const list = <T extends Scoped>(
    of: string,
    what: string,
    things: T[] | undefined,
    name: (thing: T) => string,
  ) =>
    (things ?? []).map((thing, i) => ({
      thing,
      of: `${of}/${i}`,
      what,
      name: name(thing) || '(no name yet)',
    }))
  return [
    ...sheet.shafts.flatMap((s, i) =>
      list(`/shafts/${i}/parts`, `part, ${s.name.toLowerCase()}`, s.parts, (p) =>
        p.teeth == null ? p.name : `${p.name}, ${p.teeth} teeth`,
      ),
    ),
    ...list('/items', 'part', sheet.items, (i) => i.name),
    ...list('/checks', 'check', sheet.checks, (c) => c.name),
    ...list('/families', 'pieces', sheet.families, (f) => f.name),
    ...list('/packs', 'pack', sheet.packs, (p) =>
      p.frictions == null ? p.name : `${p.name}, ${p.frictions} frictions`,
    ),
    ...list('/gears', 'gear', sheet.gears, (g) => g.name),
    ...list('/build', 'step', sheet.build, (s) => s.what),
  ]
}
