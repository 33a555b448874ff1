import type { UseMutationResult } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { Gap, Refused, Schemas } from '../api/client'
import type { Act } from '../api/hooks'
import { AskWho } from '../ui/Header'
import { AskReason, Cautions, Len, Working } from '../ui/Parts'
import { useBench } from '../ui/bench-state'
import { show, unitName } from '../ui/units'
import { slipWords } from '../ui/words'
import { useReadingQueue } from './queue'

export type Acting = UseMutationResult<Gap, Refused, Act>

const WHY_STRUCK = [
  'decimal place lost',
  'wrong unit',
  'shaft not home',
  'gauge moved',
  'force flexed the case',
]

/** Readings, each saved as it is entered; the focus stays, so that a gauge can type and press Enter. */
export function Measure({ gap, act }: { gap: Gap; act: Acting }) {
  const { unit, who } = useBench()
  const field = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState('')
  const [fault, setFault] = useState('')
  const [striking, setStriking] = useState<number | null>(null)
  const [asking, setAsking] = useState(false)
  const queue = useReadingQueue(gap.job_no, gap.check_key, (text, error) => {
    setFault(error.problem.title)
    setTyped((now) => now || text)
  })
  const now = gap.readings.filter((r) => r.round === gap.round)
  const earlier = gap.readings.filter((r) => r.round < gap.round)
  const closed = gap.signed != null || gap.setting?.state === 'chosen'
  const counted = gap.estimate?.readings ?? 0
  // Ready for the gauge whenever readings can be taken, without scrolling the figure away.
  useEffect(() => {
    if (!closed) field.current?.focus({ preventScroll: true })
  }, [closed, gap.round])
  const enter = (event: React.FormEvent) => {
    event.preventDefault()
    const text = typed.trim()
    if (!text) {
      setFault('Nothing is typed: type a figure, such as 0.15 or 6 1/2 thou.')
      return
    }
    if (!who) {
      setAsking(true)
      return
    }
    queue.add(text, unit, who)
    setTyped('')
    setFault('')
    field.current?.focus()
  }
  return (
    <section aria-label="Measure" className="border-line px-3 py-5 sm:px-6 lg:border-r">
      <h2 className="text-lg">
        Measure{' '}
        {counted > 1 && gap.estimate && (
          <span className="figure text-base font-medium text-dim">
            {counted} readings, {show(gap.estimate.spread_nm, unit)} apart
          </span>
        )}
      </h2>
      {gap.how && <p className="mt-1 text-dim">{gap.how}</p>}
      {earlier.length > 0 && (
        <p className="mt-2 text-sm text-dim">
          Round {gap.round + 1}, after fitting. Earlier readings are in the history below.
        </p>
      )}
      {now.length > 0 && (
        <table className="mt-3 w-full">
          <thead>
            <tr>
              <th className="th">Trial</th>
              <th className="th text-right">Travel, {unitName[unit]}</th>
              <th className="th">By</th>
              <th className="th">
                <span className="sr-only">Strike out</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {now.map((r, i) => (
              <ReadingRow
                key={r.reading_no}
                {...{ reading: r, trial: i + 1, closed, act, onStrike: () => setStriking(r.reading_no) }}
              />
            ))}
          </tbody>
        </table>
      )}
      {queue.waiting.map((w) => (
        <p
          key={w.key}
          className="flex items-center gap-2 border-t border-dashed border-line py-2"
          role="status"
        >
          <span className="figure font-semibold">{w.typed}</span>
          <span className="text-dim">
            {queue.unreachable
              ? 'waits: the server does not answer; it is kept here and sent again'
              : 'being saved'}
          </span>
        </p>
      ))}
      {closed ? (
        <p className="mt-3 text-dim">
          {gap.signed ? 'Signed off: reopen it to measure again.' : 'Pieces are chosen on these readings.'}
        </p>
      ) : (
        <form onSubmit={enter} className="mt-4" noValidate>
          <label htmlFor="reading" className="mb-1 block font-semibold">
            Travel, turning the shaft between trials
          </label>
          <div className="flex gap-2">
            <input
              id="reading"
              ref={field}
              className="field figure text-xl"
              autoComplete="off"
              inputMode="text"
              value={typed}
              placeholder={`in ${unitName[unit]}`}
              aria-invalid={fault !== ''}
              aria-describedby="reading-hint"
              onChange={(e) => {
                setTyped(e.target.value)
                setFault('')
              }}
            />
            <button className="press shrink-0">
              Keep <span aria-hidden="true">⏎</span>
            </button>
          </div>
          {fault && (
            <p role="alert" className="mt-2 font-semibold text-oxide">
              {fault}
            </p>
          )}
          <p id="reading-hint" className="mt-2 text-sm text-dim">
            Any way you write it: 6 1/2 thou, .0065", 0,15 mm, 150 µm. A mil is a thou. {gap.gauge_name}: step{' '}
            <Len nm={gap.gauge.resolution_nm} />, error ± <Len nm={gap.gauge.permissible_error_nm} />.
          </p>
        </form>
      )}
      {gap.estimate && (
        <div className="mt-4">
          <Working lines={gap.estimate.working} />
        </div>
      )}
      {now.length === 0 && gap.ready.length > 0 && !closed && <Ready ready={gap.ready} />}
      <Cautions of={gap.cautions} />
      {striking !== null && (
        <AskReason
          title="Strike this reading out?"
          label="Or another reason"
          press="Strike out"
          suggestions={WHY_STRUCK}
          onGive={(reason) => act.mutate({ act: 'mark', reading: striking, mark: 'struck', reason })}
          onClose={() => setStriking(null)}
        />
      )}
      <AskWho open={asking} onClose={() => setAsking(false)} />
    </section>
  )
}

function Ready({ ready }: { ready: Schemas['Ready'][] }) {
  return (
    <div className="mt-4">
      <h3 className="text-base">Before the first reading</h3>
      <ul className="ruled mt-1">
        {ready.map((r) => (
          <li key={r.tick} className="py-2">
            {r.tick} <span className="block text-sm text-dim">{r.why}</span>
          </li>
        ))}
      </ul>
    </div>
  )
}

interface RowProps {
  reading: Schemas['ReadingView']
  trial: number
  closed: boolean
  act: Acting
  onStrike: () => void
}

function ReadingRow({ reading: r, trial, closed, act, onStrike }: RowProps) {
  const { unit } = useBench()
  const say = (mark: Schemas['MarkKind'], reason = '') =>
    act.mutate({ act: 'mark', reading: r.reading_no, mark, reason })
  return (
    <>
      <tr>
        <td className="td">{trial}</td>
        <td
          className={`td figure text-right text-lg ${r.struck ? 'line-through opacity-70' : ''}`}
          title={`typed ${r.typed}`}
        >
          {show(r.travel_nm, unit)}
        </td>
        <td className="td text-dim">{r.who}</td>
        <td className="td text-right">
          {!closed &&
            (r.struck ? (
              <button
                className="link min-h-10"
                onClick={() => say('restored')}
                aria-label={`Restore trial ${trial}`}
              >
                restore
              </button>
            ) : (
              <button className="link min-h-10" onClick={onStrike} aria-label={`Strike out trial ${trial}`}>
                strike out
              </button>
            ))}
        </td>
      </tr>
      {r.struck && (
        <tr>
          <td />
          <td colSpan={3} className="pb-2 text-right text-sm text-dim">
            struck out: {r.struck}
          </td>
        </tr>
      )}
      {r.question && !closed && <Question reading={r} slip={r.question} say={say} />}
    </>
  )
}

function Question({
  reading,
  slip,
  say,
}: {
  reading: Schemas['ReadingView']
  slip: Schemas['Slip']
  say: (mark: Schemas['MarkKind'], reason?: string) => void
}) {
  const { unit } = useBench()
  const meant = `${show(slip.meant_nm, unit)} ${unitName[unit]}`
  return (
    <tr>
      <td colSpan={4} className="border-l-4 border-brass bg-brass-soft px-3 py-3">
        <p role="status">
          <strong>Did you mean {meant}?</strong> It looks like {slipWords[slip.cause]}.
        </p>
        <div className="mt-2 flex flex-wrap gap-2">
          <button
            className="press-quiet"
            onClick={() => say('struck', `meant ${meant}: ${slipWords[slip.cause]}`)}
          >
            Yes: strike it out
          </button>
          <button className="press-quiet" onClick={() => say('kept')}>
            No, {show(reading.travel_nm, unit)} is right
          </button>
        </div>
        <p className="mt-1 text-sm text-dim">
          Either way it stays on the record. Enter the right figure as a new reading.
        </p>
      </td>
    </tr>
  )
}
