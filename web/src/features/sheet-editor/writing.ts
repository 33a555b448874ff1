// The state of a sheet being written: what it is now, what it was (to undo), and what the server says of it.
import { replaceEqualDeep } from '@tanstack/react-query'
import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useReducer,
  useRef,
  useState,
} from 'react'
import { answer, outOfReach, server, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { kept } from '../../domain/session'
import { released } from '../../ui/released'
import type { Sheet } from './draft'
import { begin, reduce } from './steps'

export function useDraft(start: Sheet) {
  const [state, act] = useReducer(reduce, start, begin)
  const put = useCallback((pointer: string, value: unknown) => act({ act: 'put', pointer, value }), [])
  const nameIt = useCallback((pointer: string) => act({ act: 'named', pointer }), [])
  const rest = useCallback(() => act({ act: 'rest' }), [])
  return {
    draft: state.now,
    put,
    nameIt,
    rest,
    undo: state.past.length > 0 ? () => act({ act: 'undo' }) : undefined,
    redo: state.future.length > 0 ? () => act({ act: 'redo' }) : undefined,
  }
}

/** What is kept on this machine of a sheet being written, so that a closed window loses nothing. */
export interface Kept {
  sheet: Sheet
  /** The revision it was begun from; zero for a new sheet. */
  over: number
  at: string
}

const shelf = (name: string) => `draft.${name}`

export function keptDraft(name: string): Kept | null {
  try {
    return JSON.parse(kept(shelf(name)) ?? 'null') as Kept | null
  } catch {
    return null
  }
}

/** Keeps a draft, or forgets it. `false` where the browser keeps nothing. */
export function keepDraft(name: string, draft: Kept | null): boolean {
  try {
    if (draft) localStorage.setItem(`dry-anvil.${shelf(name)}`, JSON.stringify(draft))
    else localStorage.removeItem(`dry-anvil.${shelf(name)}`)
    return true
  } catch {
    return false
  }
}

/** Always the same, so that nothing is drawn again for it. */
const NONE: never[] = []

/** What the server says of the draft: asked again as it changes, never more than one at a time. */
export function useLook(draft: Sheet) {
  const [look, setLook] = useState<Schemas['Draft']>()
  const [lost, setLost] = useState(false)
  const [trouble, setTrouble] = useState<Refused | null>(null)
  const latest = useRef(draft)
  const busy = useRef(false)
  const running = useRef(Promise.resolve<Schemas['Fault'][]>([]))
  useEffect(() => {
    latest.current = draft
    if (busy.current) return
    busy.current = true
    let seen: Sheet | undefined
    let found: Schemas['Fault'][] = []
    const run = async () => {
      while (seen !== latest.current) {
        const looking = latest.current
        try {
          const fresh = await answer(server.POST('/api/sheets/look', { body: looking }))
          seen = looking
          found = fresh.faults
          await released()
          setLost(false)
          setTrouble(null)
          // A draft that has lost the shape of a sheet keeps the drawing it had.
          setLook((before) =>
            replaceEqualDeep(
              before,
              fresh.rail
                ? fresh
                : {
                    ...before,
                    faults: fresh.faults,
                    doubts: [],
                    packs: before?.packs ?? [],
                    proposed: before?.proposed ?? [],
                  },
            ),
          )
        } catch (e) {
          if (!outOfReach(e)) {
            // What the server refuses now it refuses until something changes.
            seen = looking
            setTrouble(e as Refused)
            continue
          }
          setLost(true)
          await new Promise((done) => setTimeout(done, 1500))
        }
      }
      return found
    }
    running.current = run().finally(() => (busy.current = false))
  }, [draft])
  const faults = useMemo(() => new Map(look?.faults.map((f) => [f.place, f.message])), [look?.faults])
  return {
    proposed: look?.proposed ?? NONE,
    rail: look?.rail ?? undefined,
    packs: look?.packs ?? [],
    faults,
    list: look?.faults ?? [],
    /** What a rebuilder would ask about, once nothing is at fault. */
    doubts: look?.doubts ?? [],
    /** The faults of the draft with its last change, once that has been looked at. */
    faultsNow: () => running.current,
    lost,
    trouble,
  }
}

interface WritingState {
  put: (pointer: string, value: unknown) => void
  nameIt: (pointer: string) => void
  rest: () => void
  unit: string
  /** Faults of fields that nobody has been in yet are shown too. */
  showAll: boolean
}

export const Writing = createContext<WritingState | null>(null)

export function useWriting(): WritingState {
  const writing = useContext(Writing)
  if (!writing) throw new Error('used outside a sheet being written')
  return writing
}
