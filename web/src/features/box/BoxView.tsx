// One job: its shafts with every check as a cut, and the same as a list.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Box, Schemas } from '../../domain/schema'
import { useBox } from '../../api/queries'
import { Cautions, Loading, Trouble } from '../../ui/Parts'
import { PackStack } from '../../charts/PackStack'
import { ShaftRail } from '../../charts/ShaftRail'
import { StateMark } from '../../charts/StateMark'
import { answerName, markOf, markWords, phaseName, phaseWords } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { clearance, dayText, showStated, unitName, whenText, windowWords } from '../../domain/units'

export function BoxView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error } = useBox(jobNo)
  useTitle(box ? `Job ${jobNo}, ${box.title}` : undefined)
  if (error) return <Trouble error={error as unknown as Refused} />
  if (!box) return <Loading what="the box" />
  const to = (key: string) => `/jobs/${jobNo}/checks/${key}`
  return (
    <main>
      <Next box={box} to={to} />
      <div className="grid lg:grid-cols-[minmax(0,1fr)_23rem]">
        <section aria-label="Shafts" className="min-w-0 border-line px-3 py-5 sm:px-6 lg:border-r">
          <ShaftRail rail={box.rail} checks={box.checks} next={box.next_check} to={to} />
          {box.packs.map((pack) => (
            <PackLine key={pack.key} pack={pack} box={box} to={to(pack.check)} />
          ))}
        </section>
        <aside className="px-3 py-5 sm:px-6">
          <h2 className="text-lg">
            {box.checks.length} checks, {box.signed_count} signed
          </h2>
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
          <Log box={box} />
          <Card box={box} />
        </aside>
      </div>
    </main>
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

/** The one next thing. */
function Next({ box, to }: { box: Box; to: (key: string) => string }) {
  const { unit, who } = useBench()
  const client = useQueryClient()
  const handOver = useMutation<Box, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/jobs/{job_no}/hand-over', {
          params: {
            path: { job_no: box.job_no },
            header: { 'Idempotency-Key': writeKey(), 'If-Match': `"${box.version}"` },
          },
          body: { who },
        }),
      ),
    onSuccess: (fresh) => {
      client.setQueryData(['job', box.job_no], fresh)
      void client.invalidateQueries({ queryKey: ['jobs'] })
    },
  })
  const name = box.next_name?.toLowerCase()
  const say = box.finished_at
    ? `Handed over ${dayText(box.finished_at)} by ${box.finished_by ?? ''}`
    : box.next_phase === 'hand_over'
      ? 'Every check is signed off: hand over'
      : box.next_phase === 'await_part' && box.next_piece_nm != null
        ? `Waits for ${showStated(box.next_piece_nm, unit)} ${unitName[unit]} on order, for ${name}`
        : `Next: ${box.next_phase ? phaseWords[box.next_phase] : ''} ${name}`
  return (
    <div className="flex flex-wrap items-center gap-x-6 gap-y-3 border-b border-line px-3 py-4 sm:px-6">
      <div className="mr-auto min-w-0 wrap-anywhere">
        <h1 className="text-2xl">{say}</h1>
        <p className="text-dim">
          {box.title} · {box.customer}
          {box.complaint && ` · ${box.complaint.toLowerCase()}`}
        </p>
        <Trouble error={handOver.error} />
      </div>
      {!box.finished_at && box.next_phase !== 'hand_over' && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/plan`}>
          Plan
        </Link>
      )}
      <Link className="press-quiet" to={`/jobs/${box.job_no}/report`}>
        Report
      </Link>
      {!box.finished_at && box.checks.some((c) => c.phase === 'choose' || c.phase === 'fit') && (
        <Link className="press-quiet" to={`/jobs/${box.job_no}/together`}>
          Choose together
        </Link>
      )}
      {!box.finished_at && box.next_phase === 'hand_over' && (
        <button className="press" onClick={() => handOver.mutate()} disabled={handOver.isPending}>
          Hand over
        </button>
      )}
      {!box.finished_at && box.next_check && (
        <Link className="press" to={to(box.next_check)}>
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
      : centring && check.phase === 'choose'
        ? 'shims to move'
        : phaseName[check.phase],
    c && !signed && (centring && state === 'loose' ? 'too far off' : markWords[state]),
    check.awaited_nm != null && `waits for ${showStated(check.awaited_nm, unit)} ${unitName[unit]}`,
    !signed && check.waits_for.length > 0 && `after ${check.waits_for.join(', ').toLowerCase()}`,
  ].filter(Boolean)
  const line = (
    <>
      <span className="min-w-0">
        <span className="block font-bold">{check.name}</span>
        <span className="block text-sm text-dim">
          {words.join(' · ')}
          <br />
          {check.kind !== 'pass_fail' && 'window '}
          {windowWords(check.window, unit, check.kind)}
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

/** What was noted on the job, and a line to note something more. */
function Log({ box }: { box: Box }) {
  const { who } = useBench()
  const client = useQueryClient()
  const [said, setSaid] = useState('')
  const note = useMutation<Box, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/jobs/{job_no}/notes', {
          params: { path: { job_no: box.job_no }, header: { 'Idempotency-Key': writeKey() } },
          body: { said, address: '', who },
        }),
      ),
    onSuccess: (fresh) => {
      client.setQueryData(['job', box.job_no], fresh)
      setSaid('')
    },
  })
  return (
    <section className="mt-6" aria-label="Log">
      <h2 className="text-lg">Log</h2>
      <form
        className="mt-1 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (said.trim()) note.mutate()
        }}
      >
        <input
          className="field"
          aria-label="Note something on this job"
          placeholder="Note something"
          value={said}
          maxLength={2000}
          onChange={(e) => setSaid(e.target.value)}
        />
        <button className="press-quiet shrink-0" disabled={!said.trim() || note.isPending}>
          Note
        </button>
      </form>
      <Trouble error={note.error} />
      <ul className="ruled">
        {box.notes.map((n, i) => (
          <li key={i} className="py-2">
            {n.said}{' '}
            {n.address && (
              <Link className="link" to={n.address}>
                the sum
              </Link>
            )}
            <span className="block text-sm text-dim">
              {n.who}, {whenText(n.at)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Card({ box }: { box: Box }) {
  return (
    <section className="mt-6 text-dim" aria-label="Job card">
      <p>
        Opened {dayText(box.opened_at)} by {box.opened_by} on{' '}
        <Link className="link" to={`/sheets/${box.sheet_key}`}>
          {box.sheet}
        </Link>
        , revision {box.revision}.
        {!box.finished_at && box.newest_revision > box.revision && (
          <>
            {' '}
            <Link className="link" to={`/jobs/${box.job_no}/revision`}>
              Revision {box.newest_revision} has come in: see what would change
            </Link>
          </>
        )}
      </p>
      <Cautions of={box.cautions} />
    </section>
  )
}
