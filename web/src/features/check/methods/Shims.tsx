// The shims at the two ends of a selector's shaft: how they lie, and the ways of sharing them out anew so that
// the gears stand best, with the float kept.
import { useState } from 'react'
import { Link } from 'react-router'
import type { CheckView, Schemas, Unit } from '../../../domain/schema'
import { Arrangements, Forks, shimsWords } from '../../../charts/Forks'
import { GapsThen, WaysToLay } from '../../../charts/LimitedGaps'
import { Labelled } from '../../../ui/Parts'
import { useBench } from '../../../domain/session'
import { show, showStated, unitName } from '../../../domain/units'
import type { Acting } from '../acting'

/** Shims as they would be typed, with their unit, so that switching it changes nothing. */
const written = (shims: number[], unit: Unit) =>
  shims.map((nm) => `${showStated(nm, unit)} ${unitName[unit]}`).join(' ; ')

type Lying = NonNullable<CheckView['selector']>['shims']

/** The same gaps and shims as a sum, where the other shaft moves too or the drawer has shims to lend. */
function asASum(gaps: Schemas['GapThen'][], shims: Lying, unit: Unit) {
  const typed = (nm: number | null | undefined) =>
    nm == null ? '' : `${showStated(nm, unit)} ${unitName[unit]}`
  const line = (g: Schemas['GapThen']) => {
    const moves = (g.grows[0] ?? 0) > 0 ? '1+' : '1-'
    const figures = [typed(g.now_nm), moves, typed(g.least_nm), typed(g.most_nm), g.weight]
    return `${g.name.replaceAll(/[:;]/g, ' ')}: ${figures.join('; ')}`
  }
  const fields = {
    gaps: gaps.map(line).join('\n'),
    left: written(shims?.left_nm ?? [], unit),
    right: written(shims?.right_nm ?? [], unit),
    left2: '',
    right2: '',
  }
  return `/sums/limited-gaps?${new URLSearchParams(fields)}`
}

export function Shims({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const { selector } = check
  const [changing, setChanging] = useState(false)
  if (!selector) return null
  const { shims } = selector
  const detail = check.ways.find((w) => w.way === 'selector_gaps')?.detail
  const centring = detail?.kind === 'centring' ? detail.centring : null
  const placement = detail?.kind === 'limits' ? detail.placement : null
  const move = (a: Pick<Schemas['Arrangement'], 'left_nm' | 'right_nm' | 'shift_nm'>, best: boolean) =>
    a.shift_nm !== 0 && (
      <button
        className={`${best ? 'press' : 'press-quiet'} whitespace-nowrap`}
        disabled={act.isPending}
        aria-label={`Moved: left ${shimsWords(a.left_nm, unit)}, right ${shimsWords(a.right_nm, unit)}`}
        onClick={() =>
          act.mutate({
            act: 'shims',
            left: written(a.left_nm, unit),
            right: written(a.right_nm, unit),
            unit,
            moved: true,
          })
        }
      >
        Moved so
      </button>
    )
  return (
    <section
      aria-label="Choose"
      className="check-choose far @container min-w-0 border-line px-3 py-5 sm:px-6 xl:border-r"
    >
      <h2 className="text-lg">Move the shims</h2>
      {shims && !changing ? (
        <>
          <p className="mt-1">
            {shims.moved ? 'Moved' : 'As found'}: left{' '}
            <strong className="figure">{shimsWords(shims.left_nm, unit)}</strong>, right{' '}
            <strong className="figure">{shimsWords(shims.right_nm, unit)}</strong> {u}
            {check.allowed.say_shims && (
              <>
                {' · '}
                <button className="link min-h-8" onClick={() => setChanging(true)}>
                  change
                </button>
              </>
            )}
          </p>
          {shims.predicted_nm != null && (
            <p className="mt-1 text-dim">
              Moved by {shims.who} to leave {show(shims.predicted_nm, unit)} {u}
              {check.kind === 'selector_limits' && ' to spare'} at the worst
              {check.estimate && `; it measures ${show(check.estimate.clearance_nm, unit)} now`}.
            </p>
          )}
        </>
      ) : (
        check.allowed.say_shims && <SayShims check={check} act={act} onDone={() => setChanging(false)} />
      )}
      {centring ? (
        <>
          <Forks gears={centring.gears} shift={centring.arrangements[0]?.shift_nm ?? 0} />
          {shims && check.allowed.say_shims && (
            <>
              <Arrangements of={centring.arrangements} more={move} />
              <p className="my-2 text-dim">
                All shims stay in the box, so the float stays what it is. With a shim of any thickness the
                worst could be {show(centring.best_worst_nm, unit)} {u}.
              </p>
            </>
          )}
        </>
      ) : placement ? (
        <>
          <GapsThen gaps={placement.gaps} />
          {shims && check.allowed.say_shims && (
            <>
              <WaysToLay ways={placement.ways} more={move} />
              <p className="my-2 text-dim">
                All shims stay in the box, so the float stays what it is.{' '}
                <Link className="link" to={asASum(placement.gaps, shims, unit)}>
                  With the other shaft, or shims from the drawer
                </Link>
              </p>
            </>
          )}
        </>
      ) : (
        check.allowed.say_shims && (
          <p className="mt-3 text-dim">
            Take the gaps of every gear: how the shims are best shared out follows from them.
          </p>
        )
      )}
    </section>
  )
}

function SayShims({ check, act, onDone }: { check: CheckView; act: Acting; onDone: () => void }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const lie = check.selector?.shims
  const [left, setLeft] = useState(() => written(lie?.left_nm ?? [], unit))
  const [right, setRight] = useState(() => written(lie?.right_nm ?? [], unit))
  const fault = (field: string) => (act.error?.problem.field === field ? act.error.problem.title : undefined)
  const say = (moved: boolean) =>
    act.mutate({ act: 'shims', left, right, unit, moved }, { onSuccess: onDone })
  return (
    <form
      className="mt-3"
      onSubmit={(e) => {
        e.preventDefault()
        say(false)
      }}
    >
      {(
        [
          ['left', 'Shims at the left end, by micrometer', left, setLeft],
          ['right', 'Shims at the right end', right, setRight],
        ] as const
      ).map(([field, label, value, set]) => (
        <Labelled
          key={field}
          label={label}
          hint={
            field === 'left'
              ? `Each of them, with a semicolon between; bare figures in ${u}. Empty for none.`
              : undefined
          }
          error={fault(field)}
        >
          {(id) => (
            <input
              id={id}
              className="field figure"
              value={value}
              autoComplete="off"
              maxLength={300}
              onChange={(e) => set(e.target.value)}
            />
          )}
        </Labelled>
      ))}
      <button className="press-quiet mt-2" disabled={act.isPending}>
        They lie so
      </button>
      {lie && check.estimate && (
        <>
          <button
            type="button"
            className="press-quiet mt-2 ml-2"
            disabled={act.isPending}
            onClick={() => say(true)}
          >
            Moved so since
          </button>
          <p className="mt-1 text-sm text-dim">
            Shims out of the drawer may take the place of those that lay here, as thick together. The gaps are
            then taken anew.
          </p>
        </>
      )}
    </form>
  )
}
