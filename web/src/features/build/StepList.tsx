// All steps in the sheet's order, each with how it stands; one is opened to see who did it, and how.
import { memo, useEffect, useRef, useState } from 'react'
import { whenText } from '../../domain/units'
import { StepFacts } from './StepFacts'
import { secondsLeft, asClock, useNow, type Build, type Doing, type StepView } from './acts'
import { stepStateName } from '../../domain/labels'

interface Props {
  build: Build
  doing: Doing
  /** The steps of which something was said that waits for the server. */
  kept: ReadonlySet<string>
  onTake: (step: number) => void
  onBack: (step: string) => void
  /** The key of the step that is looked at on arrival. */
  opened: string | null
  /** The box may be worked on. */
  open: boolean
}

export function StepList({ build, doing, kept, onTake, onBack, opened, open: canWork }: Props) {
  const from = build.steps.findIndex((of) => of.step.key === opened)
  const [open, setOpen] = useState<number | null>(from < 0 ? null : from)
  const nextAt = 'step' in build.next ? build.next.step : -1
  return (
    <ol className="ruled" aria-label="Steps">
      {build.steps.map((of, at) => (
        <li key={of.step.key} className={`drawn-when-seen ${at === nextAt ? 'bg-card' : ''}`}>
          <Row
            of={of}
            at={at}
            isNext={at === nextAt}
            isOpen={open === at}
            isAsked={from === at}
            waits={kept.has(of.step.key)}
            now={of.state === 'waiting' ? build.now : null}
            onPress={setOpen}
          />
          {open === at && (
            <div className="border-l-4 border-line py-3 pl-3">
              <Opened {...{ of, at, build, doing, onTake, onBack, open: canWork }} />
            </div>
          )}
        </li>
      ))}
    </ol>
  )
}

/** A step as a line of the list. Long lists are drawn anew only where a step has changed. */
const Row = memo(function Row({
  of,
  at,
  isNext,
  isOpen,
  isAsked,
  waits,
  now,
  onPress,
}: {
  of: StepView
  at: number
  isNext: boolean
  isOpen: boolean
  isAsked: boolean
  /** What was said of it waits for the server. */
  waits: boolean
  /** The time, where the step takes its own. */
  now: string | null
  onPress: (step: number | null) => void
}) {
  const line = useRef<HTMLButtonElement>(null)
  // What was asked for by the address is seen, and has the focus.
  useEffect(() => {
    if (isAsked) line.current?.focus()
  }, [isAsked])
  return (
    <button
      className="grid min-h-12 w-full grid-cols-[2rem_2rem_1fr] items-center gap-x-1 py-1 text-left"
      aria-expanded={isOpen}
      ref={line}
      aria-current={isNext ? 'step' : undefined}
      onClick={() => onPress(isOpen ? null : at)}
    >
      {waits ? <KeptMark /> : <StepMark state={of.state} />}
      <span className="figure text-dim">{at + 1}</span>
      <span className={isNext ? 'font-bold' : of.state === 'done' ? 'text-dim' : ''}>
        {of.step.what}
        {waits && <span className="block text-sm font-semibold">waits for the server</span>}
        <Note of={of} now={now} />
      </span>
    </button>
  )
})

/** What stands under a step's name: what it waits for, who did it, what holds at it. */
function Note({ of, now: server }: { of: StepView; now: string | null }) {
  const now = useNow(server ?? '', server !== null)
  const left = secondsLeft(of, now)
  const held = of.holds?.filter((h) => h.open && h.of.kind === 'check') ?? []
  const words = [
    of.state !== 'ready' && of.state !== 'done' && of.state !== 'later' && stepStateName[of.state],
    of.state === 'waiting' && left !== null && (left > 0 ? `${asClock(left)} to go` : 'time is up'),
    (of.state === 'held' || of.state === 'out_of_reach') && of.waits_for?.join('; '),
    of.was_done && of.was_done.who,
    of.was_done?.how.why,
    of.was_done?.how.way,
    of.left_out && `${of.left_out.said}, ${of.left_out.who}`,
    held.length > 0 && `holds for ${held.map((h) => h.name).join(', ')}`,
  ].filter(Boolean)
  if (words.length === 0) return null
  return <span className="block text-sm font-normal text-dim">{words.join(' · ')}</span>
}

function Opened({
  of,
  at,
  build,
  doing,
  onTake,
  onBack,
  open,
}: Omit<Props, 'opened' | 'kept'> & { of: StepView; at: number }) {
  const { was_done: done } = of
  const canTake = of.state === 'ready' && !(build.next.kind === 'step' && build.next.step === at)
  return (
    <>
      {done && (
        <p className="mb-2">
          Done by <strong>{done.who}</strong>, {whenText(done.at)}
          {done.how.torque_n_m != null && `; ${done.how.torque_n_m} N·m`}
          {done.how.wrench && ` with ${done.how.wrench}`}
          {done.how.left_over != null && `; ${done.how.left_over} left over`}
          {done.how.note && <span className="block">Worth knowing: {done.how.note}</span>}
        </p>
      )}
      {of.state === 'later' && of.waits_for && (
        <p className="mb-2 text-dim">Rests on: {of.waits_for.join('; ')}</p>
      )}
      {of.holds && of.holds.length > 0 && (
        <ul className="mb-2">
          {of.holds.map((h) => (
            <li key={JSON.stringify(h.of)}>
              {h.name}:{' '}
              {h.passed_over
                ? `passed over by ${h.passed_over.who}, ${h.passed_over.said}`
                : h.of.kind === 'check'
                  ? h.by
                    ? `signed by ${h.by}`
                    : 'to be signed'
                  : h.answer
                    ? `${h.answer}, ${h.by ?? ''}`
                    : 'to be answered'}
            </li>
          ))}
        </ul>
      )}
      <StepFacts of={of} build={build} next={false} />
      <div className="mt-3 flex flex-wrap gap-2">
        {canTake && (
          <button className="press-quiet" disabled={doing.isPending} onClick={() => onTake(at)}>
            Do it now
          </button>
        )}
        {of.may_be_a_slip && open && (
          <button
            className="press-quiet"
            disabled={doing.isPending}
            onClick={() => doing.mutate({ act: 'not_done', step: of.step.key })}
          >
            {slipWords(of)}
          </button>
        )}
        {(of.state === 'done' || of.state === 'left_out' || of.state === 'out_of_reach') && (
          <button className="press-quiet" onClick={() => onBack(of.step.key)}>
            Get at it again …
          </button>
        )}
      </div>
    </>
  )
}

/** What was said of a step, taken back: nothing came out, it was a slip of the key. */
const slipWords = (of: StepView) =>
  of.was_done ? 'It was not done' : of.left_out ? 'It is not left out' : 'It was not begun'

/** What was said of a step and is not with the server yet: neither done nor open. */
const KeptMark = () => (
  <svg width="24" height="24" role="img" aria-label="waits for the server">
    <rect
      x="4"
      y="4"
      width="16"
      height="16"
      fill="none"
      stroke="var(--brass)"
      strokeWidth="3"
      strokeDasharray="4 3"
    />
  </svg>
)

/** How a step stands, as a shape: solid is done, a bar is left out, a clock waits, a ring is ready. */
export function StepMark({ state }: { state: StepView['state'] }) {
  const shape = {
    done: <rect x="4" y="4" width="16" height="16" fill="var(--ink)" />,
    left_out: <path d="M4 12H20" stroke="var(--ink)" strokeWidth="4" />,
    waiting: (
      <>
        <circle cx="12" cy="12" r="8.5" fill="none" stroke="var(--brass)" strokeWidth="2.5" />
        <path d="M12 7V12L16 14" fill="none" stroke="var(--ink)" strokeWidth="2.5" />
      </>
    ),
    ready: <rect x="4" y="4" width="16" height="16" fill="none" stroke="var(--blue)" strokeWidth="3.5" />,
    later: <rect x="6" y="6" width="12" height="12" fill="none" stroke="var(--dim)" strokeWidth="1.5" />,
    held: (
      <path d="M7 11V8a5 5 0 0 1 10 0v3M5 11H19V20H5Z" fill="none" stroke="var(--oxide)" strokeWidth="2.4" />
    ),
    out_of_reach: <path d="M6 6L18 18M18 6L6 18" stroke="var(--oxide)" strokeWidth="3" />,
  }[state]
  return (
    <svg width="24" height="24" role="img" aria-label={stepStateName[state]}>
      {shape}
    </svg>
  )
}
