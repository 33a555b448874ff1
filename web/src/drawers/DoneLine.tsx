// What was just done with pieces of the drawers, with its undoing.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Drawer, type Refused } from '../api/client'
import { Trouble } from '../ui/Parts'
import { useBench } from '../ui/bench-state'

/** What was just done, and what undoes it. */
export interface Done {
  said: string
  actKey?: string
}

/** What was done, with its undoing. */
export function DoneLine({ done, onUndone }: { done: Done; onUndone: (done: Done) => void }) {
  const { who } = useBench()
  const client = useQueryClient()
  const undo = useMutation<Drawer[], Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/drawers/undo', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { act_key: done.actKey ?? '', who },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries()
      onUndone({ said: 'Undone.' })
    },
  })
  return (
    <div role="status" className="mb-3 border-l-4 border-blue bg-card px-4 py-2">
      <p className="flex flex-wrap items-center gap-4">
        {done.said}
        {done.actKey && (
          <button className="link min-h-10" disabled={undo.isPending} onClick={() => undo.mutate()}>
            Undo
          </button>
        )}
      </p>
      <Trouble error={undo.error} />
    </div>
  )
}
