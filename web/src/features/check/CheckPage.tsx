// One check on one screen, in the order of the work: measure, choose, confirm.
import { useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { CheckView, Schemas, Unit } from '../../domain/schema'
import { useAct } from '../../api/actions'
import { useGap } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { ProofMark } from '../../charts/ProofMark'
import { SlotGauge } from '../../charts/SlotGauge'
import { answerName } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { clearance, percent, show, showStated, unitName, windowWords } from '../../domain/units'
import { TargetLine } from './target/Target'
import { Choose } from './choose/Choose'
import { Confirm } from './confirm/Confirm'
import { History } from './History'
import { Measure } from './measure/Measure'
import type { Acting } from '../../api/actions'
import { PackPanel } from './pack/PackPanel'
import { Shims } from './methods/Shims'
import { HotPlot } from '../../charts/HotPlot'
import { TorqueGauge } from '../../charts/TorqueGauge'
import { torqueWindow } from '../../domain/readings'

export function CheckPage() {
  const params = useParams()
  const jobNo = Number(params.jobNo)
  const { data: check, error } = useGap(jobNo, params.checkKey ?? '')
  useTitle(check ? `${check.name}, job ${jobNo}` : undefined)
  if (error) return <Trouble error={error as unknown as Refused} />
  if (!check) return <Loading what="the check" />
  return <GapScreen key={`${jobNo}/${check.check_key}`} check={check} />
}

function GapScreen({ check }: { check: CheckView }) {
  const act = useAct(check)
  const open = check.setting?.state === 'chosen' ? check.setting : null
  const first = check.offered[0]?.choice ?? check.choices?.ranked[0]
  const best = !check.signed && check.phase === 'choose' ? first : undefined
  const predicted = open
    ? { nm: open.predicted_nm, expanded_nm: open.expanded_nm, label: 'expected', call: open.lands }
    : best && {
        nm: best.predicted_nm,
        expanded_nm: best.expanded_nm,
        label: 'best gives',
        call: best.lands,
      }
  return (
    <main>
      <section
        className="grid grid-cols-1 items-start border-b border-line lg:grid-cols-[26rem_minmax(0,1fr)]"
        aria-label="Where it stands"
      >
        <Loud check={check} act={act} />
        <div className="min-w-0 overflow-hidden px-3 pt-2 sm:px-6">
          {check.aim ? (
            <SlotGauge
              window={check.window}
              aim={check.aim}
              kind={check.kind}
              measured={
                check.estimate && check.verdict
                  ? {
                      nm: check.estimate.clearance_nm,
                      expanded_nm: check.verdict.expanded_nm,
                      call: check.verdict.call,
                      label: check.pinions ? 'worst' : check.estimate.signs ? 'measured' : 'by hand',
                    }
                  : check.verdict?.bound
                    ? {
                        nm: check.verdict.bound.limit_nm,
                        expanded_nm: 0,
                        call: check.verdict.call,
                        label: check.verdict.bound.lies === 'above' ? 'at least' : 'at most',
                      }
                    : null
              }
              predicted={predicted ?? null}
            />
          ) : check.proof ? (
            <ProofMark proof={check.proof} />
          ) : (
            <TorqueGauge check={check} />
          )}
        </div>
      </section>
      <Trouble error={act.error} />
      <PackPanel check={check} act={act} />
      <div className="grid grid-cols-1 md:grid-cols-2 lg:grid-cols-[26rem_minmax(0,1fr)_16.5rem]">
        <Measure check={check} act={act} />
        {check.selector ? <Shims check={check} act={act} /> : <Choose check={check} act={act} />}
        <Confirm check={check} act={act} />
      </div>
      <HotPlot check={check} />
      <History check={check} />
    </main>
  )
}

/** The number that matters, as large as it can be, and what it means. */
function Loud({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const { estimate } = check
  const bound = check.verdict?.bound
  const known = estimate?.clearance_nm ?? bound?.limit_nm
  const c = known != null && clearance(known, unit, false, check.kind)
  const weighted = check.selector?.gears.some((g) => (g.weight ?? 1) > 1)
  const aim =
    !check.selector &&
    check.aim &&
    (check.aim.from_nm === check.aim.to_nm
      ? side(check.aim.from_nm, unit, check.kind)
      : `${side(check.aim.from_nm, unit)} to ${side(check.aim.to_nm, unit, check.kind)}`)
  return (
    <div className="px-3 py-5 sm:px-6">
      <h1 className="text-xl">{check.name}</h1>
      <p className="mt-3" aria-live="polite">
        {check.torque ? (
          <>
            <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
              {check.torque.torque_n_m.toFixed(2)}
            </span>{' '}
            <span className="text-2xl font-semibold">N·m</span>
          </>
        ) : check.proof?.found ? (
          <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
            {answerName[check.proof.found.answer]}
          </span>
        ) : c ? (
          <>
            <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
              {c.figure}
            </span>{' '}
            <span className="text-2xl font-semibold whitespace-nowrap">
              {unitName[unit]} {c.word === 'nil' ? '' : c.word}
              {bound && ' or more'}
              {weighted && ', weighted'}
            </span>
          </>
        ) : (
          <span className="block py-4 text-2xl font-semibold text-dim">
            {check.proof ? 'Not answered' : 'Not measured'}
            {check.round > 0 ? ' since fitting' : ' yet'}
          </span>
        )}
        <span className="mt-2 block text-lg font-bold" data-testid="verdict">
          <VerdictWords check={check} />
        </span>
      </p>
      <p className="mt-3 text-dim">
        {check.aim
          ? [`Window ${windowWords(check.window, unit, check.kind)}`, aim && `aim ${aim}`]
              .filter(Boolean)
              .join(' · ')
          : check.proof
            ? ''
            : `Window ${torqueWindow(check.torque_window)}`}
        {aim && check.torque_window && ` · turns with ${torqueWindow(check.torque_window)}`}
        {check.set_by && ` · set by ${check.set_by.family_name.toLowerCase()}`}
      </p>
      {check.rule && !check.pack && <p className="text-dim">No book’s window: {check.rule}.</p>}
      <TargetLine check={check} act={act} />
    </div>
  )
}

/** The pinions, where they are in the window each but not surely alike. */
function notAlike(check: CheckView) {
  const detail = check.ways.find((w) => w.counts)?.detail
  const found = detail?.kind === 'pinions' ? detail.pinions : null
  const inside = (check.verdict?.to_low_nm ?? 0) >= 0 && (check.verdict?.to_high_nm ?? 0) >= 0
  return found && inside && found.alike !== 'in' ? found : null
}

const sentence = (text: string) =>
  text && text.charAt(0).toUpperCase() + text.slice(1) + (/[.?!]$/.test(text) ? '' : '.')

const side = (nm: number, unit: Unit, kind?: Schemas['CheckKind']) =>
  `${showStated(Math.abs(nm), unit)}${nm < 0 ? ` ${clearance(nm, unit, true, kind).word}` : ''}`

/** What one more reading would do, as computed. */
function oneMoreWords({ wrong_now: now, wrong_then: then }: Schemas['OneMore']) {
  return `One more reading like these would take the chance of being on the wrong side of the limit from ${percent(now)} to ${percent(then)}.`
}

/** Leaves that all go: a verdict without a figure. */
function BoundWords({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const { verdict } = check
  const by = verdict?.call === 'tight' ? verdict.to_low_nm : verdict?.to_high_nm
  if (verdict?.call === 'in') return <>In the window: it has no limit on that side.</>
  return (
    <>
      {verdict?.call === 'tight' ? 'Tight' : 'Loose'} by {show(-(by ?? 0), unit)} {unitName[unit]} or more: no
      leaf was refused yet.
      {check.set_by && (
        <span className="block text-base font-normal">
          Choosing a piece needs a figure: find the thinnest leaf that does not go.
        </span>
      )}
    </>
  )
}

function VerdictWords({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const { verdict, estimate } = check
  if (check.proof) {
    const { found, otherwise } = check.proof
    if (found?.call !== 'failed') return <>{found ? 'As it should be.' : ''}</>
    return (
      <>
        Not as it should be.
        {otherwise.length > 0 && (
          <span className="block text-base font-normal">It usually means: {otherwise.join('; or ')}.</span>
        )}
      </>
    )
  }
  if (check.torque) {
    const words = {
      in: 'In the window',
      tight: 'Turns too hard',
      loose: 'Turns too easily',
      too_close: 'Too close to call',
      failed: 'Not as it should be',
    }
    return (
      <>
        {words[check.torque.call]}, {percent(check.torque.chance)} to be in it.
      </>
    )
  }
  if (verdict?.bound) return <BoundWords check={check} />
  if (!verdict || !estimate)
    return (
      <>
        {check.readings.some((r) => r.round === check.round && !r.struck)
          ? sentence(check.no_estimate ?? '')
          : ''}
      </>
    )
  if (!estimate.signs) return <>By feel only: kept, and signs nothing off.</>
  if (estimate.bracket && verdict.call === 'too_close')
    return <>Too close to call: a limit lies between the leaves. The one to try next is below.</>
  const unlike = notAlike(check)
  if (unlike && unlike.alike === verdict.call && verdict.call !== 'in')
    return (
      <>
        Not alike: loosest and tightest are {show(unlike.spread_nm, unit)} apart, up to{' '}
        {show(unlike.alike_nm, unit)} allowed.
        {unlike.odd != null && ` Pinion ${unlike.odd} is the odd one.`}
      </>
    )
  if (check.selector && verdict.call === 'loose')
    return <>Too far off the middle by {show(-(verdict.to_high_nm ?? 0), unit)}.</>
  switch (verdict.call) {
    case 'in':
      if (check.pinions) return <>All in the window and alike, {percent(verdict.chance)} sure.</>

      return <>In the window, {percent(verdict.chance)} sure.</>
    case 'tight':
      return <>Tight by {show(-(verdict.to_low_nm ?? 0), unit)}. Rides up short of the slot.</>
    case 'loose':
      return <>Loose by {show(-(verdict.to_high_nm ?? 0), unit)}. Rides up past the slot.</>
    case 'failed':
      return <>Not as it should be.</>
    case 'too_close': {
      const by = verdict.settled_by
      return (
        <>
          Too close to call: {percent(verdict.chance)} that it is in.{' '}
          {by?.kind === 'more_readings' &&
            `${by.more} more ${by.more === 1 ? 'reading' : 'readings'} like these would settle it.`}
          {by?.kind === 'finer_gauge' && 'More readings would not settle it; a finer gauge would.'}
          {by?.kind === 'judgement' && 'It lies on the limit: nothing here can settle it but judgement.'}
          {verdict.one_more && (
            <span className="block text-base font-normal">{oneMoreWords(verdict.one_more)}</span>
          )}
        </>
      )
    }
  }
}
