// A sheet being written, as it is in its file. Places in it are JSON Pointers, the same that its faults name.
import { produce } from 'immer'
import type { Schemas } from '../../domain/schema'

export type Sheet = Schemas['sheet.Sheet']
export type Json = string | number | boolean | Json[] | { [field: string]: Json }

const tokens = (pointer: string) => pointer.split('/').slice(1)

/** What stands at a place; nothing where there is none. */
export function at(draft: unknown, pointer: string): unknown {
  let here = draft
  for (const token of tokens(pointer)) {
    if (here === null || typeof here !== 'object') return undefined
    here = (here as Record<string, unknown>)[token]
  }
  return here
}

/** The draft with something else at a place; without it where nothing is given. What else there is stays
    the very same, so that only what changed is drawn again. */
export function put<T extends object>(draft: T, pointer: string, value: unknown): T {
  const path = tokens(pointer)
  const last = path.pop()
  if (last === undefined) return value as T
  return produce(draft, (root) => {
    let here = root as Branch
    for (const token of path) here = (here[token] ??= {}) as Branch
    if (value === undefined && !Array.isArray(here)) delete here[last]
    else here[last] = value
    const above = path.slice(0, -1).reduce((at, token) => at[token] as Branch, root as Branch)
    const own = path.at(-1)
    if (own !== undefined && LIMITS.has(own) && Object.keys(here).length === 0) delete above[own]
  })
}

/** A list or a group of fields, while it is written in. */
type Branch = Record<string, unknown>

/** Pairs of limits: with neither, there is no such pair. */
const LIMITS = new Set(['window', 'shop_window', 'torque'])

/** A new key that no name gave yet. */
const NEW = 'new-'

export const freshKey = (draft: unknown) => {
  const used = new Set(keysIn(draft))
  let n = 1
  while (used.has(NEW + n)) n += 1
  return NEW + n
}

function keysIn(value: unknown): string[] {
  if (Array.isArray(value)) return value.flatMap(keysIn)
  if (value === null || typeof value !== 'object') return []
  return Object.entries(value).flatMap(([field, v]) =>
    field === 'key' && typeof v === 'string' ? [v] : keysIn(v),
  )
}

/** A name as a key: small letters, digits, hyphens. */
export const slug = (name: string) =>
  name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 34)
    .replace(/-+$/, '')

/** The draft with a key made from the name of the thing at a place, where it has none of its own yet;
    whatever names it by the old one follows. */
export function named(draft: Sheet, pointer: string): Sheet {
  const thing = at(draft, pointer) as { key?: string; name?: string; what?: string; ask?: string } | undefined
  const words = slug(thing?.name ?? thing?.what ?? thing?.ask ?? '')
  if (!words || (thing?.key !== '' && !thing?.key?.startsWith(NEW))) return draft
  const used = new Set(keysIn(draft))
  let key = words
  for (let n = 2; used.has(key); n += 1) key = `${words}-${n}`
  // Nothing can name it by a key that it has not.
  if (thing.key === '') return put(draft, `${pointer}/key`, key)
  return replaced(draft, thing.key, key) as Sheet
}

function replaced(value: unknown, from: string, to: string): unknown {
  if (value === from) return to
  if (Array.isArray(value)) {
    const items = value.map((v) => replaced(v, from, to))
    return items.some((v, i) => v !== value[i]) ? items : value
  }
  if (value === null || typeof value !== 'object') return value
  const fields = Object.entries(value).map(([f, v]) => [f, replaced(v, from, to)] as const)
  return fields.some(([f, v]) => v !== (value as Record<string, unknown>)[f])
    ? Object.fromEntries(fields)
    : value
}

/** A figure without a unit is in the unit of the sheet. */
export const withUnit = (text: string, unit: string) =>
  /^[-−]?[\d.,/ ]*\d[ .,]*$/.test(text.trim()) ? `${text.trim()} ${unit}` : text.trim()

export const unitSign: Record<Sheet['unit'], string> = { in: 'in', thou: 'thou', mm: 'mm', um: 'µm' }

/** A sheet with nothing on it yet but one shaft. */
export const blank = (): Sheet => ({
  format: 'dry-anvil-sheet',
  version: 1,
  key: '',
  name: '',
  kind: 'manual',
  unit: 'mm',
  shafts: [{ key: 'main', name: 'Main shaft', parts: [] }],
  families: [],
  checks: [],
  packs: [],
  build: [],
})

/** A copy to start another from: it keeps the drawers, which sheets share by their keys. */
export const copied = (sheet: Sheet): Sheet => ({ ...sheet, key: '', name: `${sheet.name}, copy` })
