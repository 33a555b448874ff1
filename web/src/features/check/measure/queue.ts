// The queue of readings of one check, on the screen. A reading that is saved within the blink of an eye is drawn
// once: the answer and the list of what waits change together.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { answer, notRefused, server, writeKey, type Refused } from '../../../api/client'
import type { CheckView, Schemas } from '../../../domain/schema'
import { forget, keep, kept, keptNames } from '../../../domain/session'
import { ReadingQueue, type Waiting } from './reading-queue'

export type Reading = Schemas['ReadingIn']

const AGAIN_MS = 1500
const BOX_LATER_MS = 400
/** What is saved sooner than this is not shown as waiting: the screen is drawn once, not twice. */
const SHOWN_AFTER_MS = 60

/** What waits of one check: each by itself, so that two windows do not write over each other's. */
function store(name: string) {
  // Where the browser keeps nothing, what waits is in this window only.
  const own = new Map<string, Waiting<Reading>>()
  const read = (at: string): Waiting<Reading>[] => {
    try {
      const one = JSON.parse(kept(at) ?? 'null') as Waiting<Reading> | null
      return one && typeof one.reading === 'object' ? [one] : []
    } catch {
      return []
    }
  }
  const places = () => keptNames(`${name}.`)
  return {
    list: () => {
      const list = places().flatMap(read)
      const there = new Set(list.map((w) => w.key))
      return [...list, ...[...own.values()].filter((w) => !there.has(w.key))]
    },
    keep: (one: Waiting<Reading>) => {
      const at = `${name}.${String(Date.now()).padStart(14, '0')}.${one.key}`
      keep(at, JSON.stringify(one))
      if (kept(at) === null) own.set(one.key, one)
    },
    drop: (key: string) => {
      own.delete(key)
      for (const at of places().filter((place) => place.endsWith(`.${key}`))) forget(at)
    },
  }
}

/** Alone among the windows of this browser, where it can tell. */
const aloneAs =
  (name: string) =>
  async (work: () => Promise<void>): Promise<void> => {
    if ('locks' in navigator) await navigator.locks.request(`dry-anvil.${name}`, work)
    else await work()
  }

export function useReadingQueue(
  jobNo: number,
  checkKey: string,
  onRefused: (reading: Reading, error: Refused) => void,
) {
  const client = useQueryClient()
  const name = `waiting.${jobNo}.${checkKey}`
  const [waits] = useState(() => store(name))
  const [shown, setShown] = useState(() => ({ waiting: waits.list(), unreachable: false }))
  const [queue] = useState(() => {
    let boxLater: ReturnType<typeof setTimeout> | undefined
    let showLater: ReturnType<typeof setTimeout> | undefined
    let before = shown.waiting.length
    const made: ReadingQueue<Reading, CheckView> = new ReadingQueue<Reading, CheckView>({
      ...waits,
      alone: aloneAs(name),
      send: ({ key, reading }) =>
        answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/readings', {
            params: { path: { job_no: jobNo, check_key: checkKey }, header: { 'Idempotency-Key': key } },
            body: reading,
          }),
        ),
      isOutOfReach: notRefused,
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
    // Another window has typed or sent.
    const other = (event: StorageEvent) => {
      if (event.key?.startsWith(`dry-anvil.${name}.`)) {
        setShown((was) => ({ ...was, waiting: waits.list() }))
        // Sent there, it is on the record that this window has not seen.
        if (event.newValue === null) void client.invalidateQueries({ queryKey: ['check', jobNo, checkKey] })
        void queue.run()
      }
    }
    addEventListener('storage', other)
    return () => {
      removeEventListener('storage', other)
      clearTimeout(start)
      queue.stop()
    }
  }, [queue, name, waits, client, jobNo, checkKey])
  return { ...shown, add: (reading: Reading) => queue.add({ key: writeKey(), reading }) }
}
