// Readings on their way to the server: sent one after another, kept in the browser until the server
// has said that it has them, sent again with the same key when the answer was lost.
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { answer, outOfReach, Refused, server, writeKey, type Unit } from '../api/client'
import { keep, kept } from '../ui/bench-state'

export interface Waiting {
  key: string
  typed: string
  unit: Unit
  who: string
}

const AGAIN_MS = 1500

export function useReadingQueue(
  jobNo: number,
  checkKey: string,
  onRefused: (typed: string, error: Refused) => void,
) {
  const client = useQueryClient()
  const name = `waiting.${jobNo}.${checkKey}`
  const [waiting, setWaiting] = useState<Waiting[]>(() => {
    try {
      return JSON.parse(kept(name) ?? '[]') as Waiting[]
    } catch {
      return []
    }
  })
  const [unreachable, setUnreachable] = useState(false)
  const list = useRef(waiting)
  const busy = useRef(false)
  const alive = useRef(true)
  const refused = useRef(onRefused)
  useEffect(() => {
    refused.current = onRefused
  })

  const store = useCallback(
    (next: Waiting[]) => {
      list.current = next
      keep(name, JSON.stringify(next))
      if (alive.current) setWaiting(next)
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
            body: { typed: first.typed, unit: first.unit, who: first.who },
          }),
        )
        store(list.current.slice(1))
        setUnreachable(false)
        client.setQueryData(['gap', jobNo, checkKey], fresh)
        void client.invalidateQueries({ queryKey: ['job', jobNo] })
      } catch (error) {
        if (outOfReach(error)) {
          setUnreachable(true)
          await new Promise((done) => setTimeout(done, AGAIN_MS))
        } else {
          store(list.current.slice(1))
          setUnreachable(false)
          refused.current(first.typed, error as Refused)
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

  const add = (typed: string, unit: Unit, who: string) => {
    store([...list.current, { key: writeKey(), typed, unit, who }])
    void send()
  }
  return { waiting, unreachable, add }
}
