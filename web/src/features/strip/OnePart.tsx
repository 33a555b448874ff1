// The part in the hand: which it is, how it lay, in what condition it is, and what becomes of it; one key for each.
import { useDeferredValue, useEffect, useEffectEvent, useRef, useState } from 'react'
import type { Refused } from '../../api/client'
import { useWear } from '../../api/queries'
import { givenPartName, partStateName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { unitName } from '../../domain/units'
import { inSentence } from '../../domain/words'
import { Field } from '../../ui/Field'
import { Micrometer } from '../../ui/Micrometer'
import type { useAnyPartAct } from '../../ui/acts'
import { Trouble } from '../../ui/Parts'
import { PartFacts } from '../parts/PartFacts'
import { Pictures } from '../pictures/Pictures'
import { StateShape } from './StateShape'
import { WearBar, wearWords, wornWords } from './Wear'
import { Width } from './Width'
import type { OnJob } from './acts'

const STATES = ['reused', 'renewed', 'reworked', 'swapped', 'missing'] as const
/** Of a box that gives its parts: it is sound, it is no good, it is not there. */
const OF_GIVEN = ['reused', 'renewed', 'missing'] as const

interface Props {
  job: number
  part: OnJob
  /** Which of all it is. */
  place: string
  doing: ReturnType<typeof useAnyPartAct>
  open: boolean
  /** The box gives its parts. */
  given: boolean
  /** So many parts on, or back. */
  onGo: (by: number) => void
  onSaid: () => void
}

export function OnePart({ job, part, place, doing, open, given, onGo, onSaid }: Props) {
  const states = given ? OF_GIVEN : STATES
  const names = given ? givenPartName : partStateName
  const { found } = part
  const [conditions, setConditions] = useState(found?.conditions ?? [])
  const [own, setOwn] = useState('')
  const [asFound, setAsFound] = useState(found?.as_found ?? '')
  const [counted, setCounted] = useState(found?.counted == null ? '' : String(found.counted))
  const [size, setSize] = useState(found?.size ?? '')
  const { unit } = useBench()
  const [gauge, setGauge] = useState(found?.gauge_key ?? undefined)
  const typed = useDeferredValue(size.trim())
  const { data: would, error: noSize } = useWear(job, part.key, part.wear ? typed : '', unit, gauge)
  const worn = typed ? would : part.worn
  // What usually becomes of it, as it stands: the press that is filled.
  const wornOut = worn?.call === 'tight' || worn?.call === 'loose'
  const due = found?.state ?? ((part.always_new && !given) || wornOut ? 'renewed' : 'reused')
  const [width, setWidth] = useState(found?.width ?? '')
  const [why, setWhy] = useState(found?.why ?? '')
  const [pressed, setPressed] = useState<Schemas['PartState'] | null>(null)
  const head = useRef<HTMLHeadingElement>(null)
  const reason = useRef<HTMLDivElement>(null)
  const problem = doing.error?.problem
  const wrong = (field: string) => (problem?.field?.endsWith(field) ? problem.title : undefined)
  const miscounted = counted.trim() !== '' && !/^\d{1,4}$/.test(counted.trim())
  const toggle = (word: string) =>
    setConditions((now) => (now.includes(word) ? now.filter((w) => w !== word) : [...now, word]))
  const say = (state: Schemas['PartState']) => {
    if (!open || doing.isPending || miscounted) return
    setPressed(state)
    const ownWord = own.trim()
    const found = {
      act: 'found',
      part: part.key,
      state,
      conditions: ownWord ? [...conditions, ownWord] : conditions,
      as_found: asFound,
      counted: counted.trim() === '' ? null : Number(counted),
      size: part.wear ? size.trim() : undefined,
      width: part.on_rail ? width.trim() : undefined,
      unit,
      gauge_key: gauge,
      why,
      seen: part.findings,
    } as const
    doing.mutate(
      { job, act: found, name: part.name },
      {
        onSuccess: onSaid,
        onError: (e) => {
          if (e.problem.field?.endsWith('why')) reason.current?.querySelector('input')?.focus()
        },
      },
    )
  }
  // One key a state, arrows along the rail; not while somebody writes.
  const onKey = useEffectEvent((e: KeyboardEvent) => {
    const writes =
      e.target instanceof HTMLElement && e.target.closest('input, textarea, select, dialog, [role=dialog]')
    if (writes || e.ctrlKey || e.altKey || e.metaKey || e.repeat) return
    const state = states[Number(e.key) - 1]
    if (state) say(state)
    else if (e.key === 'ArrowRight') onGo(1)
    else if (e.key === 'ArrowLeft') onGo(-1)
    else return
    e.preventDefault()
  })
  useEffect(() => {
    head.current?.focus()
    const heard = (e: KeyboardEvent) => onKey(e)
    window.addEventListener('keydown', heard)
    return () => window.removeEventListener('keydown', heard)
  }, [])
  const offered = [...new Set([...part.words, ...conditions])]
  return (
    <section aria-label="Part" className="px-3 py-5 sm:px-6">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <p className="text-dim">
          Part {place}
          {!part.on_rail && ', off the rails'}
        </p>
        <div className="flex gap-2">
          <button className="press-quiet" onClick={() => onGo(-1)}>
            ← Back
          </button>
          <button className="press-quiet" onClick={() => onGo(1)}>
            On →
          </button>
        </div>
      </div>
      <h1
        ref={head}
        tabIndex={-1}
        className="mt-1 mb-3 text-[1.9rem] leading-tight outline-none wrap-anywhere sm:text-[2.6rem]"
        aria-live="polite"
      >
        {part.count > 1 && <span className="figure">{part.count} × </span>}
        {part.name}
      </h1>
      <PartFacts part={part} named={false} />
      {found && (
        <p className="mt-3 border-l-4 border-line px-3" data-testid="stands">
          <strong>{names[found.state]}</strong>, said {found.who}
          {found.why && `: ${found.why}`}{' '}
          {open && (
            <button
              className="link ml-2 min-h-8"
              onClick={() =>
                doing.mutate({ job, act: { act: 'taken_back', part: part.key, why: '' }, name: part.name })
              }
            >
              take that back
            </button>
          )}
        </p>
      )}
      {!found && !given && part.always_new && (
        <p className="mt-3 font-semibold text-brass">New at every overhaul, unless you say otherwise.</p>
      )}
      {part.clashes?.map((clash) => (
        <p key={clash} className="mt-3 border-l-4 border-oxide bg-card px-3 py-2 font-semibold" role="alert">
          △ {clash}
        </p>
      ))}
      {open && (
        <>
          <fieldset className="mt-4">
            <legend className="mb-2 font-semibold">Its condition, where something is wrong</legend>
            <div className="flex flex-wrap gap-2">
              {offered.map((word) => (
                <button
                  key={word}
                  type="button"
                  aria-pressed={conditions.includes(word)}
                  className={`min-h-12 border-[1.5px] px-3 ${conditions.includes(word) ? 'border-ink bg-ink text-paper' : 'border-dim'}`}
                  onClick={() => toggle(word)}
                >
                  {word}
                </button>
              ))}
            </div>
          </fieldset>
          <form
            className="mt-4 grid gap-x-5 sm:grid-cols-2 xl:grid-cols-3"
            onSubmit={(e) => {
              e.preventDefault()
              if (pressed) say(pressed)
            }}
          >
            <Field
              words
              label="Or a word of your own"
              value={own}
              onChange={setOwn}
              fault={wrong('conditions')}
            />
            <Field
              words
              label="How it lay, where it is not as above"
              value={asFound}
              onChange={setAsFound}
              fault={wrong('as_found')}
            />
            {part.count > 1 && (
              <Field
                label={`How many were there, of ${part.count}`}
                numeric
                value={counted}
                onChange={setCounted}
                fault={miscounted ? 'Whole pieces, such as 23.' : wrong('counted')}
              />
            )}
            {part.wear && (
              <div>
                <Field
                  label={`Measured, ${unitName[unit]}`}
                  value={size}
                  onChange={setSize}
                  hint={wearWords(part.wear, unit)}
                  fault={
                    (typed && (noSize as Refused | null)?.problem.title) || wrong('size') || wrong('measured')
                  }
                />
              </div>
            )}
            {part.on_rail && (
              <Field
                label={`Width, where it was measured, ${unitName[unit]}`}
                value={width}
                onChange={setWidth}
                hint={part.summed ? 'A sum on the sheet takes it' : undefined}
                fault={wrong('width')}
              />
            )}
            {(part.wear || part.on_rail) && (size.trim() || width.trim()) && (
              <Micrometer value={gauge} onChange={setGauge} />
            )}
            <div ref={reason}>
              <Field
                words
                label="Why, or what was done to it"
                value={why}
                onChange={setWhy}
                fault={wrong('why')}
              />
            </div>
            {/* Enter says again what was pressed, once a reason is there; it never says anything by itself. */}
            <button type="submit" hidden />
          </form>
          {part.wear && worn && (
            <div className="-mt-2 mb-3" data-testid="worn">
              <p className={`text-lg font-semibold ${worn.call === 'in' ? '' : 'text-oxide'}`}>
                {worn.call === 'tight' || worn.call === 'loose' ? '△ ' : ''}
                {wornWords(worn, part.wear, unit)}
              </p>
              <WearBar worn={worn} card={part.wear} />
            </div>
          )}
          {problem && !problem.field && <Trouble error={doing.error} />}
          <div
            className="mt-4 grid grid-cols-2 gap-2 sm:grid-cols-5"
            role="group"
            aria-label="What becomes of it"
          >
            {states.map((state, i) => (
              <button
                key={state}
                className={`${state === due ? 'press' : 'press-quiet'} min-h-24 flex-col gap-1 px-1 leading-tight`}
                aria-disabled={doing.isPending}
                onClick={() => say(state)}
              >
                {state !== due && <StateShape state={state} given={given} />}
                {names[state]}
                <span className="figure opacity-70" aria-hidden="true">
                  {i + 1}
                </span>
              </button>
            ))}
          </div>
          {!given && part.checks && part.checks.length > 0 && (
            <p className="mt-3 text-dim">Another one makes due: {part.checks.map(inSentence).join(', ')}.</p>
          )}
          {part.summed && !given && <Width job={job} part={part.key} />}
          <Pictures job={job} of={{ part: part.key }} title="Pictures of it" open />
          <p className="mt-2 text-sm text-dim">
            Keys: 1 to {states.length} say what becomes of it, arrows go along the rail.
          </p>
        </>
      )}
      {!open && <Pictures job={job} of={{ part: part.key }} title="Pictures of it" open={false} />}
    </section>
  )
}
