// How this check has come out on boxes before, offered as a correction; never counted unasked.
import { Link } from 'react-router'
import type { CheckView } from '../../../domain/schema'
import { usePast } from '../../../api/queries'
import { useBench } from '../../../domain/session'
import { show, unitName } from '../../../domain/units'
import type { Acting } from '../acting'

export function BiasLine({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const sheet = check.sheet_key
  const { data: past } = usePast(sheet, check.check_key)
  const u = unitName[unit]
  const way = (nm: number) => `${show(Math.abs(nm), unit)} ${u} ${nm < 0 ? 'tighter' : 'looser'}`
  const more = (
    <Link className="link" to={`/sheets/${sheet}/past#${check.check_key}`}>
      how they came out
    </Link>
  )
  if (check.usual)
    return (
      <p className="mt-3 flex flex-wrap items-center gap-x-4 border-l-4 border-blue bg-card px-3 py-2">
        <span>
          Counted with the usual difference: {way(check.usual.mean_nm)}, over {check.usual.boxes} boxes (
          {check.usual.who}); {more}.
        </span>
        {check.phase !== 'fit' && (
          <button className="link min-h-11" onClick={() => act.mutate({ act: 'usual', counts: false })}>
            Leave it out
          </button>
        )}
      </p>
    )
  const usual = past?.[0]?.usual
  if (!usual?.matters) return null
  return (
    <p
      className="mt-3 flex flex-wrap items-center gap-x-4 border-l-4 border-line px-3 py-2"
      data-testid="usual"
    >
      <span>
        On {usual.boxes} boxes this came out {way(usual.mean_nm)} than predicted, give or take{' '}
        {show(usual.spread_nm, unit)}; {more}.
      </span>
      <button
        className="link min-h-11"
        disabled={act.isPending}
        onClick={() => act.mutate({ act: 'usual', counts: true })}
      >
        Count with it
      </button>
    </p>
  )
}
