// What is known of a check, as large as it can be, and what it means.
import type { Acting } from './acting'
import { answerName } from '../../domain/labels'
import { torqueWindow } from '../../domain/readings'
import type { CheckView, Schemas, Unit } from '../../domain/schema'
import { Link } from 'react-router'
import { useClashes, useSisters } from '../../api/queries'
import { useBench } from '../../domain/session'
import {
  clashWords,
  clearance,
  kindWords,
  percent,
  show,
  showStated,
  unitName,
  windowOf,
} from '../../domain/units'
import { TargetLine } from './target/Target'
import { capital, inSentence } from '../../domain/words'

/** The number that matters, as large as it can be, and what it means. */
export function Loud({ check, act }: { check: CheckView; act: Acting }) {
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
    <div className="px-3 py-3 sm:px-6 sm:py-5">
      <h1 className="text-xl">{check.name}</h1>
      <p className="mt-1 sm:mt-3" aria-live="polite">
        {check.torque ? (
          <>
            <span
              className="figure text-[3rem] sm:text-[4rem] leading-none font-semibold tracking-tight"
              data-testid="loud"
            >
              {check.torque.torque_n_m.toFixed(2)}
            </span>{' '}
            <span className="text-2xl font-semibold">N·m</span>
          </>
        ) : check.proof?.found ? (
          <span
            className="figure text-[3rem] sm:text-[4rem] leading-none font-semibold tracking-tight"
            data-testid="loud"
          >
            {answerName[check.proof.found.answer]}
          </span>
        ) : c ? (
          <>
            <span
              className="figure text-[3rem] sm:text-[4rem] leading-none font-semibold tracking-tight"
              data-testid="loud"
            >
              {c.figure}
            </span>{' '}
            <span className="text-2xl font-semibold whitespace-nowrap">
              {unitName[unit]} {c.word === 'nil' ? '' : c.word}
              {bound && (bound.lies === 'above' ? ' or more' : ' or tighter')}
              {weighted && ', weighted'}
            </span>
          </>
        ) : (
          <span className="block text-2xl font-semibold text-dim sm:py-4">
            {check.proof
              ? check.round > 0
                ? 'Asked again: not answered yet'
                : 'Not answered yet'
              : `Not measured ${check.round > 0 ? 'since fitting' : 'yet'}`}
          </span>
        )}
        <span className="mt-2 block text-lg font-bold" data-testid="verdict">
          <VerdictWords check={check} />
        </span>
      </p>
      {estimate?.readings === 0 && (
        <p className="font-semibold text-dim">By the sheet’s figures: nothing is measured yet.</p>
      )}
      <p className="mt-1 text-dim sm:mt-3">
        {check.aim
          ? [
              capital(check.by_chart ? windowOf(check, unit) : `window ${windowOf(check, unit)}`),
              aim && `aim ${aim}`,
            ]
              .filter(Boolean)
              .join(' · ')
          : check.proof
            ? ''
            : `Window ${torqueWindow(check.torque_window)}`}
        {aim && check.torque_window && ` · turns with ${torqueWindow(check.torque_window)}`}
        {check.set_by && ` · set by ${inSentence(check.set_by.family_name)}`}
      </p>
      <GrooveWords check={check} />
      <SistersWords check={check} />
      <Clashes check={check} />
      {check.rule && !check.pack && <p className="text-dim">No book’s window: {check.rule}.</p>}
      {check.look_up && !check.signed && (
        <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="look-up">
          Look the figures up before this is signed off{check.source && `: ${check.source}`}.
        </p>
      )}
      <TargetLine check={check} act={act} />
    </div>
  )
}

/** In its window, and yet far from what boxes of this sheet usually show. */
function SistersWords({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const on = check.verdict?.call === 'in' && check.estimate != null && !check.signed
  const { data } = useSisters(check.job_no, check.check_key, check.version, on)
  const unlike = data?.boxes?.unlike ? data.boxes : data?.gears?.unlike ? data.gears : null
  if (!on || !data || !unlike) return null
  const usual = clearance(unlike.mean_nm, unit, false, check.kind)
  return (
    <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2" role="status" data-testid="sisters">
      In its window, and unlike its sisters: {unlike.boxes}{' '}
      {unlike === data.gears ? 'other gears of this box lie' : 'boxes before it lay'} within {usual.figure} ±{' '}
      {show(unlike.within_nm, unit)} {unitName[unit]} {usual.word === 'nil' ? '' : usual.word}. Look whether a
      part is another than it should be.
    </p>
  )
}

/** An answer by hand and a figure that cannot both be so. */
function Clashes({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const { data } = useClashes(check.job_no, check.check_key, check.version, check.may_clash)
  return data?.map((clash) => (
    <p
      key={clash.proof_key + clash.check_key}
      className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2"
      role="status"
      data-testid="clash"
    >
      {clashWords(clash, unit)}{' '}
      <Link
        className="link"
        to={`/jobs/${check.job_no}/checks/${clash.proof_key === check.check_key ? clash.check_key : clash.proof_key}`}
      >
        {clash.proof_key === check.check_key ? clash.check : clash.proof}
      </Link>
    </p>
  ))
}

/** Whether the ring's groove is clear, by the height measured: the part is home then. */
function GrooveWords({ check }: { check: CheckView }) {
  const { unit } = useBench()
  if (!check.groove) return null
  const { edge_nm, verdict } = check.groove
  const { figure, word } = clearance(edge_nm, unit, true, check.kind)
  const by = `${show(Math.abs(verdict.to_high_nm ?? 0), unit)} ${unitName[unit]}`
  return (
    <p className="mt-1 font-semibold" data-testid="groove">
      Ring groove from {figure} {unitName[unit]} {word}:{' '}
      {verdict.call === 'in'
        ? `wholly clear, by ${by}.`
        : verdict.call === 'loose'
          ? `covered by ${by}. The part is not home.`
          : `too close to call, ${percent(verdict.chance)} that it is clear.`}
    </p>
  )
}

/** The pinions, where they are in the window each but not surely alike. */
function notAlike(check: CheckView) {
  const detail = check.ways.find((w) => w.counts)?.detail
  const found = detail?.kind === 'pinions' ? detail.pinions : null
  const inside = (check.verdict?.to_low_nm ?? 0) >= 0 && (check.verdict?.to_high_nm ?? 0) >= 0
  return found && inside && found.alike !== 'in' ? found : null
}

const sentence = (text: string) => text && capital(text) + (/[.?!]$/.test(text) ? '' : '.')

const side = (nm: number, unit: Unit, kind?: Schemas['CheckKind']) =>
  `${showStated(Math.abs(nm), unit)}${nm < 0 ? ` ${clearance(nm, unit, true, kind).word}` : ''}`

/** Measured with nothing in on purpose: out of the window then is what it is for, and no alarm. */
const withNothingIn = (check: CheckView) =>
  check.set_by != null &&
  check.ways.some(
    (w) => w.counts && (w.way === 'no_shim' || (w.way === 'depth_from_bar' && check.fitted_nm === 0)),
  )

/** Nothing moves: how likely that is right, by what the pieces that are in were to give. */
function StillWords({ verdict, check }: { verdict: Schemas['Verdict']; check: CheckView }) {
  const { unit } = useBench()
  const { expected } = verdict
  if (!expected)
    return (
      <>
        Tight by {show(-(verdict.to_low_nm ?? 0), unit)} {unitName[unit]} or more: nothing moves.
      </>
    )
  const c = clearance(expected.clearance_nm, unit, false, check.kind)
  const was = `going by the ${c.figure} ${unitName[unit]} ${c.word === 'nil' ? '' : c.word} that these pieces were to give`
  const tells = 'A known shim that opens the gap would tell how tight it is.'
  switch (verdict.call) {
    case 'in':
      return (
        <>
          Nothing moves, as it should: {percent(verdict.chance)} to be in the window, {was}.
        </>
      )
    case 'tight':
      return (
        <>
          Nothing moves, and it is tight, {was}. {tells}
        </>
      )
    default:
      return (
        <>
          Nothing moves: {percent(verdict.chance)} to be in the window, {was}. {tells}
        </>
      )
  }
}

/** Known from one side only: a verdict without a figure. */
function BoundWords({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const { verdict } = check
  if (verdict?.bound?.lies === 'below' && check.ways.some((w) => w.counts && w.way !== 'feeler'))
    return <StillWords verdict={verdict} check={check} />
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

/** The limits of parts are what is wide: which to measure, and how likely that settles it. */
function NextTermWords({ check, term }: { check: CheckView; term: number }) {
  const detail = check.ways.find((w) => w.counts)?.detail
  const next = detail?.kind === 'sum' ? detail.next.find((n) => n.term === term) : undefined
  const what = check.terms[term - 1]?.what
  if (!next || !what) return null
  return (
    <>
      The limits of parts leave it open. To measure next: {inSentence(what)}
      {next.settled > 0
        ? `, ${percent(next.settled)} that this settles it.`
        : '; one alone will not settle it.'}
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
  const detail = check.ways.find((w) => w.counts)?.detail
  const backlash = detail?.kind === 'backlash' ? detail.backlash : null
  if (unlike && unlike.alike === verdict.call && verdict.call !== 'in')
    return (
      <>
        Not alike: loosest and tightest are {show(unlike.spread_nm, unit)} apart, up to{' '}
        {show(unlike.alike_nm, unit)} allowed.
        {unlike.odd != null && ` Pinion ${unlike.odd} is the odd one.`}
      </>
    )
  if (verdict.call === 'failed' && backlash)
    return (
      <>
        The gear runs out by {show(backlash.run_out_nm, unit)} {unitName[unit]}, up to{' '}
        {show(backlash.allowed_nm, unit)} allowed.
        <span className="block text-base font-normal">
          No shim mends that: dirt under the ring gear, its screws, a bent flange, or teeth that are no pair.
        </span>
      </>
    )
  if (withNothingIn(check) && verdict.call !== 'in' && check.wanted)
    return (
      <>
        With nothing in; wants {show(check.wanted.thickness_nm, unit)} {unitName[unit]}.
      </>
    )
  if (check.selector && verdict.call === 'loose')
    return <>Too far off the middle by {show(-(verdict.to_high_nm ?? 0), unit)}.</>
  switch (verdict.call) {
    case 'in':
      if (backlash) return <>In the window and running true, {percent(verdict.chance)} sure.</>
      if (check.pinions) return <>All in the window and alike, {percent(verdict.chance)} sure.</>

      if (check.by_chart) return <>As the chart has it, {percent(verdict.chance)} sure.</>
      // A rule of thumb is no window, however well it is kept.
      if (check.rule) return <>About what the rule asks, {percent(verdict.chance)} to be within it.</>
      return <>In the window, {percent(verdict.chance)} sure.</>
    case 'tight':
      return (
        <>
          {capital(kindWords(check.kind).tight)} by {show(-(verdict.to_low_nm ?? 0), unit)} {unitName[unit]}.
        </>
      )
    case 'loose':
      return (
        <>
          {capital(kindWords(check.kind).loose)} by {show(-(verdict.to_high_nm ?? 0), unit)} {unitName[unit]}.
        </>
      )
    case 'failed':
      return <>Not as it should be.</>
    case 'too_close': {
      const by = verdict.settled_by
      return (
        <>
          Too close to call: {percent(verdict.chance)} that it is in.{' '}
          {by?.kind === 'more_readings' &&
            (by.more === 1 || !verdict.one_more
              ? `${by.more} more ${by.more === 1 ? 'reading' : 'readings'} like these would settle it.`
              : `${by.more} more readings like these would settle it; the next one alone takes the chance of being wrong from ${percent(verdict.one_more.wrong_now)} to ${percent(verdict.one_more.wrong_then)}.`)}
          {by?.kind === 'measure_term' && <NextTermWords check={check} term={by.term} />}
          {by?.kind === 'finer_gauge' && 'More readings would not settle it; a finer gauge would.'}
          {by?.kind === 'judgement' &&
            (check.choices?.ranked.some((c) => c.reaches_floor)
              ? 'It lies on the limit, whatever is measured: another piece settles it.'
              : 'It lies on the limit: nothing here can settle it but judgement.')}
        </>
      )
    }
  }
}
