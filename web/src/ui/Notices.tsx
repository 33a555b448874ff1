// What was just done, said where the eye is, with its undoing for a while.
import {
  Suspense,
  createContext,
  lazy,
  useCallback,
  useContext,
  useRef,
  useState,
  type ReactNode,
} from 'react'
import { Refused } from '../api/client'
import type { Said } from './Notice'

const Notices = createContext<(said: Said) => void>(() => {})

/** Says what was just done. */
export const useNotice = () => useContext(Notices)

// Fetched when something is said for the first time.
const Notice = lazy(async () => ({ default: (await import('./Notice')).Notice }))

export function NoticesProvider({ children }: { children: ReactNode }) {
  const [now, setNow] = useState<(Said & { no: number }) | null>(null)
  const count = useRef(0)
  const say = useCallback((said: Said) => {
    count.current += 1
    setNow({ ...said, no: count.current })
  }, [])
  const undo = async (of: Said) => {
    try {
      const how = await of.undo?.()
      say({ said: how === 'waits' ? 'Undone as soon as the server answers.' : 'Undone.' })
    } catch (error) {
      const why = error instanceof Refused ? error.problem.title : 'the server does not answer: press again.'
      say({ said: `Not undone: ${why}`, undo: of.undo })
    }
  }
  return (
    <Notices.Provider value={say}>
      {children}
      {now && (
        <Suspense fallback={null}>
          <Notice key={now.no} said={now} onUndo={() => void undo(now)} onAway={() => setNow(null)} />
        </Suspense>
      )}
    </Notices.Provider>
  )
}
