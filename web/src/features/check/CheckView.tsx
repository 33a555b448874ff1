// One check on one screen, in the order of the work: measure, choose, confirm.
import { useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Gap, Schemas, Unit } from '../../domain/schema'
import { useAct } from '../../api/actions'
import { useGap } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { ProofMark } from '../../charts/ProofMark'
import { SlotGauge } from '../../charts/SlotGauge'
import { answerName } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { clearance, percent, show, showStated, unitName, windowWords } from '../../domain/units'
import { AimLine } from './target/Target'
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

export function GapView() {
  const params = useParams()
  const jobNo = Number(params.jobNo)
  const { data: gap, error } = useGap(jobNo, params.checkKey ?? '')
  useTitle(gap ? `${gap.name}, job ${jobNo}` : undefined)
  if (error) return <Trouble error={error as unknown as Refused} />
  if (!gap) return <Loading what="the check" />
  return <GapScreen key={`${jobNo}/${gap.check_key}`} gap={gap} />
}

function GapScreen({ gap }: { gap: Gap }) {
  const act = useAct(gap)
  const open = gap.setting?.state === 'chosen' ? gap.setting : null
  const first = gap.offered[0]?.choice ?? gap.choices?.ranked[0]
  const best = !gap.signed && gap.phase === 'choose' ? first : undefined
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
        <Loud gap={gap} act={act} />
        <div className="min-w-0 overflow-hidden px-3 pt-2 sm:px-6">
          {gap.aim ? (
            <SlotGauge
              window={gap.window}
              aim={gap.aim}
              kind={gap.kind}
              measured={
                gap.estimate && gap.verdict
                  ? {
                      nm: gap.estimate.clearance_nm,
                      expanded_nm: gap.verdict.expanded_nm,
                      call: gap.verdict.call,
                      label: gap.pinions ? 'worst' : gap.estimate.signs ? 'measured' : 'by hand',
                    }
                  : null
              }
              predicted={predicted ?? null}
            />
          ) : gap.proof ? (
            <ProofMark proof={gap.proof} />
          ) : (
            <TorqueGauge gap={gap} />
          )}
        </div>
      </section>
      <Trouble error={act.error} />
      <PackPanel gap={gap} act={act} />
      <div className="grid grid-cols-1 md:grid-cols-2 lg:grid-cols-[26rem_minmax(0,1fr)_16.5rem]">
        <Measure gap={gap} act={act} />
        {gap.selector ? <Shims gap={gap} act={act} /> : <Choose gap={gap} act={act} />}
        <Confirm gap={gap} act={act} />
      </div>
      <HotPlot gap={gap} />
      <History gap={gap} />
    </main>
  )
}

/** The number that matters, as large as it can be, and what it means. */
function Loud({ gap, act }: { gap: Gap; act: Acting }) {
  const { unit } = useBench()
  const { estimate } = gap
  const c = estimate && clearance(estimate.clearance_nm, unit, false, gap.kind)
  const weighted = gap.selector?.gears.some((g) => (g.weight ?? 1) > 1)
  const aim =
    !gap.selector &&
    gap.aim &&
    (gap.aim.from_nm === gap.aim.to_nm
      ? side(gap.aim.from_nm, unit, gap.kind)
      : `${side(gap.aim.from_nm, unit)} to ${side(gap.aim.to_nm, unit, gap.kind)}`)
  return (
    <div className="px-3 py-5 sm:px-6">
      <h1 className="text-xl">{gap.name}</h1>
      <p className="mt-3" aria-live="polite">
        {gap.torque ? (
          <>
            <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
              {gap.torque.torque_n_m.toFixed(2)}
            </span>{' '}
            <span className="text-2xl font-semibold">N·m</span>
          </>
        ) : gap.proof?.found ? (
          <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
            {answerName[gap.proof.found.answer]}
          </span>
        ) : c ? (
          <>
            <span className="figure text-[4rem] leading-none font-semibold tracking-tight" data-testid="loud">
              {c.figure}
            </span>{' '}
            <span className="text-2xl font-semibold whitespace-nowrap">
              {unitName[unit]} {c.word === 'nil' ? '' : c.word}
              {weighted && ', weighted'}
            </span>
          </>
        ) : (
          <span className="block py-4 text-2xl font-semibold text-dim">
            {gap.proof ? 'Not answered' : 'Not measured'}
            {gap.round > 0 ? ' since fitting' : ' yet'}
          </span>
        )}
        <span className="mt-2 block text-lg font-bold" data-testid="verdict">
          <VerdictWords gap={gap} />
        </span>
      </p>
      <p className="mt-3 text-dim">
        {gap.aim
          ? [`Window ${windowWords(gap.window, unit, gap.kind)}`, aim && `aim ${aim}`]
              .filter(Boolean)
              .join(' · ')
          : gap.proof
            ? ''
            : `Window ${torqueWindow(gap.torque_window)}`}
        {aim && gap.torque_window && ` · turns with ${torqueWindow(gap.torque_window)}`}
        {gap.set_by && ` · set by ${gap.set_by.family_name.toLowerCase()}`}
      </p>
      {gap.rule && !gap.pack && <p className="text-dim">No book’s window: {gap.rule}.</p>}
      <AimLine gap={gap} act={act} />
    </div>
  )
}

/** The pinions, where they are in the window each but not surely alike. */
function notAlike(gap: Gap) {
  const detail = gap.ways.find((w) => w.counts)?.detail
  const found = detail?.kind === 'pinions' ? detail.pinions : null
  const inside = (gap.verdict?.to_low_nm ?? 0) >= 0 && (gap.verdict?.to_high_nm ?? 0) >= 0
  return found && inside && found.alike !== 'in' ? found : null
}

const sentence = (text: string) =>
  text && text.charAt(0).toUpperCase() + text.slice(1) + (/[.?!]$/.test(text) ? '' : '.')

const side = (nm: number, unit: Unit, kind?: Schemas['CheckKind']) =>
  `${showStated(Math.abs(nm), unit)}${nm < 0 ? ` ${clearance(nm, unit, true, kind).word}` : ''}`

/** What one more reading would do, as computed. */
function oneMoreWords({ wrong_now: now, wrong_then: then }: Schemas['OneMore']) {
  const share = then / now
  if (!(now > 0) || share > 0.97) return 'One more reading would change next to nothing.'
  return `One more reading like these would take the chance of being on the wrong side of the limit from ${percent(now)} to ${percent(then)}.`
}

function VerdictWords({ gap }: { gap: Gap }) {
  const { unit } = useBench()
  const { verdict, estimate } = gap
  if (gap.proof) {
    const { found, otherwise } = gap.proof
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
  if (gap.torque) {
    const words = {
      in: 'In the window',
      tight: 'Turns too hard',
      loose: 'Turns too easily',
      too_close: 'Too close to call',
      failed: 'Not as it should be',
    }
    return (
      <>
        {words[gap.torque.call]}, {percent(gap.torque.chance)} to be in it.
      </>
    )
  }
  if (!verdict || !estimate)
    return (
      <>
        {gap.readings.some((r) => r.round === gap.round && !r.struck) ? sentence(gap.no_estimate ?? '') : ''}
      </>
    )
  if (!estimate.signs) return <>By feel only: kept, and signs nothing off.</>
  if (estimate.bracket && verdict.call === 'too_close')
    return <>Too close to call: a limit lies between the leaves. The one to try next is below.</>
  const unlike = notAlike(gap)
  if (unlike && unlike.alike === verdict.call && verdict.call !== 'in')
    return (
      <>
        Not alike: loosest and tightest are {show(unlike.spread_nm, unit)} apart, up to{' '}
        {show(unlike.alike_nm, unit)} allowed.
        {unlike.odd != null && ` Pinion ${unlike.odd} is the odd one.`}
      </>
    )
  if (gap.selector && verdict.call === 'loose')
    return <>Too far off the middle by {show(-(verdict.to_high_nm ?? 0), unit)}.</>
  switch (verdict.call) {
    case 'in':
      if (gap.pinions) return <>All in the window and alike, {percent(verdict.chance)} sure.</>

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
