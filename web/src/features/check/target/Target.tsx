// A window and a target of the job's own, with the reason.
import { useState } from 'react'
import type { CheckView, Schemas } from '../../../domain/schema'
import { Choice, Field } from '../../../ui/Field'
import { Ask, Trouble } from '../../../ui/Parts'
import { Presses } from '../../../ui/Presses'
import { useBench } from '../../../domain/session'
import { percent, unitName, whenText, windowWords } from '../../../domain/units'
import type { Acting } from '../acting'

type School = Schemas['TargetRule']
type WindowFrom = Schemas['WindowFrom']

const schools: [School, string][] = [
  ['sheet', 'As the sheet has it'],
  ['middle', 'Middle of the window'],
  ['tight', 'Tight side, a quarter in'],
  ['loose', 'Loose side, a quarter in'],
  ['at', 'A stated clearance'],
  ['between', 'Anywhere in a stated range'],
]

/** Where the check is worked to otherwise than its sheet says, and what the book says of it. */
export function TargetLine({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const [open, setOpen] = useState(false)
  const can = check.allowed.set_target
  const own = check.own_aim
  const book = check.by_book
  return (
    <>
      {book && (
        <p className="mt-1 text-dim" data-testid="by-book">
          The book says {windowWords(book.window, unit)}
          {book.verdict && (
            <>
              : <strong className="text-ink">{bookWords[book.verdict.call]}</strong>,{' '}
              {percent(book.verdict.chance)} to be in it
            </>
          )}
          .
        </p>
      )}
      {own && (
        <p className="mt-1 border-l-4 border-blue pl-3">
          Set otherwise on this job: {own.reason}{' '}
          <span className="text-dim">
            ({own.who}, {whenText(own.at)})
          </span>
        </p>
      )}
      {can && (
        <button className="link min-h-11" onClick={() => setOpen(true)}>
          Set otherwise on this job
        </button>
      )}
      {open && <AimOtherwise check={check} act={act} onClose={() => setOpen(false)} />}
    </>
  )
}

const bookWords: Record<Schemas['Call'], string> = {
  in: 'in by the book',
  tight: 'tight by the book',
  loose: 'loose by the book',
  too_close: 'too close to call by the book',
  failed: 'not as it should be',
}

export function AimOtherwise({
  check,
  act,
  toBook,
  onClose,
}: {
  check: CheckView
  act: Acting
  toBook?: boolean
  onClose: () => void
}) {
  const { unit } = useBench()
  const [window, setWindow] = useState<WindowFrom>(toBook ? 'book' : 'sheet')
  const [school, setSchool] = useState<School>('sheet')
  const [typed, setTyped] = useState({ low: '', high: '', from: '', to: '', reason: '' })
  const problem = act.error?.problem
  const fault = (field: string) => (problem?.field === field ? problem.title : undefined)
  const shown = Object.keys(typed).some((field) => fault(field))
  const text = (field: keyof typeof typed, label: string, hint?: string) => (
    <Field
      label={label}
      hint={hint}
      fault={fault(field)}
      words={field === 'reason'}
      placeholder={field === 'reason' ? '' : `in ${unitName[unit]}`}
      value={typed[field]}
      onChange={(value) => setTyped({ ...typed, [field]: value })}
    />
  )
  return (
    <Ask open onClose={onClose} title="Set otherwise on this job">
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          act.mutate({ act: 'aim', window, school, ...typed, unit }, { onSuccess: onClose })
        }}
      >
        <Choice
          label="Window"
          value={window}
          onChange={(value) => setWindow(value as WindowFrom)}
          options={[
            ['sheet', 'As the sheet works to'],
            ...(check.by_book ? [['book', 'The book’s'] as const] : []),
            ['own', 'Stated here'],
          ]}
        />
        {window === 'own' && (
          <div className="grid grid-cols-2 gap-x-4">
            {text('low', 'Tight limit', 'Preload with a minus; empty is open.')}
            {text('high', 'Loose limit')}
          </div>
        )}
        <Choice
          label="Aim"
          value={school}
          onChange={(value) => setSchool(value as School)}
          options={schools}
        />
        {school === 'at' && text('from', 'Clearance aimed at', 'Preload with a minus.')}
        {school === 'between' && (
          <div className="grid grid-cols-2 gap-x-4">
            {text('from', 'From')}
            {text('to', 'To')}
          </div>
        )}
        {text('reason', 'Why')}
        {school !== 'at' && school !== 'between' && fault('from') && <Trouble error={act.error} />}
        {!shown && <Trouble error={act.error} />}
        <Presses onClose={onClose} pending={act.isPending} press="Work to this" />
      </form>
    </Ask>
  )
}
