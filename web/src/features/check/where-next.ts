// After a press the focus is where the work goes on.
import { useEffect } from 'react'
import type { CheckAct } from '../../api/acts'
import type { Acting } from './acting'
import type { CheckView, Schemas } from '../../domain/schema'
import { focusOn } from '../../ui/focus'

/** What a phase waits for, as it is marked where it stands. */
const WORK: Record<Schemas['Phase'], string> = {
  measure: 'take',
  measure_again: 'take',
  choose: 'choose',
  await_part: 'await',
  fit: 'fit',
  sign: 'sign',
  signed: 'next',
  elsewhere: 'next',
}

/** Acts after which the next figure is waited for, whatever the phase. */
const TAKES_FIGURES: CheckAct['act'][] = ['lay', 'reopen', 'fit', 'ground', 'way']
/** Acts that are one of a row: the next of the row has the focus already. */
const STAYS: CheckAct['act'][] = ['usual']

/** What is marked as the work there: the mark itself where it can have the focus, else the first in it that can. */
function marked(work: string): HTMLElement | null {
  const mark = document.querySelector<HTMLElement>(`main [data-work="${work}"]`)
  if (mark?.tagName !== 'FORM') return mark
  return mark.querySelector<HTMLElement>('input, select, button')
}

export function goOn(act: CheckAct['act'], check: CheckView) {
  if (STAYS.includes(act)) return
  const figures = TAKES_FIGURES.includes(act) ? marked('take') : null
  const to = figures ?? marked(WORK[check.phase])
  if (to) focusOn(to)
}

/** Puts the focus where the work goes on, once what was done is drawn. */
export function useFocusAfter({ data, variables }: Acting) {
  useEffect(() => {
    if (!data || typeof data === 'string' || data.on.of !== 'check' || !variables) return
    const { view } = data.on
    const drawn = requestAnimationFrame(() => goOn(variables.act, view))
    return () => cancelAnimationFrame(drawn)
    // Once for each thing done.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data])
}
