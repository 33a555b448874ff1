import { memo, useEffect, useRef, useState } from 'react'
import { entryOf } from '../../../domain/readings'
import type { CheckView, Schemas, Unit } from '../../../domain/schema'
import { useFacts } from '../../../ui/acts'
import type { Acting } from '../acting'
import { useNotice } from '../../../ui/Notices'
import { AskReason, Cautions } from '../../../ui/Parts'
import { useBench } from '../../../domain/session'
import { dayText, show, unitName } from '../../../domain/units'
import { slipWords } from '../../../domain/labels'
import { BenchWarmth, Ready, Trial } from './Before'
import { Found } from './Found'
import { LiveGauge } from './LiveGauge'
import { useHand } from './hand'
import { readingIn, useWaiting } from './waiting'
import { Take } from '../methods/Take'
import { MethodPicker } from '../methods/MethodPicker'
import type { Fault } from '../methods/parts'
import { namesOf, readingWords, torqueText, type ReadingInput, type Method } from '../../../domain/readings'
import { methodWords } from '../../../domain/labels'
import { onceDrawn } from '../../../ui/focus'
import { capital } from '../../../domain/words'

/** How many quarters the shaft was turned by for a travel, where that was said. */
const turnedOf = (taken: Schemas['Reading'] | undefined) =>
  taken?.kind === 'travel' || taken?.kind === 'pair' ? (taken.turned ?? null) : null

/** Why a reading may be struck out, by how it was taken. */
const whyStruck = (way: Method) => [
  'mistyped',
  ...(way === 'yes_no' ? [] : ['decimal place lost', 'wrong unit']),
  ...(WHY_STRUCK[way] ?? ['shaft not home', 'gauge moved', 'force flexed the case']),
]

const WHY_STRUCK: Partial<Record<Method, string[]>> = {
  feeler: ['leaf dragged on its edge', 'leaves not clean', 'pack not pressed down'],
  depth_from_bar: ['bar not seated', 'old sealant on the joint', 'wrong place'],
  stack_sum: ['wrong part measured', 'burr on the part'],
  known_shim: [
    'another shim was in',
    'burr on the shim',
    'shim fouls the cage',
    'cup not seated',
    'shaft not home',
    'gauge moved',
  ],
  turning_torque: ['seal dragged', 'pull not square', 'shaft not free'],
  one_by_one: ['wrong pinion', 'gauge moved'],
  selector_gaps: ['detent not home', 'wrong gear'],
  yes_no: ['pressed by mistake', 'tried again after seating'],
  by_hand: ['felt again'],
}

const MARK_WORDS: Record<Schemas['ReadingMark'], string> = {
  struck: 'struck out',
  restored: 'restored',
  kept: 'right as it is:',
}

/** Says something of a reading. */
type Marking = (reading: number, mark: Schemas['ReadingMark'], reason?: string) => void
/** Strikes readings out for a reason and enters what was meant. */
type EnterMeant = (readings: number[], reason: string, meant: string) => void

/** Readings, each saved as it is entered; the focus stays, so that a gauge can type and press Enter. */
export function Measure({ check, act }: { check: CheckView; act: Acting }) {
  const { unit, who } = useBench()
  const notice = useNotice()
  const field = useRef<HTMLInputElement>(null)
  const hand = useHand(who, check.kind)
  const [chosenWay, setWay] = useState<Method>()
  // The sheet's own way, whatever was used on another check: what differs is the figure.
  const way = chosenWay ?? check.way ?? check.method
  const [gaugeKey, setGauge] = useState(hand.gauge ?? '')
  const gauges = check.gauges.filter((g) => g.ways.includes(way))
  const gauge = gauges.find((g) => g.key === gaugeKey) ?? gauges.find((g) => g.usual_for.includes(way))
  const [inGauges, setInGauges] = useState(false)
  const typedIn: Schemas['Unit'] = inGauges && gauge && isLength(gauge.unit) ? gauge.unit : unit
  const unitWord = `in ${typedIn === 'in' ? 'inches' : unitName[typedIn]}`
  const [fault, setFault] = useState<Fault | null>(null)
  // What the form begins with anew: what was refused, to be mended, or nothing.
  const [begun, setBegun] = useState<{ entry?: ReadingInput; times: number }>({ times: 0 })
  const begin = (entry?: ReadingInput) => setBegun((last) => ({ entry, times: last.times + 1 }))
  const [striking, setStriking] = useState<number | null>(null)
  const later = useFacts(check)
  const queue = useWaiting(check.job_no, check.check_key, (write, problem) => {
    const entry = readingIn(write)
    // Back into the field it goes, unless the next figure is there already.
    if (!entry || field.current?.value.trim()) return false
    setFault({ field: problem.field ?? undefined, title: problem.title })
    begin(entry)
    return true
  })
  const now = check.readings.filter((r) => r.round === check.round)
  const closed = !check.allowed.change
  // Ready for the gauge whenever readings can be taken, without scrolling the figure away.
  useEffect(() => {
    if (!closed) field.current?.focus({ preventScroll: true })
  }, [closed, check.round, way, begun])
  const asking = useRef(false)
  // After the last travel comes the next quarter, unless another was said since: what is shown first may be an older look.
  const last = now.filter((r) => !r.struck).at(-1)
  const lastTurned = turnedOf(last?.taken)
  const [saidTurned, sayTurned] = useState<{ after?: number; turned: number | null }>()
  const stands = saidTurned && (queue.waiting.length > 0 || saidTurned.after === last?.reading_no)
  const turned = stands ? saidTurned.turned : lastTurned === null ? null : (lastTurned + 1) % 4
  const setTurned = (to: number | null) => sayTurned({ after: last?.reading_no, turned: to })
  const take = (entry: ReadingInput): boolean => {
    const text = entryOf(entry)
    if (!text) {
      setFault({ title: 'Nothing is typed: type a figure, such as 0.15 or 6 1/2 thou.' })
      return false
    }
    if (entry.kind === 'known_shim' && !entry.shim.trim()) {
      setFault({ field: 'shim', title: 'Say how thick the shim is that is in, or that none is.' })
      document.getElementById('shim')?.focus()
      return false
    }
    setFault(null)
    if (asking.current) return false
    const turning = turned !== null && who
    const kept = later.read({ way, entry, unit: typedIn, gauge_key: gauge?.key ?? null }, text)
    if (turning) setTurned((turned + 1) % 4)
    if (who) return true
    // The figure stays in its field until somebody says who took it; pressed again meanwhile, it is still one reading.
    asking.current = true
    void kept.then((added) => added && begin()).finally(() => (asking.current = false))
    return false
  }
  const figureOf = (reading: number) => {
    const of = check.readings.find((r) => r.reading_no === reading)
    return of ? readingWords(of.taken, unit, namesOf(check)) : ''
  }
  const mark: Marking = (reading, said, reason = '') => {
    const figure = figureOf(reading)
    void later.mark(reading, said, reason, `${MARK_WORDS[said]} ${figure}`)
    if (said === 'struck')
      notice({
        said: `${figure} struck out.`,
        undo: () => later.mark(reading, 'restored', '', `restored ${figure}`),
      })
    // Once the question of why is closed, which gives the focus back to what asked it.
    onceDrawn(() => field.current?.focus({ preventScroll: true }))
  }
  /** What was misread is struck out, and what was meant is entered, by the same method and gauge. */
  const enterMeant: EnterMeant = (readings, reason, meant) => {
    for (const reading of readings) {
      const of = check.readings.find((r) => r.reading_no === reading)
      if (!of) continue
      void later.mark(reading, 'struck', reason, `${MARK_WORDS.struck} ${figureOf(reading)}`)
      void later.read(
        {
          way: of.way,
          entry: { kind: 'travel', travel: meant, tilt: '', pull: '', turned: turnedOf(of.taken) },
          unit,
          gauge_key: gauges.find((g) => g.name === of.gauge)?.key ?? null,
        },
        meant,
      )
    }
    field.current?.focus({ preventScroll: true })
  }
  return (
    <section
      aria-label="Measure"
      className="check-measure min-w-0 border-line px-3 py-3 sm:px-6 md:py-5 xl:border-r"
    >
      <h2 className="text-lg">
        Measure{' '}
        {check.estimate && check.estimate.readings > 1 && (
          <span className="figure text-base font-medium text-dim">
            {check.estimate.readings} readings, {show(check.estimate.spread_nm, unit)} apart
          </span>
        )}
      </h2>
      {!closed && check.allowed.methods.length > 1 && (
        <MethodPicker
          {...{ check, way, gauge }}
          setWay={setWay}
          setGauge={(next) => {
            setGauge(next)
            hand.keep({ gauge: next })
          }}
        />
      )}
      {closed ? (
        <p className="mt-3 text-dim">
          {check.signed ? 'Signed off: reopen it to measure again.' : 'Pieces are chosen on these readings.'}
        </p>
      ) : (
        <Take
          key={`${way} ${check.round} ${begun.times}`}
          {...{ check, way, gauge, unitWord, fault }}
          refused={begun.entry}
          onTake={take}
          clearFault={() => setFault(null)}
          first={field}
          {...{ turned, setTurned }}
        />
      )}
      {queue.waiting.map((w) => (
        <p
          key={w.key}
          className="flex items-center gap-2 border-t border-dashed border-line py-2"
          role="status"
        >
          <span className="figure font-semibold">{w.write.said}</span>
          <span className="text-dim">
            {queue.unreachable
              ? 'waits: the server does not answer, or is at fault; it is kept here and sent again'
              : 'being saved'}
          </span>
        </p>
      ))}
      <Readings {...{ check, now, closed, mark, enterMeant }} onStrike={setStriking} />
      {!closed && gauge?.live && (way === 'dial_travel' || way === 'no_shim') && (
        <LiveGauge {...{ check, gauge, turned }} onTake={take} />
      )}
      {!closed && gauge?.overdue_since && (
        <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2">
          {gauge.name} was due to be checked on {dayText(gauge.overdue_since)}. Its readings count, and are
          only as good as the gauge.
        </p>
      )}
      {!closed && gauge && isLength(gauge.unit) && gauge.unit !== unit && (
        <p className="mt-2 text-sm text-dim">
          {gauge.name} reads {gauge.unit === 'in' ? 'inches' : unitName[gauge.unit]}; a bare figure here is{' '}
          {unitWord}.{' '}
          <button className="link min-h-11" onClick={() => setInGauges(!inGauges)}>
            {inGauges ? `type in ${unitName[unit]}` : 'type in the gauge’s unit'}
          </button>
        </p>
      )}
      <Ready check={check} closed={closed} waiting={queue.waiting} />
      {check.how && <p className="mt-2 text-dim">{check.how}</p>}
      {check.source && <p className="mt-2 text-sm text-dim">Figures: {check.source}</p>}
      <Trial check={check} closed={closed} waiting={queue.waiting} />
      <BenchWarmth check={check} act={act} />
      {check.round > 0 && (
        <p className="mt-2 text-sm text-dim">
          Round {check.round + 1}, after fitting. Earlier readings are in the history below.
        </p>
      )}
      <Found check={check} act={act} way={way} />
      <Cautions of={check.cautions} />
      {striking !== null && (
        <AskReason
          title={`Strike out ${figureOf(striking)}?`}
          label="Or another reason"
          press="Strike out"
          suggestions={whyStruck(check.readings.find((r) => r.reading_no === striking)?.way ?? way)}
          onGive={(reason) => mark(striking, 'struck', reason)}
          onClose={() => setStriking(null)}
        />
      )}
    </section>
  )
}

const isLength = (unit: string): unit is Unit | 'in' =>
  unit === 'mm' || unit === 'um' || unit === 'thou' || unit === 'in'

/** This round's readings, those of each way together. */
function Readings({
  check,
  now,
  closed,
  mark,
  enterMeant,
  onStrike,
}: {
  check: CheckView
  now: Schemas['ReadingView'][]
  closed: boolean
  mark: Marking
  enterMeant: EnterMeant
  onStrike: (reading: number) => void
}) {
  const { unit } = useBench()
  const ways = [...new Set(now.map((r) => r.way))]
  return ways.map((way) => (
    <table key={way} className="mt-3 w-full">
      <caption className={ways.length > 1 ? 'pt-1 text-left font-semibold' : 'sr-only'}>
        {ways.length > 1
          ? capital(methodWords(way, check.kind))
          : `Readings by ${methodWords(way, check.kind)}`}
        {ways.length > 1 && check.way === way && <span className="font-normal text-dim"> · counts</span>}
      </caption>
      <thead>
        <tr>
          <th className="th">Trial</th>
          <th className="th text-right">
            {way === 'turning_torque' ? 'Torque' : way === 'yes_no' ? 'Answer' : `Reading, ${unitName[unit]}`}
          </th>
          <th className="th">By</th>
          <th className="th">
            <span className="sr-only">Strike out</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {now
          .filter((r) => r.way === way)
          // The newest stands at the field; the others grow away from it.
          .toReversed()
          .map((r, i, list) => (
            <ReadingRow
              key={r.reading_no}
              {...{ reading: r, closed, mark, enterMeant, onStrike }}
              trial={list.length - i}
              names={namesOf(check)}
            />
          ))}
      </tbody>
    </table>
  ))
}

interface RowProps {
  reading: Schemas['ReadingView']
  trial: number
  closed: boolean
  mark: Marking
  enterMeant: EnterMeant
  onStrike: (reading: number) => void
  /** What the things are called that readings are of, where they are of several. */
  names: ReturnType<typeof namesOf>
}

/** Drawn again only where its own reading changed: each reading typed redraws the table. */
const ReadingRow = memo(function ReadingRow({
  reading: r,
  trial,
  closed,
  mark,
  enterMeant,
  onStrike,
  names,
}: RowProps) {
  const { unit } = useBench()
  return (
    <>
      <tr>
        <td className="td">{trial}</td>
        <td
          className={`td figure text-right ${r.taken.kind === 'travel' ? 'text-lg' : r.taken.kind === 'gaps' ? 'text-sm' : ''} ${r.struck ? 'line-through opacity-70' : ''}`}
          title={`typed ${r.typed}${r.gauge ? `, ${r.gauge}` : ''}`}
        >
          {readingWords(r.taken, unit, names)}
        </td>
        <td className="td text-dim">{r.who}</td>
        <td className="td text-right">
          {!closed &&
            (r.struck ? (
              <button
                key="restore"
                className="link min-h-11 whitespace-nowrap"
                onClick={() => mark(r.reading_no, 'restored')}
                aria-label={`Restore trial ${trial}`}
              >
                restore
              </button>
            ) : (
              <button
                key="strike"
                className="link min-h-11 whitespace-nowrap"
                onClick={() => onStrike(r.reading_no)}
                aria-label={`Strike out trial ${trial}`}
              >
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
      {r.question && !closed && (
        <Question question={r.question} taken={r.taken} mark={mark} enterMeant={enterMeant} />
      )}
    </>
  )
})

/** What one reading looks like, or several that are all as far off: whoever misreads the unit misreads it every time. */
function Question({
  question: q,
  taken,
  mark,
  enterMeant,
}: {
  question: Schemas['EntryQuestion']
  taken: Schemas['Reading']
  mark: Marking
  enterMeant: EnterMeant
}) {
  const { unit } = useBench()
  const words = (meant: Schemas['Meant']) =>
    meant.kind === 'torque' ? torqueText(meant.n_m) : `${show(meant.nm, unit)} ${unitName[unit]}`
  const [meant, read, several] = [words(q.meant), words(q.read), q.readings.length > 1]
  const reason = `meant ${meant}: ${slipWords[q.cause]}`
  // Only a travel is one figure that says all.
  const enters = !several && q.meant.kind === 'length' && (taken.kind === 'travel' || taken.kind === 'pair')
  const strike = () => {
    if (enters) enterMeant(q.readings, reason, meant)
    else for (const reading of q.readings) mark(reading, 'struck', reason)
  }
  const last = q.readings[q.readings.length - 1] ?? 0
  return (
    <tr>
      <td colSpan={4} className="border-l-4 border-brass bg-brass-soft px-3 py-3">
        <p role="status">
          <strong>Did you mean {meant}?</strong>{' '}
          {several
            ? `These ${q.readings.length} readings come to ${read} and look like ${slipWords[q.cause]}.`
            : `It looks like ${slipWords[q.cause]}.`}
        </p>
        <div className="mt-2 flex flex-wrap gap-2">
          <button className="press-quiet" onClick={strike}>
            {enters ? `Yes, ${meant} was meant` : `Yes: strike ${several ? 'them' : 'it'} out`}
          </button>
          <button className="press-quiet" onClick={() => mark(last, 'kept')}>
            No, {read} is right
          </button>
        </div>
        <p className="mt-1 text-sm text-dim">
          Either way {several ? 'they stay' : 'it stays'} on the record.
          {!enters && ' Enter the right figure as a new reading.'}
        </p>
      </td>
    </tr>
  )
}
