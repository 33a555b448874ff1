// Closing the case once: the chance that everything set in a closing lands, and what would raise it most.
import { Link } from 'react-router'
import { useClosings } from '../../api/queries'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { percent, showStated, unitName } from '../../domain/units'
import { allInSentence, inSentence } from '../../domain/words'
import { Working } from '../../ui/Parts'

type Closing = Schemas['ClosingChance']

export function CloseOnce({ job }: { job: number }) {
  const { data } = useClosings(job)
  if (!data || data.length === 0) return null
  return (
    <section aria-label="Close once" className="mt-6 border-t border-line pt-5">
      <h2 className="text-lg">Close once</h2>
      {data.map((closing) => (
        <One key={closing.closing} job={job} closing={closing} />
      ))}
    </section>
  )
}

function One({ job, closing }: { job: number; closing: Closing }) {
  const { checks, chance, at_least, unknown, advice } = closing
  const best = checks.some((c) => c.by === 'best')
  const many = checks.length > 1
  return (
    <div className="mt-3" data-testid="close-once">
      <p>
        <strong>Closing “{closing.closing}”:</strong>{' '}
        <strong className="figure text-xl">
          {chance == null && 'at least '}
          {percent(chance ?? at_least)}
        </strong>{' '}
        that{' '}
        {many
          ? `${checks.length === 2 ? 'both' : `all ${checks.length}`} land at once`
          : `${inSentence(checks[0]?.name ?? '')} lands`}
        {best ? ', with the best pieces on hand' : ''}.
        {unknown.length > 0 && (
          <span className="text-dim"> Not measured yet, and not counted: {allInSentence(unknown)}.</span>
        )}
      </p>
      {many && (
        <details>
          <summary className="min-h-11 py-2 text-dim">How that comes about</summary>
          <ul className="ruled">
            {checks.map((c) => (
              <li key={c.check_key} className="flex flex-wrap justify-between gap-x-4 py-2">
                <Link className="link" to={`/jobs/${job}/checks/${c.check_key}`}>
                  {c.name}
                </Link>
                <span>
                  <span className="figure">{percent(c.chance)}</span>{' '}
                  <span className="text-dim">{BY[c.by]}</span>
                </span>
              </li>
            ))}
          </ul>
          <Working lines={closing.working} />
          {chance == null && (
            <p className="mt-1 text-sm text-dim">
              Some of them share pieces, so that their chances do not simply multiply: it is this or more.
            </p>
          )}
        </details>
      )}
      {advice.length > 0 && (
        <ul className="mt-1 list-disc pl-5">
          {advice.map((a, i) => (
            <li key={i} className="py-1">
              <Raise of={a.what} />{' '}
              <Link className="link" to={`/jobs/${job}/checks/${a.check_key}`}>
                {inSentence(a.name)}
              </Link>
              : {percent(a.chance)} there
              {chance != null &&
                many &&
                `, ${percent(Math.min(1, chance + a.gain))} for ${checks.length === 2 ? 'both' : 'all'}`}
              .
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

const BY: Record<Schemas['LandsBy'], string> = {
  measured: 'as measured',
  chosen: 'with the pieces chosen',
  best: 'with the best piece on hand',
  fitted: 'with the pieces fitted, not measured since',
}

function Raise({ of }: { of: Schemas['Raise'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  switch (of.kind) {
    case 'one_more_reading':
      return <>One more reading of</>
    case 'mike_piece':
      return (
        <>
          Measure the {showStated(of.thickness_nm, unit)} {u} piece by micrometer for
        </>
      )
    case 'other_piece':
      return (
        <>
          Take {showStated(of.total_nm, unit)} {u} for
        </>
      )
  }
}
