// What was just done, said where the eye is, with its undoing for a while.
import {
  Suspense,
  createContext,
  lazy,
  useCallback,
  useContext,
  useEffect,
  useRef,
  useState,
  type ReactNode,
} from 'react'
import { Refused } from '../api/client'
import { onceIdle } from './idle'
import type { Said } from './Notice'

const Notices = createContext<(said: Said) => void>(() => {})

/** Says what was just done. */
export const useNotice = () => useContext(Notices)

// Not needed to draw the first view.
const fetchNotice = () => import('./Notice')
const Notice = lazy(async () => ({ default: (await fetchNotice()).Notice }))

export function NoticesProvider({ children }: { children: ReactNode }) {
  const [now, setNow] = useState<(Said & { no: number }) | null>(null)
  const count = useRef(0)
  // There before it is wanted: what is said first may be that the server does not answer.
  useEffect(() => onceIdle(() => void fetchNotice().catch(() => {})), [])
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
