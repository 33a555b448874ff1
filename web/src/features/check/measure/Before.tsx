// Before a reading is believed: what is to be seen to, each with its reason, and what differs between
// the trial build and the final one.
import type { CheckView } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { show, unitName } from '../../../domain/units'
import { useState, type ReactNode } from 'react'
import { Labelled } from '../../../ui/Parts'
import { useFacts } from '../../../ui/acts'
import type { Acting } from '../acting'
import type { Write } from '../../../api/outbox'
import { didOf } from './waiting'
import type { Waiting } from '../../../api/write-queue'

interface Ticking {
  check: CheckView
  closed: boolean
  waiting: Waiting<Write>[]
}

interface TickProps extends Ticking {
  tick: string
  done: boolean
  className: string
  children: ReactNode
}

/** A tick with its words; what was said last of it and waits for the server is shown as said. */
function Tick({ check, closed, waiting, tick, done, className, children }: TickProps) {
  const later = useFacts(check)
  const ticks = waiting.map((w) => didOf(w.write)).filter((did) => did?.act === 'tick')
  const last = ticks.findLast((did) => did.tick === tick)
  return (
    <label className={`flex min-h-12 gap-3 ${className}`}>
      <input
        type="checkbox"
        className="mt-0.5 size-6 shrink-0 accent-(--blue)"
        checked={last === undefined ? done : last.done}
        disabled={closed}
        onChange={(e) => void later.tick(tick, e.target.checked)}
      />
      {children}
    </label>
  )
}

/** Ticks; said by whoever is at the bench, kept with the round. */
export function Ready({ check, closed, waiting }: Ticking) {
  if (check.ready.length === 0) return null
  const done = check.ready.filter((r) => r.by).length
  const all = done === check.ready.length
  return (
    <details className="mt-3 border-y border-line py-1">
      <summary className="min-h-11 py-2 font-semibold">
        Before the first reading{' '}
        <span className={all ? 'font-normal text-dim' : 'text-brass'}>
          {all ? `all seen to` : `${done} of ${check.ready.length} seen to`}
        </span>
      </summary>
      <ul>
        {check.ready.map((r) => (
          <li key={r.tick}>
            <Tick
              check={check}
              closed={closed}
              waiting={waiting}
              tick={r.tick}
              done={r.by != null}
              className="py-2"
            >
              <span>
                {r.tick}
                {r.by && <span className="text-dim"> · {r.by}</span>}
                <span className="block text-sm text-dim">{r.why}</span>
              </span>
            </Tick>
          </li>
        ))}
      </ul>
    </details>
  )
}

/** How warm box and parts are: what grows from there to 20 °C is in the working. */
export function BenchWarmth({ check, act }: { check: CheckView; act: Acting }) {
  const [typed, setTyped] = useState<string | null>(null)
  if (!check.hot) return null
  const now = check.bench_c ?? 20
  const fault = act.error?.problem.field === 'bench_c' ? act.error.problem.title : undefined
  const degrees = Number((typed ?? '').replace(',', '.').replace('−', '-'))
  if (typed === null)
    return (
      <p className="mt-2 text-dim">
        Box and parts at {now} °C
        {check.allowed.change && (
          <>
            {' · '}
            <button className="link min-h-8" onClick={() => setTyped('')}>
              warmer or colder
            </button>
          </>
        )}
      </p>
    )
  return (
    <form
      className="mt-2"
      onSubmit={(e) => {
        e.preventDefault()
        act.mutate({ act: 'bench', bench_c: degrees }, { onSuccess: () => setTyped(null) })
      }}
    >
      <Labelled label="Box and parts at, °C" error={fault}>
        {(id) => (
          <span className="flex gap-2">
            <input
              id={id}
              className="field figure"
              inputMode="decimal"
              autoComplete="off"
              value={typed}
              onChange={(e) => setTyped(e.target.value)}
            />
            <button className="press-quiet shrink-0" disabled={!typed.trim() || !Number.isFinite(degrees)}>
              Keep
            </button>
          </span>
        )}
      </Labelled>
    </form>
  )
}

/** What differs between trial and final build, and whether it is as in the final build while this is measured. */
export function Trial({ check, closed, waiting }: Ticking) {
  const { unit } = useBench()
  if (check.adjustments.length === 0) return null
  return (
    <ul className="mt-2 text-dim">
      {check.adjustments.map((a) => (
        <li key={a.what} className="flex flex-wrap items-center gap-x-4">
          <span className={a.as_final ? 'line-through' : undefined}>
            From trial to final build: {a.what} {a.by_nm < 0 ? 'takes' : 'adds'}{' '}
            {show(Math.abs(a.by_nm), unit)}
            {a.tolerance_nm > 0 && ` ± ${show(a.tolerance_nm, unit)}`} {unitName[unit]}.
          </span>
          {a.as_final != null && (
            <Tick
              check={check}
              closed={closed}
              waiting={waiting}
              tick={a.tick}
              done={a.as_final}
              className="items-center text-ink"
            >
              measured as in the final build: not added
            </Tick>
          )}
        </li>
      ))}
    </ul>
  )
}
