// What changing the pieces of a check costs, once the build has gone past them.
import { Link } from 'react-router'
import { useBox, useTearBack } from '../../api/queries'
import type { CheckView } from '../../domain/schema'

export function FitCost({ check }: { check: CheckView }) {
  const { data: box } = useBox(check.job_no)
  const asks = box?.steps_done != null && check.set_by != null && !check.signed
  const { data } = useTearBack(check.job_no, asks ? { check: check.check_key } : null)
  if (!data || data.out.length === 0) return null
  const falls = data.falls.length
  return (
    <p className="mt-3 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="fit-cost">
      {data.out.length === 1
        ? 'To change it one step comes out and goes back in'
        : `To change it ${data.out.length} steps come out and go back in`}
      {falls > 0 && `; ${falls} ${falls === 1 ? 'signature falls' : 'signatures fall'}`}.{' '}
      <Link className="link" to={`/jobs/${check.job_no}/build?back=${check.check_key}`}>
        See them
      </Link>
    </p>
  )
}
