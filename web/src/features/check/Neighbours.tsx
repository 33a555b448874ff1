// From check to check without going back to the box.
import { Link } from 'react-router'
import { useBox } from '../../api/queries'
import type { Schemas } from '../../domain/schema'

const to = (jobNo: number, check: Schemas['BoxCheck']) => `/jobs/${jobNo}/checks/${check.check_key}`

/** The checks before and after this one, in the sheet's order. */
export function Neighbours({ jobNo, checkKey }: { jobNo: number; checkKey: string }) {
  const { data: box } = useBox(jobNo)
  const at = box?.checks.findIndex((c) => c.check_key === checkKey) ?? -1
  if (!box || at < 0 || box.checks.length < 2) return null
  const [before, after] = [box.checks[at - 1], box.checks[at + 1]]
  return (
    <nav aria-label="Checks beside this one" className="flex justify-between gap-4 px-3 pt-1 text-sm sm:px-6">
      {before ? (
        <Link className="link inline-flex min-h-11 min-w-0 items-center gap-1" to={to(jobNo, before)}>
          <span aria-hidden="true">←</span> <span className="sr-only">Before it: </span>
          <span className="line-clamp-1">{before.name}</span>
        </Link>
      ) : (
        <span />
      )}
      {after && (
        <Link className="link inline-flex min-h-11 min-w-0 items-center gap-1" to={to(jobNo, after)}>
          <span className="sr-only">After it: </span>
          <span className="line-clamp-1">{after.name}</span> <span aria-hidden="true">→</span>
        </Link>
      )}
    </nav>
  )
}

/** Where the work goes on once this check is signed. */
export function Onward({ jobNo, checkKey }: { jobNo: number; checkKey: string }) {
  const { data: box } = useBox(jobNo)
  const next = box?.checks.find((c) => c.check_key === box.next_check && c.check_key !== checkKey)
  const building = box?.step_count != null && (box.steps_done ?? 0) < box.step_count
  if (building)
    return (
      <Link className="press mt-4 w-full" data-work="next" to={`/jobs/${jobNo}/build`}>
        Back to the build
      </Link>
    )
  return (
    <>
      {next && (
        <Link className="press mt-4 w-full py-2 text-center" data-work="next" to={to(jobNo, next)}>
          Next: {next.name}
        </Link>
      )}
      <Link
        className={`${next ? 'press-quiet mt-3' : 'press mt-4'} w-full`}
        data-work={next ? undefined : 'next'}
        to={`/jobs/${jobNo}`}
      >
        Back to the box
      </Link>
    </>
  )
}
