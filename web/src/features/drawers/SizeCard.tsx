// One size of a drawer: what there is, whom it is set aside for, and what can be done with it.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { Field } from '../../ui/Field'
import { Ask, Trouble } from '../../ui/Parts'
import { Presses } from '../../ui/Presses'
import { useBench } from '../../domain/session'
import { gradeWords, showStated, unitName } from '../../domain/units'
import type { Done } from './DoneLine'
import { MikeForm } from './MikePiece'
import { actWords } from '../../domain/labels'
import { useDrawersWritten } from './writes'
import { capital, inSentence } from '../../domain/words'

type Size = Schemas['DrawerSize']
type Act = Schemas['DrawerAct']

interface Props {
  drawer: Drawer
  onClose: () => void
  onDone: (done: Done) => void
}

export function SizeCard({ drawer, size, onClose, onDone }: Props & { size: Size }) {
  const { unit } = useBench()
  const named = `${showStated(size.thickness_nm, unit)} ${unitName[unit]}`
  const grade = gradeWords[size.grade]
  return (
    <Ask open onClose={onClose} title={`${named}, ${inSentence(drawer.name)}`}>
      <p className="text-lg">
        <strong className="figure text-2xl">{size.on_hand}</strong> in the drawer
        {size.place && ` (${size.place})`}
        {size.reserved > 0 && `, ${size.reserved} set aside`}
        {size.on_order > 0 && `, ${size.on_order} on order`}
        {size.awaited > 0 && `, ${size.awaited} awaited`}
        {size.discontinued && '; no longer made'}.
      </p>
      {grade && (
        <p className="text-dim">
          {capital(grade)} by micrometer
          {size.nominal_nm != null && `; marked ${showStated(size.nominal_nm, unit)} ${unitName[unit]}`}.
        </p>
      )}
      {size.held_by.length > 0 && (
        <ul className="ruled mt-2" aria-label="Set aside for">
          {size.held_by.map((h) => (
            <li key={`${h.job_no} ${h.check_key}`} className="py-1">
              <Link className="link" to={`/jobs/${h.job_no}/checks/${h.check_key}`}>
                Job {h.job_no}, {inSentence(h.check_name)}
              </Link>
              :{' '}
              {[h.reserved && `${h.reserved} set aside`, h.awaited && `waits for ${h.awaited}`]
                .filter(Boolean)
                .join(', ')}
            </li>
          ))}
        </ul>
      )}
      <Acts {...{ drawer, size, named, onDone }} />
      {size.grade === 'marked' && size.on_hand > size.reserved && (
        <section aria-label="Measure one" className="mt-4 border-t border-line pt-3">
          <MikeForm drawer={drawer} marked={size} onDone={onDone} />
        </section>
      )}
      <section aria-label="Count again" className="mt-4 border-t border-line pt-3">
        <CountForm {...{ drawer, size, onClose, onDone }} />
      </section>
    </Ask>
  )
}

/** Take, put in, scrap, order, come. */
function Acts({ drawer, size, named, onDone }: Omit<Props, 'onClose'> & { size: Size; named: string }) {
  const { who } = useBench()
  const written = useDrawersWritten()
  const [count, setCount] = useState('1')
  const [reason, setReason] = useState('')
  const [countFault, setCountFault] = useState('')
  const act = useMutation<Drawer[], Refused, { act: Act; key: string }>({
    mutationFn: ({ act, key }) =>
      answer(
        server.POST('/api/drawers/acts', {
          params: { header: { 'Idempotency-Key': key } },
          body: {
            act,
            reason,
            who,
            lines: [
              {
                family_key: drawer.key,
                thickness_nm: size.thickness_nm,
                grade: size.grade,
                count: Number(count),
              },
            ],
          },
        }),
      ),
    onSuccess: (drawers, { act, key }) => {
      written(drawers)
      onDone({ said: `${actWords[act].done} ${count.trim()} of ${named}.`, actKey: key })
    },
  })
  const acts: Act[] = ['take', 'return', 'scrap']
  if (size.grade === 'marked') {
    if (!size.discontinued) acts.push('order')
    if (size.on_order > 0) acts.push('come', 'cut_order')
  }
  return (
    <section aria-label="Take, put in, order" className="mt-3 border-t border-line pt-3">
      <div className="grid grid-cols-[6rem_1fr] gap-x-4">
        <Field label="How many" numeric value={count} onChange={setCount} fault={countFault} />
        <Field label="Why, if it matters" words value={reason} onChange={setReason} />
      </div>
      <div className="flex flex-wrap gap-2">
        {acts.map((a) => (
          <button
            key={a}
            className="press-quiet"
            disabled={act.isPending}
            onClick={() => {
              const whole = /^[1-9]\d{0,4}$/.test(count.trim())
              setCountFault(whole ? '' : 'Whole pieces, such as 2.')
              if (whole) act.mutate({ act: a, key: writeKey() })
            }}
          >
            {actWords[a].press}
          </button>
        ))}
      </div>
      <Trouble error={act.error} />
    </section>
  )
}

function CountForm({ drawer, size, onClose, onDone }: Props & { size: Size }) {
  const { unit, who } = useBench()
  const written = useDrawersWritten()
  const [count, setCount] = useState(String(size.on_hand))
  const [place, setPlace] = useState(size.place)
  const [discontinued, setDiscontinued] = useState(size.discontinued)
  const [countFault, setCountFault] = useState('')
  const save = useMutation<Drawer[], Refused, string>({
    mutationFn: (key) =>
      answer(
        server.PUT('/api/drawers/{family}', {
          params: {
            path: { family: drawer.key },
            header: { 'Idempotency-Key': key, 'If-Match': `"${size.version}"` },
          },
          body: {
            thickness: `${size.thickness_nm / 1e6} mm`,
            unit,
            grade: size.grade,
            on_hand: Number(count),
            place,
            discontinued,
            who,
          },
        }),
      ),
    onSuccess: (drawers, actKey) => {
      written(drawers)
      onDone({
        said: `Counted ${count.trim()} of ${showStated(size.thickness_nm, unit)} ${unitName[unit]}.`,
        ...(Number(count) !== size.on_hand && { actKey }),
      })
    },
  })
  const fault = (field: string) =>
    save.error?.problem.field === field ? save.error.problem.title : undefined
  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault()
        if (!/^\d{1,6}$/.test(count.trim())) {
          setCountFault('Count whole pieces, such as 4.')
          return
        }
        setCountFault('')
        save.mutate(writeKey())
      }}
    >
      <div className="grid gap-x-4 sm:grid-cols-2">
        <Field
          label="How many are in the drawer"
          hint={size.reserved ? `${size.reserved} of them set aside for checks; they count too.` : undefined}
          numeric
          value={count}
          onChange={setCount}
          fault={countFault || fault('on_hand')}
        />
        <Field label="Where the drawer is" words value={place} onChange={setPlace} />
      </div>
      <label className="mb-3 flex min-h-12 items-center gap-3">
        <input
          type="checkbox"
          className="size-6 accent-[var(--blue)]"
          checked={discontinued}
          onChange={(e) => setDiscontinued(e.target.checked)}
        />
        This size is no longer made
      </label>
      {!fault('on_hand') && <Trouble error={save.error} />}
      <Presses onClose={onClose} pending={save.isPending} press="Keep the count" />
    </form>
  )
}
