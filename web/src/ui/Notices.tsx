// What was just done, said where the eye is, with its undoing for a while.
import { Toast } from 'radix-ui'
import { createContext, useCallback, useContext, useRef, useState, type ReactNode } from 'react'
import { Refused } from '../api/client'

export interface Said {
  said: string
  /** Puts it back as it was. */
  undo?: () => Promise<unknown>
}

const Notices = createContext<(said: Said) => void>(() => {})

/** Says what was just done. */
export const useNotice = () => useContext(Notices)

/** So long it stands, and is undone with one press. */
const STANDS_MS = 15_000

export function NoticesProvider({ children }: { children: ReactNode }) {
  const [now, setNow] = useState<(Said & { no: number }) | null>(null)
  const count = useRef(0)
  const say = useCallback((said: Said) => {
    count.current += 1
    setNow({ ...said, no: count.current })
  }, [])
  const undo = async (of: Said) => {
    try {
      await of.undo?.()
      say({ said: 'Undone.' })
    } catch (error) {
      const why = error instanceof Refused ? error.problem.title : 'the server does not answer: press again.'
      say({ said: `Not undone: ${why}`, undo: of.undo })
    }
  }
  return (
    <Notices.Provider value={say}>
      <Toast.Provider duration={STANDS_MS} swipeDirection="left" label="What was done">
        {children}
        {now && (
          <Toast.Root
            key={now.no}
            open
            onOpenChange={(open) => !open && setNow(null)}
            className="flex items-center gap-3 border-2 border-ink bg-card px-4 py-2 shadow-lg"
          >
            <Toast.Description className="min-w-0 grow wrap-anywhere">{now.said}</Toast.Description>
            {now.undo && (
              <Toast.Action asChild altText="Undo it from the history">
                <button className="press" onClick={() => void undo(now)}>
                  Undo
                </button>
              </Toast.Action>
            )}
            <Toast.Close className="min-h-12 min-w-12 text-xl" aria-label="Put this away">
              ×
            </Toast.Close>
          </Toast.Root>
        )}
        <Toast.Viewport
          hotkey={['altKey', 'KeyU']}
          label="What was done (Alt and U)"
          className="no-print fixed bottom-3 left-3 z-50 w-[min(34rem,calc(100vw-1.5rem))] outline-none"
        />
      </Toast.Provider>
    </Notices.Provider>
  )
}
