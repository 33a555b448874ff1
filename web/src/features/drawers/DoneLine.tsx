// What was just done with pieces of the drawers, with its undoing.
import { Trouble } from '../../ui/Parts'
import { useUndo } from './writes'

/** What was just done, and what undoes it. */
export interface Done {
  said: string
  actKey?: string
}

/** What was done, with its undoing. */
export function DoneLine({ done, onUndone }: { done: Done; onUndone: (done: Done) => void }) {
  const undo = useUndo()
  return (
    <div role="status" className="mb-3 border-l-4 border-blue bg-card px-4 py-2">
      <p className="flex flex-wrap items-center gap-4">
        {done.said}
        {done.actKey && (
          <button
            className="link min-h-11"
            disabled={undo.isPending}
            onClick={() => undo.mutate(done.actKey ?? '', { onSuccess: () => onUndone({ said: 'Undone.' }) })}
          >
            Undo
          </button>
        )}
      </p>
      <Trouble error={undo.error} />
    </div>
  )
}
