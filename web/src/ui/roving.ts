// One stop of Tab for many presses beside one another: the arrow keys go from one to the next.
import { useState, type FocusEvent, type KeyboardEvent } from 'react'

/** How far each key goes, given how many stand in a row. */
const steps: Record<string, (row: number, all: number) => number> = {
  ArrowLeft: () => -1,
  ArrowRight: () => 1,
  ArrowUp: (row) => -row,
  ArrowDown: (row) => row,
  Home: (_, all) => -all,
  End: (_, all) => all,
}

const buttonsOf = (list: HTMLElement) => [...list.querySelectorAll<HTMLElement>('button')]

/** How many stand in the first row. */
const rowOf = (all: HTMLElement[]) =>
  Math.max(
    1,
    all.findIndex((b) => b.getBoundingClientRect().top > (all[0]?.getBoundingClientRect().top ?? 0) + 1),
  )

export function useRoving() {
  const [at, setAt] = useState(0)
  return {
    /** Of the list. */
    list: {
      onFocus: (e: FocusEvent<HTMLElement>) => {
        const i = buttonsOf(e.currentTarget).indexOf(e.target)
        if (i >= 0) setAt(i)
      },
      onKeyDown: (e: KeyboardEvent<HTMLElement>) => {
        const step = steps[e.key]
        if (!step || e.ctrlKey || e.metaKey || e.altKey) return
        const all = buttonsOf(e.currentTarget)
        const from = all.indexOf(document.activeElement as HTMLElement)
        if (from < 0) return
        const to = from + step(rowOf(all), all.length)
        const far = e.key === 'Home' || e.key === 'End'
        const next = all[far ? Math.min(Math.max(to, 0), all.length - 1) : to]
        e.preventDefault()
        next?.focus()
      },
    },
    /** Of the press that comes as the i-th of so many. */
    tabIndex: (i: number, all: number) => (i === Math.min(at, all - 1) ? 0 : -1),
  }
}
