// A step done otherwise than the sheet has it, or with something to say of it.
import { useState } from 'react'
import { Choice, Field } from '../../ui/Field'
import { Ask, Trouble } from '../../ui/Parts'
import type { Doing, StepView } from './acts'

interface Props {
  of: StepView
  doing: Doing
  onDone: () => void
  onClose: () => void
}

export function Otherwise({ of, doing, onDone, onClose }: Props) {
  const { step } = of
  const before = doing.variables?.act === 'done' ? doing.variables : undefined
  const [way, setWay] = useState('')
  const [why, setWhy] = useState(before?.why ?? '')
  const [over, setOver] = useState(before?.left_over == null ? '' : String(before.left_over))
  const [wrench, setWrench] = useState('')
  const [torque, setTorque] = useState('')
  const [note, setNote] = useState('')
  const counted = step.loose != null || step.count != null
  const tightened = step.torque_n_m != null || step.fasteners?.stages?.some((s) => s.to === 'torque')
  const fault = (field: string) =>
    doing.error?.problem.field === field ? doing.error.problem.title : undefined
  const placed = ['why', 'way', 'left_over', 'wrench', 'torque_n_m', 'note'].includes(
    doing.error?.problem.field ?? '',
  )
  const figure = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')))
  return (
    <Ask open onClose={onClose} title={step.what}>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          doing.mutate(
            {
              act: 'done',
              step: step.key,
              way,
              why,
              note,
              wrench,
              left_over: figure(over),
              torque_n_m: figure(torque),
            },
            {
              onSuccess: () => {
                onDone()
                onClose()
              },
            },
          )
        }}
      >
        {!placed && <Trouble error={doing.error} />}
        {step.alternatives && step.alternatives.length > 0 && (
          <Choice
            label="How it was done"
            value={way}
            onChange={setWay}
            options={[['', 'as the sheet has it'], ...step.alternatives.map((a) => [a, a] as const)]}
          />
        )}
        <Field
          words
          label="Why otherwise"
          value={why}
          onChange={setWhy}
          fault={fault('why')}
          hint="Asked where it is out of its order, before its time, or something is left over."
        />
        {counted && (
          <Field label="Left over" numeric value={over} onChange={setOver} fault={fault('left_over')} />
        )}
        {tightened && (
          <div className="grid gap-x-4 sm:grid-cols-2">
            <Field label="Torque, N·m" value={torque} onChange={setTorque} fault={fault('torque_n_m')} />
            <Field
              words
              label="With which wrench"
              value={wrench}
              onChange={setWrench}
              fault={fault('wrench')}
            />
          </div>
        )}
        <Field
          words
          label="Worth knowing next time"
          value={note}
          onChange={setNote}
          fault={fault('note')}
          hint="It stands on the report, and is offered for the sheet."
        />
        <div className="mt-4 flex justify-end gap-3">
          <button type="button" className="press-quiet" onClick={onClose}>
            Leave it
          </button>
          <button className="press" disabled={doing.isPending}>
            Done so
          </button>
        </div>
      </form>
    </Ask>
  )
}
