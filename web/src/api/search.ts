// A search that is asked for and comes back a line at a time: how far it is, and at last the result.
import { useCallback, useEffect, useRef, useState } from 'react'
import type { Problem, Schemas } from '../domain/schema'
import { lost, Refused } from './client'
import { sorted } from './left-out'

type Told<P> = { waiting: Schemas['ShareWaiting'] } | { progress: P } | { problem: Problem }

const send = sorted((request) => fetch(request))

async function* lines(body: ReadableStream<Uint8Array>) {
  const reader = body.getReader()
  const text = new TextDecoder()
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return
    const parts = (rest + text.decode(value, { stream: true })).split('\n')
    rest = parts.pop() ?? ''
    for (const part of parts) yield JSON.parse(part) as unknown
  }
}

const refusal = async (response: Response) => {
  try {
    return new Refused((await response.json()) as Problem)
  } catch {
    return new Refused({ ...lost, status: response.status })
  }
}

export interface Search<P, V> {
  running: boolean
  /** How many searches of others are before it, while it waits for its turn. */
  before: number | null
  progress: P | null
  view: V | null
  error: Refused | null
  again: (seconds?: number) => void
  stop: () => void
}

/** Searches whenever what is asked changes, and when asked again; the result stands under `result`. */
export function useSearch<P, V>(path: string, asked: object, result: string): Search<P, V> {
  const [state, setState] = useState<Omit<Search<P, V>, 'again' | 'stop'>>({
    running: true,
    before: null,
    progress: null,
    view: null,
    error: null,
  })
  const call = useRef<AbortController>(undefined)
  const body = JSON.stringify(asked)
  const again = useCallback(
    async (seconds?: number) => {
      call.current?.abort()
      const mine = new AbortController()
      call.current = mine
      const set = (change: Partial<typeof state>) => {
        if (call.current === mine) setState((was) => ({ ...was, ...change }))
      }
      set({ running: true, before: null, progress: null, error: null })
      try {
        const request = new Request(new URL(path, location.href), {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ ...(JSON.parse(body) as object), seconds }),
          signal: mine.signal,
        })
        const response = await send(request)
        if (!response.ok || !response.body) throw await refusal(response)
        for await (const line of lines(response.body)) {
          const told = line as Told<P>
          if ('waiting' in told) set({ before: told.waiting.before })
          else if ('progress' in told) set({ before: null, progress: told.progress })
          else if ('problem' in told) throw new Refused(told.problem)
          else set({ view: (line as Record<string, V>)[result] ?? null })
        }
        set({ running: false })
      } catch (error) {
        if (mine.signal.aborted) return
        set({ running: false, error: error instanceof Refused ? error : new Refused(lost) })
      }
    },
    [path, body, result],
  )
  useEffect(() => {
    // The first asking is put off by nothing but the drawing of the screen.
    const start = setTimeout(() => void again(), 0)
    return () => {
      clearTimeout(start)
      call.current?.abort()
    }
  }, [again])
  const stop = () => {
    call.current?.abort()
    setState((was) => ({ ...was, running: false, before: null, progress: null }))
  }
  return { ...state, again: (seconds) => void again(seconds), stop }
}
