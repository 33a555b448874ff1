// Sharing out is asked for and comes back a line at a time: how far it is, and at last the result.
import { useCallback, useEffect, useRef, useState } from 'react'
import { lost, Refused } from '../../api/client'
import type { Problem, Schemas } from '../../domain/schema'

type Told = Schemas['ShareTold']

async function* lines(body: ReadableStream<Uint8Array>) {
  const reader = body.getReader()
  const text = new TextDecoder()
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return
    const parts = (rest + text.decode(value, { stream: true })).split('\n')
    rest = parts.pop() ?? ''
    for (const part of parts) yield JSON.parse(part) as Told
  }
}

const refusal = async (response: Response) => {
  try {
    return new Refused((await response.json()) as Problem)
  } catch {
    return new Refused({ ...lost, status: response.status })
  }
}

export interface Share {
  running: boolean
  /** How many searches of others are before it, while it waits for its turn. */
  before: number | null
  progress: Schemas['ShareProgress'] | null
  view: Schemas['AllocationView'] | null
  error: Refused | null
  again: (seconds?: number) => void
  stop: () => void
}

/** Shares out whenever what is pinned changes, and when asked again. */
export function useShare(jobNo: number | undefined, pinned: Schemas['Pin'][]): Share {
  const [state, setState] = useState<Omit<Share, 'again' | 'stop'>>({
    running: true,
    before: null,
    progress: null,
    view: null,
    error: null,
  })
  const call = useRef<AbortController>(undefined)
  const pins = JSON.stringify(pinned)
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
        const response = await fetch('/api/share', {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ job_no: jobNo, pinned: JSON.parse(pins) as unknown, seconds }),
          signal: mine.signal,
        })
        if (!response.ok || !response.body) throw await refusal(response)
        for await (const told of lines(response.body)) {
          if ('waiting' in told) set({ before: told.waiting.before })
          if ('progress' in told) set({ before: null, progress: told.progress })
          if ('shared' in told) set({ view: told.shared })
          if ('problem' in told) throw new Refused(told.problem)
        }
        set({ running: false })
      } catch (error) {
        if (mine.signal.aborted) return
        set({ running: false, error: error instanceof Refused ? error : new Refused(lost) })
      }
    },
    [jobNo, pins],
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
