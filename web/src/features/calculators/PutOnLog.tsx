// Puts a sum on a job's log with one press; the note leads back to the sum.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useLocation } from 'react-router'
import { answer, server } from '../../api/client'
import { useJobAct } from '../../ui/acts'
import { Trouble } from '../../ui/Parts'

export function PutOnLog({ said }: { said: string }) {
  const { pathname, search } = useLocation()
  const [job, setJob] = useState('')
  const { data } = useQuery({
    queryKey: ['jobs', 'open, for a log'],
    queryFn: () => answer(server.GET('/api/jobs', { params: { query: {} } })),
  })
  const open = data?.jobs ?? []
  const chosen = job || String(open[0]?.job_no ?? '')
  const put = useJobAct(Number(chosen))
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
      <button
        className="press-quiet"
        disabled={put.isPending}
        onClick={() => put.mutate({ act: 'note', said, address: pathname + search })}
      >
        Put it there
      </button>
      {put.data && (
        <p role="status" className="min-h-12 content-center">
          On the log of{' '}
          <Link className="link" to={`/jobs/${chosen}`}>
            job {chosen}
          </Link>
          .
        </p>
      )}
      <Trouble error={put.error} />
    </div>
  )
}
