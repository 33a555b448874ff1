// What of one check waits for the server, on the screen. What is saved within the blink of an eye is drawn once: the
// answer and the list of what waits change together.
import { useEffect, useState } from 'react'
import { outbox, type Write } from '../../../api/outbox'
import type { Problem } from '../../../domain/schema'

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
      const grown = fresh.waiting.length > before && fresh.waiting.at(-1)?.write.body.entry !== undefined
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
