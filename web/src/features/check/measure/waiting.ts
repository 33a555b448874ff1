// What of one check waits for the server, on the screen. What is saved within the blink of an eye is drawn once: the
// answer and the list of what waits change together.
import { useEffect, useState } from 'react'
import { actOf } from '../../../api/acts'
import { outbox, type Write } from '../../../api/outbox'
import type { ReadingInput } from '../../../domain/readings'
import type { Problem } from '../../../domain/schema'

/** What a write does to the check, where it is of one. */
export function didOf(write: Write | undefined) {
  const act = write && actOf(write)
  return act?.of === 'check' ? act.did : undefined
}

/** What was typed, where it is a reading that waits. */
export function readingIn(write: Write | undefined): ReadingInput | undefined {
  const did = didOf(write)
  return did?.act === 'read' ? did.entry : undefined
}

/** What is saved sooner than this is not shown as waiting: the screen is drawn once, not twice. */
const SHOWN_AFTER_MS = 60

export function useWaiting(
  job: number,
  check: string,
  /** Takes up what the server refuses; `false` where it cannot. */
  onRefused: (write: Write, problem: Problem) => boolean,
) {
  const mine = () => {
    const { waiting, unreachable } = outbox.now()
    return { waiting: waiting.filter((w) => w.write.job === job && w.write.check === check), unreachable }
  }
  const [shown, setShown] = useState(mine)
  useEffect(() => {
    let later: ReturnType<typeof setTimeout> | undefined
    let before = mine().waiting.length
    const look = () => {
      const fresh = mine()
      // Only a figure is drawn as a line of its own until it is saved.
      const grown = fresh.waiting.length > before && readingIn(fresh.waiting.at(-1)?.write) !== undefined
      before = fresh.waiting.length
      clearTimeout(later)
      if (grown) later = setTimeout(() => setShown(mine()), SHOWN_AFTER_MS)
      else setShown(fresh)
    }
    const end = outbox.onChange(look)
    return () => {
      clearTimeout(later)
      end()
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [job, check])
  useEffect(() => outbox.refusalsGoTo({ job, check }, onRefused))
  return shown
}
