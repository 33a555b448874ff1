// A bench to draw things at, and what the server would have sent.
import { render, type RenderResult } from '@testing-library/react'
import type { ReactElement } from 'react'
import type { CheckView, Schemas, Unit } from '../src/domain/schema'
import { Bench } from '../src/domain/session'

const nothing = () => {}

/** Draws at a bench that works in a unit. */
export function atBench(what: ReactElement, unit: Unit = 'mm'): RenderResult {
  const state = {
    unit,
    setUnit: nothing,
    who: 'ab',
    setWho: nothing,
    theme: 'light' as const,
    setTheme: nothing,
  }
  return render(<Bench.Provider value={state}>{what}</Bench.Provider>)
}

/** A check of an end float from 0.10 to 0.30 mm, with nothing taken yet; `own` takes the place of what differs. */
export function checkOf(own: Partial<CheckView> = {}): CheckView {
  const blank: Partial<CheckView> = {
    job_no: 1,
    check_key: 'float',
    name: 'Input float',
    kind: 'end_float',
    round: 0,
    readings: [],
    ways: [],
    terms: [],
    adjustments: [],
    window: { low_nm: 100_000, high_nm: 300_000 },
    ...own,
  }
  return blank as CheckView
}

/** A reading as the server shows it. */
export const readingOf = (taken: Schemas['Reading'], own: Partial<Schemas['ReadingView']> = {}) =>
  ({ round: 0, struck: false, taken, ...own }) as Schemas['ReadingView']
