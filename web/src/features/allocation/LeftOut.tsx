import { Link } from 'react-router'
import type { Schemas } from '../../domain/schema'
import { inSentence } from '../../domain/words'

/** That there are more checks than are looked at in one go. */
export function Beyond({ of }: { of: number }) {
  if (of === 0) return null
  return (
    <p className="my-2 border-l-4 border-brass bg-brass-soft px-3 py-2" role="status">
      There are more open checks than are looked at in one go:{' '}
      {of === 1 ? 'one of a later job is' : `${of} of later jobs are`} left out. Work the first ones off, or
      look at one job.
    </p>
  )
}

/** The checks that are not ready, those of a job with the same reason in one line. */
export function LeftOut({ title, of, one }: { title: string; of: Schemas['LeftOut'][]; one: boolean }) {
  if (of.length === 0) return null
  const lines = new Map<string, Schemas['LeftOut'][]>()
  for (const out of of) {
    const key = `${out.job_no} ${out.why}`
    lines.set(key, [...(lines.get(key) ?? []), out])
  }
  return (
    <section className="mt-8" aria-label={title}>
      <h2 className="text-lg">{title}</h2>
      <ul className="ruled mt-1">
        {[...lines].map(([key, outs]) => (
          <li key={key} className="py-2">
            {!one && <strong>Job {outs[0]?.job_no}: </strong>}
            {outs.map((out, i) => (
              <span key={out.check_key}>
                {i > 0 && ', '}
                <Link className="link" to={`/jobs/${out.job_no}/checks/${out.check_key}`}>
                  {i > 0 ? inSentence(out.name) : out.name}
                </Link>
              </span>
            ))}{' '}
            <span className="text-dim">({outs[0]?.why})</span>
          </li>
        ))}
      </ul>
    </section>
  )
}
