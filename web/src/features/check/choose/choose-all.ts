// Pieces chosen for several checks in one act: set aside all or none, and undone as one.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { useNotice } from '../../../ui/Notices'
import { answer, server, writeKey, type Refused } from '../../../api/client'

export interface Several {
  choices: Schemas['TogetherLine'][]
  /** What was done, in a sentence, once it is. */
  said: string
}

/** Chooses for several checks from the screen of one job; the notice that says so undoes it. */
export function useChooseAll(from_job: number) {
  const client = useQueryClient()
  const notice = useNotice()
  const { who } = useBench()
  const post = (header: { 'Idempotency-Key': string }) => ({ params: { header } })
  return useMutation<string, Refused, Several>({
    mutationFn: async ({ choices }) => {
      const key = writeKey()
      await answer(
        server.POST('/api/share/choose', {
          ...post({ 'Idempotency-Key': key }),
          body: { choices, from_job, who },
        }),
      )
      return key
    },
    onSuccess: (act_key, { said }) =>
      notice({
        said,
        undo: async () => {
          await answer(
            server.POST('/api/share/undo', {
              ...post({ 'Idempotency-Key': writeKey() }),
              body: { act_key, who },
            }),
          )
          await client.invalidateQueries()
        },
      }),
    onSettled: () => void client.invalidateQueries(),
  })
}
