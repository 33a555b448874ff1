// What a box really is: one question as large as a figure, what was answered, and what it may still be.
import { useEffect, useRef, useState, type ReactNode } from 'react'
import type { Refused } from '../../api/client'
import { useBench } from '../../domain/session'
import { unitName } from '../../domain/units'
import { Micrometer } from '../../ui/Micrometer'
import { Trouble } from '../../ui/Parts'
import { buildName, givenWords, type AnswerIn, type Identified, type Judged, type Question } from './words'

interface Props {
  told: Identified
  /** Nothing can be answered any more. */
  closed?: boolean
  pending: boolean
  error: Refused | null
  onAnswer: (answer: AnswerIn) => void
  onTakeBack: (question: string) => void
  /** What can be done with a build that it may be. */
  press: (of: Judged) => ReactNode
}

export function Questions({ told, closed = false, pending, error, onAnswer, onTakeBack, press }: Props) {
  const [chosen, setChosen] = useState<string | null>(null)
  const { unit } = useBench()
  const open = told.questions.filter((q) => q.given == null)
  const asked = open.find((q) => q.key === chosen) ?? open.find((q) => q.key === told.next)
  const answered = told.questions.filter((q) => q.given != null)
  const others = open.filter((q) => q.key !== asked?.key)
  return (
    <div className="grid gap-x-8 lg:grid-cols-[minmax(0,1fr)_26rem] print:block">
      <div className="min-w-0">
        {asked && !closed ? (
          <OneQuestion
            key={asked.key}
            question={asked}
            possible={told.possible}
            pending={pending}
            error={error}
            onAnswer={(answer) => {
              setChosen(null)
              onAnswer(answer)
            }}
          />
        ) : (
          <div className="border-b border-line py-5 print:hidden">
            <Settled told={told} closed={closed} />
            <Trouble error={error} />
          </div>
        )}
        {answered.length > 0 && (
          <section aria-label="Answered">
            <h2 className="mt-5 text-lg">Answered</h2>
            <ul className="ruled mt-1">
              {answered.map((q) => (
                <li key={q.key} className="flex flex-wrap items-center gap-x-4">
                  <span className="mr-auto py-2">
                    {q.ask}: <strong>{q.given && givenWords(q.given, unit)}</strong>
                  </span>
                  {!closed && (
                    <button
                      className="link min-h-12 print:hidden"
                      disabled={pending}
                      aria-label={`Take back the answer to ${q.ask}`}
                      onClick={() => onTakeBack(q.key)}
                    >
                      Take back
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
        )}
        {others.length > 0 && (
          <section aria-label="Other questions">
            <h2 className="mt-5 text-lg">Not answered</h2>
            <ul className="ruled mt-1">
              {others.map((q) => (
                <li key={q.key}>
                  {closed ? (
                    <span className="block py-2">{q.ask}</span>
                  ) : (
                    <button
                      className="flex min-h-12 w-full flex-wrap items-center justify-between gap-x-4 py-1 text-left"
                      onClick={() => setChosen(q.key)}
                    >
                      <span className="link">{q.ask}</span>
                      <span className="hidden print:inline">______________</span>
                      <span className="text-sm text-dim print:hidden">
                        {(q.leaves ?? 0) < told.possible
                          ? `leaves ${q.leaves} at most`
                          : 'may leave all of them'}
                      </span>
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
      <Candidates told={told} press={press} />
    </div>
  )
}

function Settled({ told, closed }: { told: Identified; closed: boolean }) {
  const [first] = told.candidates
  if (told.questions.length === 0)
    return <p className="text-xl">No sheet says how its box is told. Write the questions on the sheet.</p>
  if (told.possible === 0)
    return (
      <>
        <h2 className="text-3xl">It is none of these</h2>
        <p className="mt-1 text-lg">
          Each is contradicted by an answer: count again, or take an answer back. Where all are right, it is a
          box that has no sheet yet.
        </p>
      </>
    )
  if (told.possible === 1 && first)
    return (
      <>
        <p className="text-dim">{first.agrees.length > 0 ? 'By what was seen it is' : 'It can only be'}</p>
        <h2 className="text-3xl">{buildName(first)}</h2>
        {first.note && <p className="text-lg">{first.note}</p>}
      </>
    )
  return (
    <>
      <h2 className="text-3xl">It may be any of {told.possible}</h2>
      <p className="mt-1 text-lg">
        {closed
          ? 'Nothing more was asked.'
          : 'No question that is left tells them apart for certain; answer one of them all the same.'}
      </p>
    </>
  )
}

const FIELD = { count: 'How many', text: 'As it stands there', length: 'Measured', yes_no: '' }

function OneQuestion({
  question,
  possible,
  pending,
  error,
  onAnswer,
}: {
  question: Question
  possible: number
  pending: boolean
  error: Refused | null
  onAnswer: (answer: AnswerIn) => void
}) {
  const { unit } = useBench()
  const [typed, setTyped] = useState('')
  const [gauge, setGauge] = useState<string>()
  const first = useRef<HTMLInputElement & HTMLButtonElement>(null)
  // What takes the answer has the focus, so that the next can be typed without a press between.
  useEffect(() => first.current?.focus(), [])
  const give = (answer: string) => onAnswer({ question: question.key, answer, unit, gauge_key: gauge })
  const choices = question.kind === 'yes_no' ? ['yes', 'no'] : question.choices
  const fault = error?.problem.field === 'answer' ? error.problem.title : undefined
  return (
    <section aria-label="Question" className="border-b border-line py-5 print:hidden">
      <p className="text-dim">
        {question.leaves != null && question.leaves < possible
          ? `Of ${possible}, this leaves ${question.leaves} at most`
          : `It may be any of ${possible}`}
      </p>
      <h2 className="text-3xl wrap-anywhere">{question.ask}</h2>
      {question.how && <p className="mt-1 text-lg">{question.how}</p>}
      {choices.length > 0 && (
        <div className="mt-4 flex flex-wrap gap-3" role="group" aria-label="Answers">
          {choices.map((choice, i) => (
            <button
              key={choice}
              ref={question.kind === 'yes_no' && i === 0 ? first : undefined}
              className="press-quiet figure min-h-14 min-w-20 text-2xl"
              disabled={pending}
              onClick={() => give(choice)}
            >
              {choice}
            </button>
          ))}
        </div>
      )}
      {question.kind !== 'yes_no' && (
        <form
          className="mt-4 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault()
            give(typed)
          }}
        >
          <label className="font-semibold">
            {question.kind === 'length'
              ? `${FIELD.length}, ${unitName[unit]}`
              : choices.length > 0
                ? `Or ${FIELD[question.kind].toLowerCase()}`
                : FIELD[question.kind]}
            <input
              ref={first}
              className="field figure mt-1 block w-48 text-2xl"
              inputMode={question.kind === 'count' ? 'numeric' : undefined}
              autoComplete="off"
              maxLength={60}
              value={typed}
              aria-invalid={fault ? true : undefined}
              onChange={(e) => setTyped(e.target.value)}
            />
          </label>
          <button className="press" disabled={pending || typed.trim() === ''}>
            That is it
          </button>
          {question.kind === 'length' && <Micrometer value={gauge} onChange={setGauge} />}
        </form>
      )}
      {fault ? (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {fault}
        </p>
      ) : (
        <Trouble error={error} />
      )}
      <button
        className="link mt-2 min-h-12"
        disabled={pending}
        onClick={() => onAnswer({ question: question.key, not_seen: true })}
      >
        It cannot be seen, or not yet
      </button>
    </section>
  )
}

/** A tick or a cross: what it may be and what it is not, by shape and by word. */
function Mark({ may }: { may: boolean }) {
  return (
    <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true" className={may ? '' : 'text-dim'}>
      {may ? (
        <circle cx="12" cy="12" r="9" fill="none" stroke="currentColor" strokeWidth="3" />
      ) : (
        <path d="M4 4 20 20M20 4 4 20" stroke="currentColor" strokeWidth="3" />
      )}
    </svg>
  )
}

function Candidates({ told, press }: { told: Identified; press: (of: Judged) => ReactNode }) {
  const { unit } = useBench()
  const of = (key: string) => told.questions.find((q) => q.key === key)
  return (
    <aside aria-label="What it may be" className="py-5">
      <h2 className="text-lg">
        {told.possible === 0
          ? 'It is none of these'
          : `It may be ${told.possible} of ${told.candidates.length}`}
      </h2>
      <ol className="ruled mt-1">
        {told.candidates.map((c) => (
          <li
            key={`${c.sheet_key} ${c.variant}`}
            className="grid grid-cols-[2rem_1fr] gap-x-1 py-2"
            aria-label={`${buildName(c)}: ${c.may_be ? 'may be' : 'is not'}`}
          >
            <Mark may={c.may_be} />
            <div className={c.may_be ? '' : 'text-dim'}>
              <p className={c.may_be ? 'font-bold' : ''}>{c.name || c.sheet}</p>
              <p className="text-sm text-dim">
                {[c.name && c.sheet, c.note].filter(Boolean).join(' · ')}
                {c.agrees.length > 0 &&
                  ` · ${c.agrees.length} ${c.agrees.length === 1 ? 'answer agrees' : 'answers agree'}`}
              </p>
              {c.against.map((a) => {
                const q = of(a.question)
                return (
                  <p key={a.question} className="text-sm">
                    {q?.ask}: {q?.given && givenWords(q.given, unit)} here, it has {a.tells}
                  </p>
                )
              })}
              {c.may_be && <div className="print:hidden">{press(c)}</div>}
            </div>
          </li>
        ))}
      </ol>
    </aside>
  )
}
