// The job's card, to be mended, and the job to be put away.
import { useState } from 'react'
import { Link } from 'react-router'
import type { Box } from '../../domain/schema'
import { dayText } from '../../domain/units'
import { useJobAct } from '../../ui/acts'
import { Ask, AskReason, Cautions, Labelled, Trouble } from '../../ui/Parts'
import { Presses } from '../../ui/Presses'
import { INTAKE_FIELDS, IntakeFields } from '../intake/IntakeFields'

const WHY_AWAY = ['opened by mistake', 'opened twice', 'not to be done after all']

export function Card({ box }: { box: Box }) {
  const act = useJobAct(box.job_no)
  const [asking, setAsking] = useState<'card' | 'away' | null>(null)
  const onBench = box.allowed.work
  return (
    <section className="mt-6 text-dim" aria-label="Job card">
      <p>
        Opened {dayText(box.opened_at)} by {box.opened_by} on{' '}
        <Link className="link" to={`/sheets/${box.sheet_key}`}>
          {box.sheet}
        </Link>
        , revision {box.revision}
        {box.build_of && `, ${box.build_known ? '' : 'taken for '}${box.build_of.name}`}.
        {onBench && box.newest_revision > box.revision && (
          <>
            {' '}
            <Link className="link" to={`/jobs/${box.job_no}/revision`}>
              Revision {box.newest_revision} has come in: see what would change
            </Link>
          </>
        )}
      </p>
      <p className="mt-1 flex flex-wrap gap-x-4">
        <button className="link min-h-12" onClick={() => setAsking('card')}>
          Change the card
        </button>
        <Link className="link inline-flex min-h-12 items-center" to={`/jobs/${box.job_no}/labels`}>
          Print labels
        </Link>
        {box.allowed.put_away && (
          <button className="link min-h-12" onClick={() => setAsking('away')}>
            Put this job away
          </button>
        )}
      </p>
      {asking !== 'card' && <Trouble error={act.error} />}
      <Cautions of={box.cautions} />
      {asking === 'card' && <Change box={box} act={act} onClose={() => setAsking(null)} />}
      {asking === 'away' && (
        <AskReason
          title={`Put job ${box.job_no} away?`}
          label="Or another reason"
          press="Put it away"
          suggestions={WHY_AWAY}
          onGive={(reason) => act.mutate({ act: 'put_away', reason })}
          onClose={() => setAsking(null)}
        />
      )}
    </section>
  )
}

function Change({ box, act, onClose }: { box: Box; act: ReturnType<typeof useJobAct>; onClose: () => void }) {
  const { title, customer, complaint, intake: was } = box
  const [card, setCard] = useState({ title, customer, complaint })
  const [intake, setIntake] = useState(was)
  const fault = (field: string) => (act.error?.problem.field === field ? act.error.problem.title : undefined)
  const placed = ['title', 'customer', 'complaint', ...INTAKE_FIELDS].some((f) => fault(f))
  const field = (name: keyof typeof card, label: string) => (
    <Labelled label={label} error={fault(name)}>
      {(id) => (
        <input
          id={id}
          className="field"
          value={card[name]}
          maxLength={name === 'complaint' ? 500 : 80}
          onChange={(e) => setCard({ ...card, [name]: e.target.value })}
        />
      )}
    </Labelled>
  )
  return (
    <Ask open onClose={onClose} title={`The card of job ${box.job_no}`}>
      <form
        className="text-ink"
        onSubmit={(e) => {
          e.preventDefault()
          act.mutate({ act: 'card', ...card, intake }, { onSuccess: onClose })
        }}
      >
        {field('title', 'What is on the bench')}
        {field('customer', 'Whose it is')}
        {field('complaint', 'Complaint, in the customer’s words')}
        <IntakeFields sheet={box.sheet_key} value={intake} onChange={setIntake} fault={fault} />
        {!placed && <Trouble error={act.error} />}
        <Presses onClose={onClose} pending={act.isPending} press="Keep the card" />
      </form>
    </Ask>
  )
}
