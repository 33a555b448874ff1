// What is written of used parts.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'

/** What a person has settled on: for a part the job whose box it comes out of, or a new one. */
export type Pins = Record<string, number | null>

/** Puts parts of other boxes into a job's. */
export function useTake(jobNo: number) {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Schemas['DonorsView'], Refused, Schemas['PartPin'][]>({
    mutationFn: (parts) =>
      answer(
        server.POST('/api/jobs/{job_no}/donors/take', {
          params: { path: { job_no: jobNo }, header: { 'Idempotency-Key': writeKey() } },
          body: { parts, who },
        }),
      ),
    onSuccess: (fresh) => client.setQueryData(['donors', jobNo], fresh),
    onSettled: () => {
      for (const key of ['donors', 'parts', 'bench-parts', 'shelf', 'jobs'])
        void client.invalidateQueries({ queryKey: [key] })
      // A part that is another makes its checks due.
      void client.invalidateQueries({ queryKey: ['job', jobNo] })
      void client.invalidateQueries({ queryKey: ['check', jobNo] })
    },
  })
}

/** Puts parts of a box on the shelf, or says that they are not there any more. */
export function useShelve() {
  const client = useQueryClient()
  const { who } = useBench()
  return useMutation<Schemas['ShelfPart'][], Refused, { job: number; parts: string[]; place: string }>({
    mutationFn: ({ job, parts, place }) =>
      answer(
        server.POST('/api/jobs/{job_no}/shelf', {
          params: { path: { job_no: job }, header: { 'Idempotency-Key': writeKey() } },
          body: { parts, place, who },
        }),
      ),
    onSuccess: (fresh) => client.setQueryData(['shelf'], fresh),
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ['donors'] })
      void client.invalidateQueries({ queryKey: ['parts'] })
    },
  })
}
