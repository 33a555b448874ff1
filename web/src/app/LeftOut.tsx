// What lists leave out because it cannot be read, wherever one of them is.
import { useSyncExternalStore } from 'react'
import { Link } from 'react-router'
import { leftOut, onLeftOut } from '../api/left-out'

export function LeftOut() {
  const all = useSyncExternalStore(onLeftOut, leftOut)
  if (all.length === 0) return null
  return (
    <div role="status" className="border-l-4 border-oxide bg-card px-4 py-3 sm:px-6">
      <p className="font-bold">
        {all.length === 1 ? 'A job is' : `${all.length} jobs are`} left out of lists, because what the
        database holds of {all.length === 1 ? 'it' : 'them'} cannot be read.
      </p>
      <ul>
        {all.map((of) => (
          <li key={of.job_no} className="break-words">
            <Link className="link" to={`/jobs/${of.job_no}`}>
              Job {of.job_no}
            </Link>
            {': '}
            {of.why}
          </li>
        ))}
      </ul>
      <p className="text-dim">Nothing of it is lost. A backup from before has it as it was.</p>
    </div>
  )
}
