// Readings on their way to the server: sent one after another, kept in the browser until the server
// has said that it has them, sent again with the same key when the answer was lost.
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { answer, outOfReach, Refused, server, writeKey } from '../../../api/client'
import type { Schemas } from '../../../domain/schema'
import { keep, kept } from '../../../domain/session'

export type Reading = Schemas['ReadingIn']

export interface Waiting {
  key: string
  reading: Reading
}

const AGAIN_MS = 1500
const BOX_LATER_MS = 400
/** What is saved sooner than this is not shown as waiting: the screen is drawn once, not twice. */
const SHOWN_AFTER_MS = 60

export function useReadingQueue(
  jobNo: number,
  checkKey: string,
  onRefused: (reading: Reading, error: Refused) => void,
) {
  const client = useQueryClient()
  const name = `waiting.${jobNo}.${checkKey}`
  const [waiting, setWaiting] = useState<Waiting[]>(() => {
    try {
      const list = JSON.parse(kept(name) ?? '[]') as Waiting[]
      return list.filter((w) => typeof w.reading === 'object')
    } catch {
      return []
    }
  })
  const [unreachable, setUnreachable] = useState(false)
  const list = useRef(waiting)
  const busy = useRef(false)
  const alive = useRef(true)
  const boxLater = useRef<ReturnType<typeof setTimeout>>(undefined)
  const showLater = useRef<ReturnType<typeof setTimeout>>(undefined)
  const refused = useRef(onRefused)
  useEffect(() => {
    refused.current = onRefused
  })

  const store = useCallback(
    (next: Waiting[]) => {
      const grown = next.length > list.current.length
      list.current = next
      keep(name, JSON.stringify(next))
      clearTimeout(showLater.current)
      const show = () => {
        if (alive.current) setWaiting((shown) => (shown.length || list.current.length ? list.current : shown))
      }
      if (grown) showLater.current = setTimeout(show, SHOWN_AFTER_MS)
      else show()
    },
    [name],
  )

  const send = useCallback(async () => {
    if (busy.current) return
    busy.current = true
    while (alive.current && list.current[0]) {
      const first = list.current[0]
      try {
        const fresh = await answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/readings', {
            params: {
              path: { job_no: jobNo, check_key: checkKey },
              header: { 'Idempotency-Key': first.key },
            },
            body: first.reading,
          }),
        )
        // The verdict first, and with what waited taken off in the same drawing.
        client.setQueryData(['gap', jobNo, checkKey], fresh)
        store(list.current.slice(1))
        setUnreachable(false)
        // The box is asked for again once the readings pause.
        clearTimeout(boxLater.current)
        boxLater.current = setTimeout(
          () => void client.invalidateQueries({ queryKey: ['job', jobNo] }),
          BOX_LATER_MS,
        )
      } catch (error) {
        if (outOfReach(error)) {
          setUnreachable(true)
          await new Promise((done) => setTimeout(done, AGAIN_MS))
        } else {
          store(list.current.slice(1))
          setUnreachable(false)
          refused.current(first.reading, error as Refused)
        }
      }
    }
    busy.current = false
  }, [checkKey, client, jobNo, store])

  useEffect(() => {
    alive.current = true
    // What was left waiting when the screen was last closed goes first.
    const start = setTimeout(() => void send(), 0)
    return () => {
      alive.current = false
      clearTimeout(start)
    }
  }, [send])

  const add = (reading: Reading) => {
    store([...list.current, { key: writeKey(), reading }])
    void send()
  }
  return { waiting, unreachable, add }
}
