// One thing that was just done, with the press that undoes it.
import { Toast } from 'radix-ui'

export interface Said {
  said: string
  /** Puts it back as it was. */
  undo?: () => Promise<unknown>
}

/** So long it stands, and is undone with one press. */
const STANDS_MS = 15_000

export function Notice({ said, onUndo, onAway }: { said: Said; onUndo: () => void; onAway: () => void }) {
  return (
    <Toast.Provider duration={STANDS_MS} swipeDirection="left" label="What was done">
      <Toast.Root
        open
        onOpenChange={(open) => !open && onAway()}
        className="flex items-center gap-3 border-2 border-ink bg-card px-4 py-2 shadow-lg"
      >
        <Toast.Description className="min-w-0 grow wrap-anywhere">{said.said}</Toast.Description>
        {said.undo && (
          <Toast.Action asChild altText="Undo it from the history">
            <button className="press" onClick={onUndo}>
              Undo
            </button>
          </Toast.Action>
        )}
        <Toast.Close className="min-h-12 min-w-12 text-xl" aria-label="Put this away">
          ×
        </Toast.Close>
      </Toast.Root>
      <Toast.Viewport
        hotkey={['altKey', 'KeyU']}
        label="What was done (Alt and U)"
        className="no-print fixed bottom-3 left-3 z-50 w-[min(34rem,calc(100vw-1.5rem))] outline-none"
      />
    </Toast.Provider>
  )
}
