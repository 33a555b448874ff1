// What the person at the bench has chosen: unit, initials, theme. Kept in the browser.
import { createContext, useContext } from 'react'
import type { Unit } from './schema'

export type Theme = 'light' | 'dark'

export interface BenchState {
  unit: Unit
  setUnit: (unit: Unit) => void
  who: string
  setWho: (who: string) => void
  theme: Theme
  setTheme: (theme: Theme) => void
}

export const Bench = createContext<BenchState | null>(null)

export function useBench(): BenchState {
  const bench = useContext(Bench)
  if (!bench) throw new Error('used outside the bench')
  return bench
}

export const kept = (name: string) => {
  try {
    return localStorage.getItem(`dry-anvil.${name}`)
  } catch {
    return null
  }
}

/** What was kept under a name as JSON; none where there is nothing, or what cannot be read. */
export function keptJson(name: string): unknown {
  try {
    return JSON.parse(kept(name) ?? 'null')
  } catch {
    return null
  }
}

export const forget = (name: string) => {
  try {
    localStorage.removeItem(`dry-anvil.${name}`)
  } catch {
    // Nothing was kept.
  }
}

/** The names of what is kept that begin so, in their order. */
export const keptNames = (start: string) => {
  try {
    const names = Object.keys(localStorage).filter((name) => name.startsWith(`dry-anvil.${start}`))
    return names.map((name) => name.slice('dry-anvil.'.length)).sort()
  } catch {
    return []
  }
}

export const keep = (name: string, value: string) => {
  try {
    localStorage.setItem(`dry-anvil.${name}`, value)
  } catch {
    // A browser that keeps nothing still works; it only asks again next time.
  }
}
