// What can be done when nothing in the drawer fits, each way with its numbers.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, server, type Refused } from '../../../api/client'
import { sizeCounts } from '../../../domain/pieces'
import type { CheckView, Schemas } from '../../../domain/schema'
import { Field } from '../../../ui/Field'
import { Micrometer } from '../../../ui/Micrometer'
import { Ask, Trouble } from '../../../ui/Parts'
import { useBench } from '../../../domain/session'
import { percent, piecesText, show, showStated, unitName, windowWords } from '../../../domain/units'
import { AimOtherwise } from '../target/Target'
import type { Acting } from '../acting'
import { inSentence } from '../../../domain/words'
import { useChooseAll } from './choose-all'

export function WaysOut({ check, ways, act }: { check: CheckView; ways: Schemas['Fallbacks']; act: Acting }) {
  const { unit } = useBench()
  const [aiming, setAiming] = useState(false)
  const [grinding, setGrinding] = useState(false)
  const u = unitName[unit]
  const { from_nm: from, to_nm: to, stack_more: more, no_longer_made: gone, grind, step_nm: step } = ways
  const book = check.by_book?.best
  return (
    <div className="mt-5" data-testid="ways-out">
      <h3 className="text-base">Ways out</h3>
      {step != null && (
        <p className="mt-1 border-l-4 border-brass bg-brass-soft px-3 py-2">
          The window is narrower than the drawer’s steps of {showStated(step, unit)} {u}: whether one of them
          lands in it is luck. A measured piece, a ground one or a stack is the surer way.
        </p>
      )}
      <ul className="ruled">
        <li className="py-2">
          {from != null && to != null ? (
            <>
              <Link className="link" to={`/jobs/${check.job_no}/order`}>
                Order
              </Link>{' '}
              or make a piece from <strong className="figure">{show(from, unit)}</strong> to{' '}
              <strong className="figure">{show(to, unit)}</strong> {u}; best{' '}
              <strong className="figure">{show(ways.wanted_nm, unit)}</strong>.
            </>
          ) : (
            <>
              The readings are not sure enough for so narrow a window: no thickness would reach{' '}
              {percent(check.floor)}. More readings, or a finer gauge, first.
            </>
          )}
        </li>
        <Swaps check={check} />
        {more && (
          <li className="flex items-center justify-between gap-3 py-2">
            <span>
              Stack more than the sheet allows:{' '}
              <strong className="figure">{piecesText(more.pieces, unit)}</strong> gives{' '}
              {show(Math.abs(more.predicted_nm), unit)} {u}, {percent(more.chance)} in.
            </span>
            <button
              className="press-quiet shrink-0"
              disabled={act.isPending}
              onClick={() =>
                act.mutate({
                  act: 'choose',
                  pieces: sizeCounts(more.pieces),
                })
              }
            >
              Choose
            </button>
          </li>
        )}
        {gone && (
          <li className="py-2">
            <strong className="figure">{piecesText(gone.pieces, unit)}</strong> would give{' '}
            {show(Math.abs(gone.predicted_nm), unit)} {u}, {percent(gone.chance)} in, but there is none on
            hand and it is no longer made: count one in if you can find it.
          </li>
        )}
        {grind && (
          <li className="flex items-center justify-between gap-3 py-2">
            <span>
              Grind {grind.fitted ? 'the one that is fitted,' : 'a'} {showStated(grind.from_nm, unit)}
              {grind.fitted ? ',' : ''} down by <strong className="figure">{show(grind.by_nm, unit)}</strong>{' '}
              {u}, and mic it.
            </span>
            <button className="press-quiet shrink-0" onClick={() => setGrinding(true)}>
              I ground it
            </button>
          </li>
        )}
        <li className="flex items-center justify-between gap-3 py-2">
          <span>
            {book ? (
              <>
                By the book’s window, {windowWords(check.by_book?.window, unit)},{' '}
                <strong className="figure">{piecesText(book.pieces, unit)}</strong> gives{' '}
                {show(Math.abs(book.predicted_nm), unit)} {u}, {percent(book.chance)} in.
              </>
            ) : (
              'Another window or target on this job, with a reason.'
            )}
          </span>
          <button className="press-quiet shrink-0" onClick={() => setAiming(true)}>
            Set otherwise
          </button>
        </li>
      </ul>
      {grinding && grind && (
        <Ground
          check={check}
          grind={grind}
          wanted={ways.wanted_nm}
          act={act}
          onClose={() => setGrinding(false)}
        />
      )}
      {aiming && <AimOtherwise check={check} act={act} toBook={!!book} onClose={() => setAiming(false)} />}
    </div>
  )
}

interface GroundProps {
  check: CheckView
  grind: Schemas['Grind']
  wanted: number
  act: Acting
  onClose: () => void
}

/** What a ground piece measures now: it is a line of its own in the drawer from then on, and fitted. */
function Ground({ check, grind, wanted, act, onClose }: GroundProps) {
  const { unit } = useBench()
  const [measured, setMeasured] = useState('')
  const [gauge, setGauge] = useState<string>()
  const [putBack, setPutBack] = useState(false)
  const refused = act.error?.problem
  const fault = refused?.field === 'measured' ? refused.title : undefined
  return (
    <Ask open onClose={onClose} title={`Ground from ${showStated(grind.from_nm, unit)} ${unitName[unit]}`}>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          act.mutate(
            {
              act: 'ground',
              marked_nm: grind.fitted ? null : grind.from_nm,
              measured,
              unit,
              gauge_key: gauge,
              put_back: putBack,
            },
            { onSuccess: onClose },
          )
        }}
      >
        <Field
          label="It measures now, by micrometer"
          hint={`Wanted: ${show(wanted, unit)} ${unitName[unit]}. It is a line of its own in the drawer from now on, and noted as fitted.`}
          value={measured}
          onChange={setMeasured}
          fault={fault}
          placeholder={`in ${unitName[unit]}`}
        />
        <Micrometer value={gauge} onChange={setGauge} />
        {!grind.fitted && check.fitted_nm != null && check.fitted_nm > 0 && (
          <label className="mb-3 flex min-h-12 items-center gap-3">
            <input
              type="checkbox"
              className="size-6 accent-[var(--blue)]"
              checked={putBack}
              onChange={(e) => setPutBack(e.target.checked)}
            />
            What comes out for it is sound: back in the drawer
          </label>
        )}
        {!fault && <Trouble error={act.error} />}
        <div className="flex justify-end gap-3">
          <button type="button" className="press-quiet" onClick={onClose}>
            Leave it
          </button>
          <button className="press" disabled={!measured.trim() || act.isPending}>
            It is fitted
          </button>
        </div>
      </form>
    </Ask>
  )
}

/** Pieces that another job has set aside, where both can still be set. */
function Swaps({ check }: { check: CheckView }) {
  const path = { job_no: check.job_no, check_key: check.check_key }
  const { data, error } = useQuery({
    queryKey: ['swaps', check.job_no, check.check_key, check.version],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/checks/{check_key}/swaps', { params: { path } })),
  })
  const [asked, setAsked] = useState<Schemas['SwapView'] | null>(null)
  const swap = useChooseAll(check.job_no)
  const doSwap = (s: Schemas['SwapView']) =>
    swap.mutate(
      {
        choices: [
          { ...path, version: check.version, pieces: sizeCounts(s.mine.pieces) },
          {
            job_no: s.job_no,
            check_key: s.check_key,
            version: s.version,
            pieces: sizeCounts(s.theirs.pieces),
          },
        ],
        said: `Swapped with job ${s.job_no}, which is told.`,
      },
      { onSuccess: () => setAsked(null) },
    )
  return (
    <>
      {data?.map((s) => (
        <SwapLine key={`${s.job_no} ${s.check_key} ${s.mine.total_nm}`} swap={s} onSwap={() => setAsked(s)} />
      ))}
      {asked && (
        <AskSwap
          swap={asked}
          check={check}
          pending={swap.isPending}
          error={swap.error}
          onSwap={() => doSwap(asked)}
          onClose={() => setAsked(null)}
        />
      )}
      {(error ?? swap.error) && (
        <li>
          <Trouble error={swap.error ?? (error as Refused | null)} />
        </li>
      )}
    </>
  )
}

/** Both figures before anything of another job is taken. */
function AskSwap({
  swap: s,
  check,
  pending,
  error,
  onSwap,
  onClose,
}: {
  swap: Schemas['SwapView']
  check: CheckView
  pending: boolean
  error: Refused | null
  onSwap: () => void
  onClose: () => void
}) {
  const { unit } = useBench()
  const u = unitName[unit]
  const row = (job: number, name: string, c: Schemas['Choice'], now: string) => (
    <tr>
      <td className="td">
        Job {job}, {inSentence(name)}
      </td>
      <td className="td figure text-right">{piecesText(c.pieces, unit)}</td>
      <td className="td figure text-right">{show(Math.abs(c.predicted_nm), unit)}</td>
      <td className="td figure text-right">{percent(c.chance)}</td>
      <td className="td figure text-right text-dim">{now}</td>
    </tr>
  )
  return (
    <Ask open onClose={onClose} title={`Take it from job ${s.job_no}?`}>
      <table className="w-full">
        <thead>
          <tr>
            <th className="th">Check</th>
            <th className="th text-right">Gets, {u}</th>
            <th className="th text-right">Gives, {u}</th>
            <th className="th text-right">In</th>
            <th className="th text-right">Now</th>
          </tr>
        </thead>
        <tbody>
          {row(check.job_no, check.name, s.mine, '–')}
          {row(s.job_no, s.name, s.theirs, percent(s.held_chance))}
        </tbody>
      </table>
      <p className="mt-3 text-dim">
        Job {s.job_no} says so until somebody there has seen it; it can be put back from both.
      </p>
      <Trouble error={error} />
      <div className="mt-4 flex justify-end gap-3">
        <button className="press-quiet" onClick={onClose}>
          Leave it
        </button>
        <button className="press" disabled={pending} onClick={onSwap}>
          Swap
        </button>
      </div>
    </Ask>
  )
}

function SwapLine({ swap: s, onSwap }: { swap: Schemas['SwapView']; onSwap: () => void }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const gives = (c: Schemas['Choice']) =>
    `${show(Math.abs(c.predicted_nm), unit)} ${u}${c.predicted_nm < 0 ? ' preload' : ''}, ${percent(c.chance)} in`
  return (
    <li className="flex items-center justify-between gap-3 py-2">
      <span>
        Take <strong className="figure">{piecesText(s.mine.pieces, unit)}</strong> over from{' '}
        <Link className="link" to={`/jobs/${s.job_no}/checks/${s.check_key}`}>
          job {s.job_no}, {inSentence(s.name)}
        </Link>
        : gives {gives(s.mine)}. There <strong className="figure">{piecesText(s.theirs.pieces, unit)}</strong>{' '}
        does instead: {gives(s.theirs)} (now {percent(s.held_chance)}).
      </span>
      <button className="press-quiet shrink-0" onClick={onSwap}>
        Swap
      </button>
    </li>
  )
}
