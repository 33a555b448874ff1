// The one next thing of a build, as large as it can be, and what is pressed when it is done.
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Refused } from '../../api/client'
import { useParts } from '../../api/queries'
import { supplyName } from '../../domain/labels'
import { AskReason, Trouble } from '../../ui/Parts'
import { Otherwise } from './Otherwise'
import { Pictures } from '../pictures/Pictures'
import { StepFacts } from './StepFacts'
import {
  asClock,
  isOnItsWay,
  plainly,
  secondsLeft,
  useNow,
  type Build,
  type Doing,
  type StepView,
} from './acts'
import { waitWords } from './words'

interface Props {
  job: number
  build: Build
  doing: Doing
  /** The steps of which something was said that waits for the server. */
  kept: ReadonlySet<string>
  /** The step that somebody took in place of the next one. */
  taken: number | null
  onTaken: (step: number | null) => void
  onBack: (step: string) => void
}

export function NextThing({ job, build, doing, kept, taken, onTaken, onBack }: Props) {
  const { next } = build
  const takenStep = taken === null ? undefined : build.steps[taken]
  if (takenStep && (takenStep.state === 'ready' || takenStep.state === 'waiting'))
    return (
      <ToDo
        key={takenStep.step.key}
        {...{ job, build, doing, onTaken }}
        at={build.steps.indexOf(takenStep)}
      />
    )
  const nextStep = 'step' in next ? build.steps[next.step] : undefined
  if (nextStep && kept.has(nextStep.step.key))
    return <Waits of={nextStep} build={build} kept={kept} onTaken={onTaken} />
  switch (next.kind) {
    case 'step':
    case 'wait':
      return (
        <ToDo key={build.steps[next.step]?.step.key} {...{ job, build, doing, onTaken }} at={next.step} />
      )
    case 'hold':
      return <Held key={JSON.stringify(next)} {...{ job, build, doing, onTaken, onBack }} next={next} />
    case 'out':
      return <ComesOut key={next.step} {...{ build, doing }} at={next.step} />
    case 'missed': {
      const missed = build.steps[next.step]
      return (
        <Frame small="Passed, and out of reach" large={missed?.step.what ?? ''}>
          <p className="text-lg">Over it lies: {missed?.waits_for?.join('; ')}</p>
          <div className="mt-4 flex flex-wrap gap-3">
            <button className="press" onClick={() => onBack(missed?.step.key ?? '')}>
              Take the box back to it
            </button>
            <LeaveOut step={missed} doing={doing} />
          </div>
        </Frame>
      )
    }
    case 'finished':
      return (
        <Frame small="Every step is done" large="Ready to hand over">
          <p className="text-lg">Every gear, every check and the tray were seen to.</p>
          <Link className="press mt-4" data-next to={`/jobs/${job}`}>
            To the box
          </Link>
        </Frame>
      )
  }
}

/** The next step was done, and the server has still to say so: what else is ready can be done meanwhile. */
function Waits({ of, build, kept, onTaken }: Pick<Props, 'build' | 'kept' | 'onTaken'> & { of: StepView }) {
  const ready = build.steps.map((step, at) => ({ step, at }))
  const others = ready.filter(({ step }) => step.state === 'ready' && !kept.has(step.step.key))
  return (
    <Frame small="Kept here, and not with the server yet" large={of.step.what}>
      <p className="text-lg">
        It goes by itself as soon as the server answers; what comes next is said then.
      </p>
      {others.length > 0 && (
        <>
          <p className="mt-4 font-semibold">Ready as well:</p>
          <ul>
            {others.map(({ step, at }) => (
              <li key={step.step.key}>
                <button className="link min-h-11 text-left" onClick={() => onTaken(at)}>
                  {step.step.what}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </Frame>
  )
}

/** Has the focus as soon as it is drawn: a pedal, a gauge's button or Enter presses it. A key that is held presses once. */
function Press({
  onPress,
  disabled,
  children,
}: {
  onPress: () => void
  disabled: boolean
  children: string
}) {
  const ref = useRef<HTMLButtonElement>(null)
  useEffect(() => ref.current?.focus({ preventScroll: true }), [])
  return (
    <button
      ref={ref}
      className="press min-h-20 min-w-52 text-2xl"
      data-next
      aria-disabled={disabled}
      onKeyDown={(e) => e.repeat && e.preventDefault()}
      onClick={() => !disabled && onPress()}
    >
      {children}
    </button>
  )
}

function Frame({ small, large, children }: { small: string; large: string; children: React.ReactNode }) {
  return (
    <section aria-label="Next" className="px-3 py-5 sm:px-6">
      <p className="text-dim" aria-hidden="true">
        {small}
      </p>
      <h1 className="mt-1 mb-4 text-[1.9rem] leading-tight wrap-anywhere sm:text-[2.6rem]" aria-live="polite">
        <span className="sr-only">{small}: </span>
        {large}
      </h1>
      {children}
    </section>
  )
}

/** A step to be done. */
function ToDo({
  job,
  build,
  doing,
  at,
  onTaken,
}: Pick<Props, 'job' | 'build' | 'doing' | 'onTaken'> & { at: number }) {
  const [otherwise, setOtherwise] = useState(false)
  const of = build.steps[at]
  const now = useNow(build.now, of?.began_at != null)
  if (!of) return null
  const { step } = of
  const left = secondsLeft(of, now)
  const isNext = build.next.kind === 'step' && build.next.step === at
  const begin = step.wait && left === null
  const words = step.wait && waitWords[step.wait.kind]
  const done = () =>
    // Told also where the next step was pressed meanwhile.
    doing.mutateAsync(plainly(step.key)).then(
      () => onTaken(null),
      // Something is asked before it counts as done.
      (e: Refused) => e.problem.field && setOtherwise(true),
    )
  const busy = isOnItsWay(doing, step.key)
  return (
    <Frame
      small={`Step ${at + 1} of ${build.steps.length}${isNext || build.meanwhile.includes(at) ? '' : ', taken before its turn'}`}
      large={step.what}
    >
      {step.why && <p className="-mt-2 mb-4 text-lg">Why: {step.why}</p>}
      <div className="mb-5 flex flex-wrap items-center gap-3">
        {begin && words ? (
          <Press
            disabled={busy}
            onPress={() => doing.mutate({ act: 'began', step: step.key }, { onSuccess: () => onTaken(null) })}
          >
            {words.begin}
          </Press>
        ) : (
          <Press disabled={busy} onPress={() => void done()}>
            {words && left !== null && left <= 0 ? words.end : 'Done'}
          </Press>
        )}
        <button className="press-quiet" onClick={() => setOtherwise(true)}>
          Done, with a word …
        </button>
        <LeaveOut step={of} doing={doing} />
        {!isNext && build.next.kind === 'step' && (
          <button className="press-quiet" onClick={() => onTaken(null)}>
            The next one after all
          </button>
        )}
      </div>
      {!otherwise && <Trouble error={doing.error} />}
      {step.wait && (
        <p className="mb-4 text-xl" data-testid="timer">
          {left === null ? (
            <>
              <span className="figure text-3xl font-semibold">{step.wait.minutes}</span> min
              {step.wait.at_c != null && ` at ${step.wait.at_c} °C`}
            </>
          ) : (
            <Timer of={of} left={left} />
          )}
        </p>
      )}
      <NotHere job={job} puts={step.puts ?? []} />
      <StepFacts of={of} build={build} next={isNext} />
      <Pictures job={job} of={{ step: step.key }} title="Pictures of this step" open />
      {otherwise && (
        <Otherwise
          of={of}
          doing={doing}
          onDone={() => onTaken(null)}
          onClose={() => {
            doing.reset()
            setOtherwise(false)
          }}
        />
      )}
    </Frame>
  )
}

/** What goes in at a step, was asked for, and has not come. */
function NotHere({ job, puts }: { job: number; puts: readonly string[] }) {
  const { data } = useParts(job)
  const missing = data?.to_get.filter(
    (one) => puts.includes(one.part) && one.supply.who && one.supply.state !== 'come' && one.count > 0,
  )
  if (!missing || missing.length === 0) return null
  return (
    <div className="mb-4 border-l-4 border-oxide bg-card px-3 py-2" data-testid="not-here">
      <p className="font-bold">Not here yet</p>
      <ul className="list-disc pl-5">
        {missing.map(({ part, name, supply }) => (
          <li key={part}>
            {name}: {supplyName[supply.state].toLowerCase()}
            {supply.state === 'ordered' && supply.from && ` at ${supply.from}`}
            {supply.why && `, ${supply.why}`}
          </li>
        ))}
      </ul>
      <Link className="link inline-flex min-h-11 items-center" to={`/jobs/${job}/order`}>
        To the parts
      </Link>
    </div>
  )
}

/** What is left of a step's time, and what is told again before it is up. */
export function Timer({ of, left }: { of: StepView; left: number }) {
  const { wait } = of.step
  if (!wait) return null
  return (
    <>
      <span className="figure text-4xl font-semibold" role="timer">
        {asClock(left)}
      </span>{' '}
      {left > 0 ? 'to go' : 'Its time is up'}
      {wait.before_it_ends && left < 300 && (
        <span className="mt-1 block border-l-4 border-oxide px-3 text-lg font-semibold">
          {wait.before_it_ends}
        </span>
      )}
    </>
  )
}

function LeaveOut({ step, doing }: { step: StepView | undefined; doing: Doing }) {
  const [asking, setAsking] = useState(false)
  if (!step) return null
  return (
    <>
      <button className="press-quiet" onClick={() => setAsking(true)}>
        Leave it out …
      </button>
      {asking && (
        <AskReason
          title={`Leave out: ${step.step.what}`}
          label="Why is it left out on this box?"
          press="Leave it out"
          onGive={(why) => doing.mutate({ act: 'skipped', step: step.step.key, why })}
          onClose={() => setAsking(false)}
        />
      )}
    </>
  )
}

/** A check to be signed, or a question to be answered. */
function Held({
  job,
  build,
  doing,
  next,
  onTaken,
  onBack,
}: Pick<Props, 'job' | 'build' | 'doing' | 'onTaken' | 'onBack'> & {
  next: Extract<Build['next'], { kind: 'hold' }>
}) {
  const [passing, setPassing] = useState(false)
  // The step that it is asked after may still be on its way.
  const busy = doing.isPending && doing.variables?.act !== 'done'
  const of = build.steps[next.step]
  const hold = of?.holds?.find((h) => JSON.stringify(h.of) === JSON.stringify(next.hold))
  if (!of || !hold) return null
  const { of: what } = hold
  const answer = (answer: 'yes' | 'no') =>
    what.kind === 'proof' && doing.mutate({ act: 'proved', step: what.step, ask: what.ask, answer })
  const meanwhile = what.kind === 'check' ? build.meanwhile[0] : undefined
  const wrong = hold.answer != null && hold.answer !== hold.wanted
  return (
    <Frame
      small={what.kind === 'proof' ? `After “${of.step.what}”` : `Hold after “${of.step.what}”`}
      large={what.kind === 'proof' ? hold.name : `Sign off: ${hold.name}`}
    >
      <Trouble error={doing.error} />
      {wrong && (
        <div className="mb-4 border-l-4 border-oxide bg-card px-3 py-2 text-lg" data-testid="proof-failed">
          <p className="font-bold">
            {hold.answer === 'no' ? 'No' : 'Yes'}, said {hold.by}: what comes after it is held.
          </p>
          {hold.else_means && <p>{hold.else_means}</p>}
        </div>
      )}
      <div className="flex flex-wrap items-center gap-3">
        {what.kind === 'proof' ? (
          <>
            <Press disabled={busy} onPress={() => answer(hold.wanted ?? 'yes')}>
              {hold.wanted === 'no' ? 'No, as it should be' : 'Yes'}
            </Press>
            <button
              className="press-quiet min-h-20 min-w-36 text-2xl"
              disabled={busy}
              onClick={() => answer(hold.wanted === 'no' ? 'yes' : 'no')}
            >
              {hold.wanted === 'no' ? 'Yes' : 'No'}
            </button>
          </>
        ) : (
          <Link
            className="press min-h-20 min-w-52 text-2xl"
            data-next
            to={`/jobs/${job}/checks/${what.check}`}
          >
            Open the check
          </Link>
        )}
        <button className="press-quiet" onClick={() => setPassing(true)}>
          Pass over it …
        </button>
        {wrong && (
          <button className="press-quiet" onClick={() => onBack(of.step.key)}>
            Take it apart again …
          </button>
        )}
      </div>
      {meanwhile !== undefined && (
        <p className="mt-4 text-lg">
          It can wait a little:{' '}
          <button className="link min-h-11 text-left" onClick={() => onTaken(meanwhile)}>
            go on with “{build.steps[meanwhile]?.step.what}”
          </button>
        </p>
      )}
      {what.kind === 'check' && (
        <p className="mt-4 text-lg text-dim">
          What rests on this step is held until it is signed. Signed, it leads back here.
        </p>
      )}
      {passing && (
        <AskReason
          title={`Pass over: ${hold.name}`}
          label="Why is it passed over?"
          press="Pass over it"
          onGive={(why) => doing.mutate({ act: 'passed_over', hold: what, why })}
          onClose={() => setPassing(false)}
        />
      )}
    </Frame>
  )
}

/** A step that comes out. */
function ComesOut({ build, doing, at }: Pick<Props, 'build' | 'doing'> & { at: number }) {
  const of = build.steps[at]
  const { tearing } = build
  if (!of || !tearing) return null
  return (
    <Frame
      small={`Taking apart, ${tearing.out.length} to come out: ${tearing.why.said}`}
      large={`Take out: ${of.step.what}`}
    >
      <div className="mb-5 flex flex-wrap items-center gap-3">
        <Press
          disabled={doing.isPending}
          onPress={() => doing.mutate({ act: 'out', step: of.step.key, why: tearing.why.said })}
        >
          It is out
        </Press>
        <button className="press-quiet" onClick={() => doing.mutate({ act: 'left_off' })}>
          Leave off here
        </button>
      </div>
      <Trouble error={doing.error} />
      <ol className="list-decimal pl-7 text-lg" aria-label="Still to come out">
        {tearing.out.map((step) => (
          <li key={step} className={step === at ? 'font-bold' : ''}>
            {build.steps[step]?.step.what}
          </li>
        ))}
      </ol>
    </Frame>
  )
}
