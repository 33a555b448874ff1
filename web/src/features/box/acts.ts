// The acts on a job as a whole.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Box } from '../../domain/schema'
import { useBench } from '../../domain/session'

export type JobAct =
  | { act: 'hand-over'; reason: string }
  | { act: 'take-back' | 'bring-back' }
  | { act: 'put-away'; reason: string }
  | { act: 'card'; title: string; customer: string; complaint: string; intake: Box['intake'] }
  | { act: 'mark-note'; note: number; struck: boolean }

/** Does something with a job; how it stands then comes back with the answer. */
export function useJobAct(jobNo: number) {
  const client = useQueryClient()
  const { who } = useBench()
  const run = (act: JobAct): Promise<Box> => {
    // As it is now, not as it was when the press was drawn: an undoing comes later.
    const version = client.getQueryData<Box>(['job', jobNo])?.version ?? 0
    const path = { job_no: jobNo }
    const key = { 'Idempotency-Key': writeKey() }
    const params = { path, header: { ...key, 'If-Match': `"${version}"` } }
    switch (act.act) {
      case 'hand-over':
        return answer(
          server.POST('/api/jobs/{job_no}/hand-over', { params, body: { reason: act.reason, who } }),
        )
      case 'take-back':
        return answer(server.POST('/api/jobs/{job_no}/take-back', { params, body: { who } }))
      case 'bring-back':
        return answer(server.POST('/api/jobs/{job_no}/bring-back', { params, body: { who } }))
      case 'put-away':
        return answer(
          server.POST('/api/jobs/{job_no}/put-away', { params, body: { reason: act.reason, who } }),
        )
      case 'card': {
        const { title, customer, complaint, intake } = act
        return answer(
          server.PUT('/api/jobs/{job_no}/card', {
            params,
            body: { title, customer, complaint, intake, who },
          }),
        )
      }
      case 'mark-note':
        return answer(
          server.POST('/api/jobs/{job_no}/notes/{note_no}/marks', {
            params: { path: { ...path, note_no: act.note }, header: key },
            body: { struck: act.struck, who },
          }),
        )
    }
  }
  return useMutation<Box, Refused, JobAct>({
    mutationFn: run,
    onSuccess: (fresh, { act }) => {
      client.setQueryData(['job', jobNo], fresh)
      void client.invalidateQueries({ queryKey: ['jobs'] })
      // What may be done with its checks follows from where the job is.
      if (act === 'put-away' || act === 'bring-back')
        void client.invalidateQueries({ queryKey: ['check', jobNo] })
    },
    onError: () => void client.invalidateQueries({ queryKey: ['job', jobNo] }),
  })
}
