// One job: its shafts with every check as a cut, and the same as a list.
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Box, Schemas } from '../../domain/schema'
import { useBox, useParts } from '../../api/queries'
import { useWaits } from '../../ui/awaited'
import { useJobAct } from '../../ui/acts'
import { AskReason, Loading, Trouble } from '../../ui/Parts'
import { PackStack } from '../../charts/PackStack'
import { ShaftRail } from '../../charts/ShaftRail'
import { StateMark } from '../../charts/StateMark'
import { answerName, markOf, markWords, partStateName, phaseName, phaseWords } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { Told } from '../check/Told'
import { PartsList } from '../parts/PartsList'
import { PartSheet } from '../parts/PartSheet'
import { givenWords } from '../identify/words'
import { Promised } from '../intake/Promised'
import { WaitsFor } from '../intake/WaitsFor'
import { Pictures } from '../pictures/Pictures'
import { Card } from './Card'
import { CloseOnce } from './CloseOnce'
import { Log } from './Log'
import { clearance, dayText, showStated, unitName, windowOf } from '../../domain/units'
import { allInSentence, inSentence } from '../../domain/words'

export function BoxView() {
  const jobNo = Number(useParams().jobNo)
  const { data, error } = useBox(jobNo)
  const box = useSoon(data)
  const [part, setPart] = useState<string | null>(null)
  useTitle(box ? `Job ${jobNo}, ${box.title}` : undefined)
  if (!box && error) return <Trouble error={error as unknown as Refused} />
  if (!box) return <Loading what="the box" />
  const to = (key: string) => `/jobs/${jobNo}/checks/${key}`
  return (
    <main>
      <Next box={box} to={to} />
      <Told box={box} />
      <div className="grid lg:grid-cols-[minmax(0,1fr)_23rem]">
        <section aria-label="Shafts" className="min-w-0 border-line px-3 py-5 sm:px-6 lg:border-r">
          <ShaftRail rail={box.rail} checks={box.checks} next={box.next_check} to={to} onPart={setPart} />
          <HowItIsDrawn />
          <Parts job={jobNo} part={part} onPart={setPart} />
          {box.packs.map((pack) => (
            <PackLine key={pack.key} pack={pack} box={box} to={to(pack.check)} />
          ))}
          {box.allowed.work && <CloseOnce job={jobNo} />}
        </section>
        <aside className="px-3 py-5 sm:px-6">
          {!box.for_parts && (
            <h2 className="text-lg">
              {box.checks.length} checks, {box.signed_count} signed
            </h2>
          )}
          <ol className="ruled mt-1" aria-label="Checks">
            {box.checks.map((check) => (
              <CheckLine
                key={check.check_key}
                check={check}
                to={to(check.check_key)}
                next={check.check_key === box.next_check}
              />
            ))}
          </ol>
          <Pictures job={box.job_no} title="Pictures" open={box.allowed.work} />
          <Log box={box} />
          <Card box={box} />
        </aside>
      </div>
    </main>
  )
}

/** What a rail and a cut are, where they are seen first. */
function HowItIsDrawn() {
  return (
    <p className="no-print mt-1 text-sm text-dim">
      Each shaft lies on its rail, its parts to scale. A cut is a check: the gap between two parts, opened up.
      Press one to work on it, or a part to see which way round it goes.
    </p>
  )
}

/** The parts of the box, and the card of one of them. */
function Parts({
  job,
  part,
  onPart,
}: {
  job: number
  part: string | null
  onPart: (part: string | null) => void
}) {
  const { data } = useParts(job)
  const parts = data?.parts ?? []
  const shown = parts.find((p) => p.key === part)
  return (
    <>
      {parts.length > 0 && <PartsList parts={parts} onPart={onPart} />}
      {shown && (
        <PartSheet part={shown} onClose={() => onPart(null)}>
          {shown.found && (
            <p className="mt-2">
              <strong>{partStateName[shown.found.state]}</strong>, said {shown.found.who}
              {[...(shown.found.conditions ?? []), shown.found.why]
                .filter(Boolean)
                .map((word) => ` · ${word}`)}
            </p>
          )}
          {shown.step != null && (
            <p className="mt-2">
              {shown.is_in ? 'In the box' : 'Not in yet'}:{' '}
              <Link className="link" to={`/jobs/${job}/build`}>
                step {shown.step + 1} of the build
              </Link>
            </p>
          )}
        </PartSheet>
      )}
    </>
  )
}

/** A clutch pack in its drum, with where its check stands. */
function PackLine({ pack, box, to }: { pack: Schemas['DrawnPack']; box: Box; to: string }) {
  const check = box.checks.find((c) => c.check_key === pack.check)
  if (!check) return null
  return (
    <section aria-label={pack.name} className="mt-2">
      <p className="flex flex-wrap items-center gap-3">
        <span className="text-[17px] font-bold">{pack.name}</span>
        <Link className="link inline-flex min-h-12 items-center gap-2" to={to}>
          <StateMark state={markOf(check.call)} open={check.phase !== 'signed'} size={24} />
          {phaseName[check.phase]}
        </Link>
      </p>
      <PackStack pack={pack} />
    </section>
  )
}

/** What was seen that what it is taken for does not have; else, of several builds, which it is or may be. */
function WhatItIs({ box }: { box: Box }) {
  const { unit } = useBench()
  const to = `/jobs/${box.job_no}/identify`
  const [seen] = box.contradicted
  const name = box.build_of?.name ?? box.sheet
  if (seen)
    return (
      <p role="alert" className="mt-1 border-l-4 border-oxide bg-card px-3 py-1">
        <strong>This is not what it is taken for, {name}.</strong> {seen.ask}: {givenWords(seen.given, unit)}{' '}
        here, it has {seen.tells}.{' '}
        <Link className="link inline-flex min-h-11 items-center" to={to}>
          What is it?
        </Link>
      </p>
    )
  if (!box.build_of) return null
  return (
    <p className="text-dim">
      {box.build_known ? name : `Taken for ${name}: nobody has said so yet`}.{' '}
      {!box.finished_at && (
        <Link className="link inline-flex min-h-11 items-center" to={to}>
          What is it?
        </Link>
      )}
    </p>
  )
}

/** Why a box goes on which not everything was seen to. */
const WHY_ALL_THE_SAME = [
  'Not part of this job',
  'Done, and not written down here',
  'The customer wants it as it is',
]

/** The one next thing. */
function Next({ box, to }: { box: Box; to: (key: string) => string }) {
  const act = useJobAct(box.job_no)
  const waits = useWaits(box.job_no, box.next_check)
  const name = inSentence(box.next_name ?? '')
  const away = box.standing === 'put_away'
  const open = box.allowed.work
  const unseen = box.not_seen_to
  const say = away
    ? `Put away ${dayText(box.put_away_at ?? '')}`
    : box.finished_at
      ? `Handed over ${dayText(box.finished_at)} by ${box.finished_by ?? ''}`
      : box.next_step
        ? `Next: ${inSentence(box.next_step)}`
        : box.for_parts
          ? 'For parts: what is sound goes into other boxes'
          : box.next_phase === 'hand_over'
            ? `Every check is signed off${unseen.length > 0 ? '' : ': hand over'}`
            : box.next_phase === 'await_part'
              ? [waits.toOrder && `${waits.toOrder} to order`, waits.onOrder].filter(Boolean).join(', ') +
                ` for ${name}`
              : `Next: ${box.next_phase ? phaseWords[box.next_phase] : ''} ${name}`
  const [asking, setAsking] = useState(false)
  const waitIsOver = () => {
    const { title, customer, complaint, intake } = box
    const after = { ...intake, waits_for: undefined }
    act.mutate({ act: 'card', title, customer, complaint, intake: after })
  }
  const handOver = (reason: string) => act.mutate({ act: 'hand_over', reason })
  return (
    <div className="flex flex-wrap items-center gap-x-6 gap-y-3 border-b border-line px-3 py-4 sm:px-6">
      <div className="mr-auto min-w-0 wrap-anywhere">
        <h1 className="text-2xl">{say}</h1>
        <p className="text-dim">
          {box.title} · {box.customer}
          {box.complaint && ` · ${box.complaint}`}
        </p>
        {(box.complaints.length > 0 || box.promised) && (
          <p className="text-dim">
            {box.complaints.length > 0 && (
              <strong className="text-ink">{allInSentence(box.complaints)}</strong>
            )}
            {box.complaints.length > 0 && box.promised && ' · '}
            <Promised day={box.promised} done={box.finished_at != null} />
          </p>
        )}
        {box.waits_for && !box.finished_at && (
          <p>
            <WaitsFor of={box.waits_for} />
            {open && (
              <button className="link ml-3 min-h-11" disabled={act.isPending} onClick={waitIsOver}>
                No longer
              </button>
            )}
          </p>
        )}
        {box.same_box.length > 0 && (
          <p className="text-dim">
            This box was here before:{' '}
            {box.same_box.slice(0, 3).map((job, i) => (
              <span key={job.job_no}>
                {i > 0 && ', '}
                <Link className="link" to={`/jobs/${job.job_no}/report`}>
                  job {job.job_no}, {dayText(job.finished_at ?? job.opened_at)}
                </Link>
              </span>
            ))}
            .{' '}
            <Link className="link inline-flex min-h-11 items-center" to={`/jobs/${box.job_no}/since`}>
              What has changed since
            </Link>
          </p>
        )}
        {unseen.length > 0 && <p>Not seen to: {unseen.join('; ')}.</p>}
        <WhatItIs box={box} />
        {!asking && <Trouble error={act.error} />}
      </div>
      {open && !box.for_parts && box.next_phase !== 'hand_over' && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/plan`}>
          Plan
        </Link>
      )}
      {open && (
        <Link className={box.for_parts ? 'press' : 'press-quiet'} to={`/jobs/${box.job_no}/strip`}>
          Strip
        </Link>
      )}
      {box.for_parts && (
        <Link className="press-quiet" to="/shelf">
          Shelf
        </Link>
      )}
      {open && !box.for_parts && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/donors`}>
          Donors
        </Link>
      )}
      {open && !box.for_parts && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/build`}>
          Build{box.step_count != null && `, ${box.steps_done ?? 0} of ${box.step_count}`}
        </Link>
      )}
      <Link className="press-quiet" to={`/jobs/${box.job_no}/report`}>
        Report
      </Link>
      {open && box.checks.some((c) => c.phase === 'choose' || c.phase === 'fit') && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/together`}>
          Choose together
        </Link>
      )}
      {open && waits.toOrder && (
        <Link className="press-quiet" to="/order">
          The order
        </Link>
      )}
      {box.allowed.take_back && (
        <button
          className="press-quiet"
          disabled={act.isPending}
          onClick={() => act.mutate({ act: 'take_back' })}
        >
          Take it back
        </button>
      )}
      {box.allowed.bring_back && (
        <button className="press" disabled={act.isPending} onClick={() => act.mutate({ act: 'bring_back' })}>
          Bring it back to the bench
        </button>
      )}
      {open && box.next_step && (
        <Link className="press" data-next to={`/jobs/${box.job_no}/build`}>
          To the build <span aria-hidden="true">⏎</span>
        </Link>
      )}
      {box.allowed.hand_over && (
        <button
          className={unseen.length > 0 ? 'press-quiet' : 'press'}
          data-next={unseen.length > 0 ? undefined : true}
          onClick={() => (unseen.length > 0 ? setAsking(true) : handOver(''))}
          disabled={act.isPending}
        >
          Hand over{unseen.length > 0 && ' all the same'}
        </button>
      )}
      {asking && (
        <AskReason
          title={`Hand job ${box.job_no} over all the same?`}
          label="Or another reason"
          press="Hand it over"
          suggestions={WHY_ALL_THE_SAME}
          onGive={handOver}
          onClose={() => setAsking(false)}
        />
      )}
      {open && box.next_check && (
        <Link className={box.next_step ? 'press-quiet' : 'press'} to={to(box.next_check)}>
          Open it <span aria-hidden="true">⏎</span>
        </Link>
      )}
    </div>
  )
}

function CheckLine({ check, to, next }: { check: Schemas['BoxCheck']; to: string; next: boolean }) {
  const { unit } = useBench()
  const c = check.shown_nm == null ? null : clearance(check.shown_nm, unit, false, check.kind)
  const state = markOf(check.call)
  const signed = check.phase === 'signed'
  const centring = check.kind === 'selector_centring'
  const words = [
    signed
      ? `signed ${check.signed_by ?? ''}`
      : (centring || check.kind === 'selector_limits') && check.phase === 'choose'
        ? 'shims to move'
        : phaseName[check.phase],
    c && !signed && (centring && state === 'loose' ? 'too far off' : markWords[state]),
    check.awaited_nm != null && `waits for ${showStated(check.awaited_nm, unit)} ${unitName[unit]}`,
    !signed && check.waits_for.length > 0 && `after ${allInSentence(check.waits_for)}`,
  ].filter(Boolean)
  const line = (
    <>
      <span className="min-w-0">
        <span className="block font-bold">{check.name}</span>
        <span className="block text-sm text-dim">
          {words.join(' · ')}
          <br />
          {check.kind !== 'pass_fail' && !check.by_chart && 'window '}
          {windowOf(check, unit)}
        </span>
      </span>
      <span className="figure text-right text-lg">
        {c
          ? c.figure
          : check.shown_n_m != null
            ? check.shown_n_m.toFixed(2)
            : check.answer
              ? answerName[check.answer]
              : ''}
        {check.shown_n_m != null && <span className="block font-sans text-sm text-dim">N·m</span>}
        {(c?.word === 'preload' || c?.word === 'pinch') && (
          <span className="block font-sans text-sm text-dim">{c.word}</span>
        )}
      </span>
      <StateMark state={state} open={!signed} />
    </>
  )
  const shape = 'grid grid-cols-[1fr_auto_auto] items-center gap-3 py-3'
  return (
    <li className={next ? 'border-l-4 border-l-blue pl-3' : ''}>
      {check.phase === 'elsewhere' ? (
        <div className={shape}>{line}</div>
      ) : (
        <Link to={to} className={`${shape} hover:bg-card`}>
          {line}
        </Link>
      )}
    </li>
  )
}
