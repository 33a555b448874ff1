// What every write on the drawers has in common.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer } from '../../domain/schema'
import { useBench } from '../../domain/session'

/** Takes the drawers up as a write has answered them; all else that may show them is fetched again. */
export function useDrawersWritten() {
  const client = useQueryClient()
  return (drawers: Drawer[]) => {
    client.setQueryData(['drawers'], drawers)
    void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'drawers' })
  }
}

/** Undoes an act, by the key it was written with. */
export function useUndo() {
  const { who } = useBench()
  const written = useDrawersWritten()
  return useMutation<Drawer[], Refused, string>({
    mutationFn: (act_key) =>
      answer(
        server.POST('/api/drawers/undo', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { act_key, who },
        }),
      ),
    onSuccess: written,
  })
}
