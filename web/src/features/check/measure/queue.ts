// The queue of readings of one check, on the screen. A reading that is saved within the blink of an eye is drawn
// once: the answer and the list of what waits change together.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { answer, outOfReach, server, writeKey, type Refused } from '../../../api/client'
import type { CheckView, Schemas } from '../../../domain/schema'
import { keep, kept } from '../../../domain/session'
import { ReadingQueue, type Waiting } from './reading-queue'

export type Reading = Schemas['ReadingIn']

const AGAIN_MS = 1500
const BOX_LATER_MS = 400
/** What is saved sooner than this is not shown as waiting: the screen is drawn once, not twice. */
const SHOWN_AFTER_MS = 60

function left(name: string): Waiting<Reading>[] {
  try {
    const list = JSON.parse(kept(name) ?? '[]') as Waiting<Reading>[]
    return list.filter((w) => typeof w.reading === 'object')
  } catch {
    return []
  }
}

export function useReadingQueue(
  jobNo: number,
  checkKey: string,
  onRefused: (reading: Reading, error: Refused) => void,
) {
  const client = useQueryClient()
  const name = `waiting.${jobNo}.${checkKey}`
  const [shown, setShown] = useState(() => ({ waiting: left(name), unreachable: false }))
  const [queue] = useState(() => {
    let boxLater: ReturnType<typeof setTimeout> | undefined
    let showLater: ReturnType<typeof setTimeout> | undefined
    let before = shown.waiting.length
    const made: ReadingQueue<Reading, CheckView> = new ReadingQueue<Reading, CheckView>(shown.waiting, {
      send: ({ key, reading }) =>
        answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/readings', {
            params: { path: { job_no: jobNo, check_key: checkKey }, header: { 'Idempotency-Key': key } },
            body: reading,
          }),
        ),
      isOutOfReach: outOfReach,
      keep: (waiting) => keep(name, JSON.stringify(waiting)),
      onKept: (fresh) => {
        client.setQueryData(['check', jobNo, checkKey], fresh)
        // The box is asked for again once the readings pause.
        clearTimeout(boxLater)
        boxLater = setTimeout(() => void client.invalidateQueries({ queryKey: ['job', jobNo] }), BOX_LATER_MS)
      },
      onChange: () => {
        const show = () => setShown({ waiting: made.waiting, unreachable: made.unreachable })
        const grown = made.waiting.length > before
        before = made.waiting.length
        clearTimeout(showLater)
        if (grown) showLater = setTimeout(show, SHOWN_AFTER_MS)
        else show()
      },
      pause: () => new Promise((done) => setTimeout(done, AGAIN_MS)),
    })
    return made
  })
  useEffect(() => {
    queue.refusalsGoTo((reading, error) => onRefused(reading, error as Refused))
  })
  useEffect(() => {
    // What was left waiting when the screen was last closed goes first.
    const start = setTimeout(() => void queue.run(), 0)
    return () => {
      clearTimeout(start)
      queue.stop()
    }
  }, [queue])
  return { ...shown, add: (reading: Reading) => queue.add({ key: writeKey(), reading }) }
}
