// What is said of a job's parts.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'

export type Parts = Schemas['PartsView']
export type OnJob = Schemas['OnJob']
export type PartAct = Schemas['PartAct']

/** Puts on record what somebody found of a part; how all stand then comes back with the answer. */
export function usePartAct(jobNo: number) {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Parts, Refused, PartAct>({
    mutationFn: (act) =>
      answer(
        server.POST('/api/jobs/{job_no}/parts', {
          params: { path: { job_no: jobNo }, header: { 'Idempotency-Key': writeKey() } },
          body: { act, who },
        }),
      ),
    onSuccess: (fresh) => {
      client.setQueryData(['parts', jobNo], fresh)
      // A part that is another makes its checks due.
      void client.invalidateQueries({ queryKey: ['job', jobNo] })
      void client.invalidateQueries({ queryKey: ['jobs'] })
      void client.invalidateQueries({ queryKey: ['check', jobNo] })
    },
    // Somebody else may have looked at it meanwhile.
    onError: () => void client.invalidateQueries({ queryKey: ['parts', jobNo] }),
  })
}
