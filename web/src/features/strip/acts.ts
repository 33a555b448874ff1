// What is said of a job's parts.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'

export type Parts = Schemas['PartsView']
export type OnJob = Schemas['OnJob']
export type PartAct = Schemas['PartAct']

/** Puts on record what somebody found of a part of any job, or said of getting it; how all of that job stand then comes
 *  back with the answer. */
export function useAnyPartAct() {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Parts, Refused, { job: number; act: PartAct }>({
    mutationFn: ({ job, act }) =>
      answer(
        server.POST('/api/jobs/{job_no}/parts', {
          params: { path: { job_no: job }, header: { 'Idempotency-Key': writeKey() } },
          body: { act, who },
        }),
      ),
    onSuccess: (fresh, { job }) => {
      client.setQueryData(['parts', job], fresh)
      void client.invalidateQueries({ queryKey: ['bench-parts'] })
      // A part that is another makes its checks due.
      void client.invalidateQueries({ queryKey: ['job', job] })
      void client.invalidateQueries({ queryKey: ['jobs'] })
      void client.invalidateQueries({ queryKey: ['check', job] })
    },
    // Somebody else may have looked at it meanwhile.
    onError: (_, { job }) => {
      void client.invalidateQueries({ queryKey: ['parts', job] })
      void client.invalidateQueries({ queryKey: ['bench-parts'] })
    },
  })
}

/** The same for one job. */
export function usePartAct(jobNo: number) {
  const { mutate, mutateAsync, ...doing } = useAnyPartAct()
  return {
    ...doing,
    mutate: (act: PartAct, then?: { onSuccess?: () => void; onError?: (error: Refused) => void }) =>
      mutate({ job: jobNo, act }, then),
    mutateAsync: (act: PartAct) => mutateAsync({ job: jobNo, act }),
  }
}
