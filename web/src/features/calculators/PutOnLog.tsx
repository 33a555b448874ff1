// Puts a sum on a job's log with one press; the note leads back to the sum.
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Box } from '../../domain/schema'
import { Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'

export function PutOnLog({ said }: { said: string }) {
  const { who } = useBench()
  const client = useQueryClient()
  const { pathname, search } = useLocation()
  const [job, setJob] = useState('')
  const { data } = useQuery({
    queryKey: ['jobs', 'open, for a log'],
    queryFn: () => answer(server.GET('/api/jobs', { params: { query: {} } })),
  })
  const open = data?.jobs.filter((j) => !j.finished_at) ?? []
  const chosen = job || String(open[0]?.job_no ?? '')
  const put = useMutation<Box, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/jobs/{job_no}/notes', {
          params: { path: { job_no: Number(chosen) }, header: { 'Idempotency-Key': writeKey() } },
          body: { said, address: pathname + search, who },
        }),
      ),
    onSuccess: (box) => client.setQueryData(['job', box.job_no], box),
  })
  if (open.length === 0) return null
  return (
    <div className="no-print mt-6 flex flex-wrap items-end gap-3 border-t border-line pt-4">
      <label className="min-w-0">
        <span className="mb-1 block font-semibold">On the log of</span>
        <select className="field" value={chosen} onChange={(e) => setJob(e.target.value)}>
          {open.map((j) => (
            <option key={j.job_no} value={j.job_no}>
              {j.job_no} · {j.title}
            </option>
          ))}
        </select>
      </label>
      <button className="press-quiet" disabled={put.isPending} onClick={() => put.mutate()}>
        Put it there
      </button>
      {put.data && (
        <p role="status" className="min-h-12 content-center">
          On the log of{' '}
          <Link className="link" to={`/jobs/${put.data.job_no}`}>
            job {put.data.job_no}
          </Link>
          .
        </p>
      )}
      <Trouble error={put.error} />
    </div>
  )
}
