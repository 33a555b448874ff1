// What the forms of all ways share: a field that knows what was wrong with it, and the press that keeps.
import { createContext, useContext, type ReactNode, type RefObject } from 'react'
import type { CheckView, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { showStated, unitName } from '../../../domain/units'
import type { ReadingInput, Method } from '../../../domain/readings'

export interface Fault {
  field?: string
  title: string
}

export interface TakeProps {
  check: CheckView
  way: Method
  gauge?: Schemas['GaugeView']
  /** The unit a bare figure is read in, as it is called. */
  unitWord: string
  /** Takes the entry up; `true` where it was, so that the field can be emptied. */
  onTake: (entry: ReadingInput) => boolean
  /** The field that the next figure goes into. */
  first: RefObject<HTMLInputElement | null>
  /** What the server refused last: it is put back, to be mended. */
  refused?: ReadingInput
  /** How many quarters the shaft is turned by for the next travel; none where it is not turned so. */
  turned?: number | null
  setTurned?: (turned: number | null) => void
}

type Of<K extends ReadingInput['kind']> = Extract<ReadingInput, { kind: K }>

/** What was refused, where it is of this kind. */
export const back = <K extends ReadingInput['kind']>(refused: ReadingInput | undefined, kind: K) =>
  refused?.kind === kind ? (refused as Of<K>) : undefined

/** What was wrong with the last figure, and how to put that away: every field of a form knows it. */
export const Entering = createContext<{ fault: Fault | null; clearFault: () => void }>({
  fault: null,
  clearFault: () => {},
})

export function Field({
  id,
  label,
  value,
  onChange,
  placeholder,
  field,
  input,
  wide,
  onKey,
}: {
  id: string
  label: string
  value: string
  onChange: (text: string) => void
  placeholder?: string
  field: string
  input?: RefObject<HTMLInputElement | null>
  wide?: boolean
  onKey?: (event: React.KeyboardEvent) => void
}) {
  const { fault, clearFault } = useContext(Entering)
  const wrong = fault?.field === field
  return (
    <div className="min-w-0 flex-1">
      <label htmlFor={id} className="mb-1 block font-semibold">
        {label}
      </label>
      <input
        id={id}
        ref={input}
        className={`field figure ${wide ? 'text-xl' : ''}`}
        autoComplete="off"
        inputMode="text"
        value={value}
        placeholder={placeholder}
        onKeyDown={onKey}
        aria-invalid={wrong}
        aria-describedby={wrong ? 'take-fault' : undefined}
        onChange={(e) => {
          onChange(e.target.value)
          clearFault()
        }}
      />
    </div>
  )
}

/** What was wrong with the last figure. */
export function FaultLine() {
  const { fault } = useContext(Entering)
  return (
    fault && (
      <p role="alert" id="take-fault" className="mt-2 font-semibold text-oxide">
        {fault.title}
      </p>
    )
  )
}

export function Form({
  onEnter,
  children,
  hint,
}: {
  onEnter: () => void
  children: ReactNode
  hint?: ReactNode
}) {
  return (
    <form
      className="mt-3"
      data-work="take"
      noValidate
      onSubmit={(e) => {
        e.preventDefault()
        onEnter()
      }}
    >
      {children}
      <FaultLine />
      {hint && <p className="mt-2 text-sm text-dim">{hint}</p>}
    </form>
  )
}

export const KeepPress = () => (
  <button className="press shrink-0 self-end">
    Keep <span aria-hidden="true">⏎</span>
  </button>
)

/** Which of so many places or pinions the next figure is of. */
export function Which({
  label,
  count,
  now,
  taken = [],
  onPick,
}: {
  label: string
  count: number
  now: number
  /** Those that have a reading. */
  taken?: number[]
  onPick: (n: number) => void
}) {
  return (
    <div className="mb-2 flex flex-wrap gap-1" role="group" aria-label={label}>
      {Array.from({ length: count }, (_, i) => i + 1).map((n) => (
        <button
          key={n}
          type="button"
          aria-pressed={n === now}
          className={`min-h-11 min-w-11 border-[1.5px] border-ink font-semibold ${n === now ? 'bg-ink text-paper' : ''}`}
          onClick={() => onPick(n)}
        >
          {n}
          {taken.includes(n) && <span className="sr-only"> (has a reading)</span>}
        </button>
      ))}
    </div>
  )
}

/** The leaves of a set, to tap; picked ones are written with their unit, so that switching it changes nothing. */
export function LeafPicks({
  gauge,
  onPick,
}: {
  gauge?: Schemas['GaugeView']
  onPick: (leaf: string) => void
}) {
  const { unit } = useBench()
  if (!gauge || gauge.leaves_nm.length === 0) return null
  // What is etched on the steel is what is looked for; the bench's unit stands beside it.
  const steel = gauge.unit === 'in' || gauge.unit === 'thou' ? 'thou' : gauge.unit === 'um' ? 'um' : 'mm'
  return (
    <div className="mt-2 flex flex-wrap gap-1" role="group" aria-label="Leaves of the set">
      {gauge.leaves_nm.map((l) => (
        <button
          key={l}
          type="button"
          className="figure min-h-11 min-w-13 border border-steel-line px-1 text-sm"
          onClick={() => onPick(`${showStated(l, steel)} ${unitName[steel]}`)}
          aria-label={`${showStated(l, steel)} ${unitName[steel]}`}
        >
          {showStated(l, steel)}
          {steel !== unit && <span className="block text-xs text-dim">{showStated(l, unit)}</span>}
        </button>
      ))}
    </div>
  )
}

/** The next of so many, onwards from one, that has no reading yet; the one after it where all have. What was
 *  just typed may not have been kept yet, so it never goes back to one before. */
export function nextOf(from: number, count: number, done: (n: number) => boolean) {
  const onwards = Array.from({ length: count - 1 }, (_, i) => ((from + i) % count) + 1)
  return onwards.find((n) => !done(n)) ?? (from % count) + 1
}

export const HOW_TO_WRITE = 'Any way you write it: 6 1/2 thou, .0065", 0,15 mm, 150 µm. A mil is a thou.'
