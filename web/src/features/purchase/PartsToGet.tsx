// Parts that have to be got, for one job or for all on the bench: to order, on order, will not come, here.
import { useState } from 'react'
import { Link } from 'react-router'
import type { Refused } from '../../api/client'
import { useBenchParts, useParts } from '../../api/queries'
import { supplyName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { dayText } from '../../domain/units'
import { Field } from '../../ui/Field'
import type { PartAct } from '../../api/acts'
import { useAnyPartAct } from '../../ui/acts'
import { useNotice } from '../../ui/Notices'
import { Ask, AskReason, Trouble } from '../../ui/Parts'
import { Presses } from '../../ui/Presses'
import { Promised } from '../intake/Promised'

type Part = Schemas['ToGet'] & Pick<Schemas['BenchPart'], 'job_no'> & Partial<Schemas['BenchPart']>

const WHY_NOT = ['no longer made', 'not to be had there', 'too dear']
const STATES = ['needed', 'will_not_come', 'ordered', 'come'] as const

export function PartsToGet({ job }: { job: number | undefined }) {
  const { data: bench } = useBenchParts(job === undefined)
  const { data: own } = useParts(job ?? 0, job !== undefined)
  const parts: Part[] | undefined =
    job === undefined ? bench : own?.to_get.map((of) => ({ ...of, job_no: job }))
  const doing = useAnyPartAct()
  const [ordering, setOrdering] = useState<Part[] | null>(null)
  const [booking, setBooking] = useState<Part | null>(null)
  const [refusing, setRefusing] = useState<Part | null>(null)
  if (!parts || parts.length === 0) return null
  const say = (of: Part, act: PartAct) => doing.mutate({ job: of.job_no, act, name: of.name })
  const come = (of: Part, count?: number) => say(of, { act: 'come', part: of.part, count: count ?? null })
  const to_order = parts.filter((p) => p.supply.state === 'needed')
  return (
    <section aria-label="Parts" className="mt-8">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
        <h2 className="mr-auto text-2xl">Parts</h2>
        {to_order.length > 1 && (
          <button className="press-quiet no-print" onClick={() => setOrdering(to_order)}>
            All {to_order.length} that are missing are ordered …
          </button>
        )}
      </div>
      <Trouble error={doing.error} />
      {STATES.map((state) => {
        const of = parts.filter((p) => p.supply.state === state)
        if (of.length === 0) return null
        const lines = (
          <ul className="ruled">
            {of.map((part) => (
              <li
                key={`${part.job_no} ${part.part}`}
                className="keep-together flex flex-wrap items-center gap-x-6 gap-y-1 py-2"
              >
                <div className="mr-auto min-w-0 wrap-anywhere">
                  <p>
                    <span className="figure">{part.count} × </span>
                    <strong>{part.name}</strong>
                    {part.number && <span className="figure"> · {part.number}</span>}
                    <span className="text-dim"> · {part.why}</span>
                  </p>
                  <p className="text-sm text-dim">
                    {part.title && (
                      <>
                        <Link
                          className="link inline-flex min-h-11 items-center"
                          to={`/jobs/${part.job_no}/order`}
                        >
                          Job {part.job_no}, {part.title}
                        </Link>{' '}
                      </>
                    )}
                    <Promised day={part.promised} done={state === 'come'} />
                  </p>
                  <p className="text-sm">{supplyWords(part.supply)}</p>
                </div>
                <div className="no-print flex flex-wrap gap-2">
                  {part.supply.to_order > 0 && (
                    <button
                      className="press-quiet"
                      disabled={doing.isPending}
                      aria-label={`Ordered: ${part.name}, job ${part.job_no}`}
                      onClick={() => setOrdering([part])}
                    >
                      Ordered …
                    </button>
                  )}
                  {state !== 'come' && (
                    <button
                      className="press-quiet"
                      disabled={doing.isPending}
                      aria-label={`Here: ${part.name}, job ${part.job_no}`}
                      onClick={() => (part.count - part.supply.come > 1 ? setBooking(part) : come(part))}
                    >
                      {part.count - part.supply.come > 1 ? 'Here …' : 'Here'}
                    </button>
                  )}
                  {part.supply.on_order > 0 && (
                    <button
                      className="press-quiet"
                      disabled={doing.isPending}
                      aria-label={`Will not come: ${part.name}, job ${part.job_no}`}
                      onClick={() => setRefusing(part)}
                    >
                      Will not come …
                    </button>
                  )}
                  {part.supply.who && (
                    <button
                      className="link min-h-11"
                      disabled={doing.isPending}
                      aria-label={`Take back: ${part.name}, job ${part.job_no}`}
                      onClick={() => say(part, { act: 'supply_back', part: part.part })}
                    >
                      take that back
                    </button>
                  )}
                </div>
              </li>
            ))}
          </ul>
        )
        return (
          <div key={state} role="group" aria-label={supplyName[state]} className="mt-3">
            <h3 className="text-lg">
              {supplyName[state]}: {of.length}
            </h3>
            {lines}
          </div>
        )
      })}
      {ordering && <Ordering of={ordering} onClose={() => setOrdering(null)} />}
      {booking && (
        <HowMany
          of={booking}
          onGive={(count) => {
            come(booking, count)
            setBooking(null)
          }}
          onClose={() => setBooking(null)}
        />
      )}
      {refusing && (
        <AskReason
          title={`${refusing.name} will not come`}
          label="Or another reason"
          press="It will not come"
          suggestions={WHY_NOT}
          onGive={(why) => say(refusing, { act: 'will_not_come', part: refusing.part, why })}
          onClose={() => setRefusing(null)}
        />
      )}
    </section>
  )
}

/** Where a part stands, in a line. */
function supplyWords({ to_order, on_order, come, from, price, why, who, at }: Schemas['Supply']) {
  const words = [
    come > 0 && `${come} here`,
    on_order > 0 && `${on_order} on order${from ? ` at ${from}` : ''}${price ? `, ${price} each` : ''}`,
    to_order > 0 && who && `${to_order} to order`,
    why && `will not come: ${why}`,
    who && at && `${who}, ${dayText(at)}`,
  ].filter(Boolean)
  return words.join(' · ')
}

/** Where one or several were ordered, for how much, how many. */
function Ordering({ of, onClose }: { of: Part[]; onClose: () => void }) {
  const [one] = of
  const single = of.length === 1
  const doing = useAnyPartAct(!single)
  const notice = useNotice()
  const [from, setFrom] = useState('')
  const [price, setPrice] = useState('')
  const [count, setCount] = useState(String(one?.supply.to_order ?? 1))
  const [placed, setPlaced] = useState(0)
  const [fault, setFault] = useState<Refused | null>(null)
  if (!one) return null
  const whole = /^\d{1,4}$/.test(count.trim())
  const place = async () => {
    setFault(null)
    const done: Part[] = []
    try {
      for (const part of of) {
        await doing.mutateAsync({
          job: part.job_no,
          name: part.name,
          act: {
            act: 'ordered',
            part: part.part,
            count: single ? Number(count) : null,
            from,
            price: single ? price : '',
          },
        })
        done.push(part)
        setPlaced(done.length)
      }
      onClose()
      if (single) return
      notice({
        said: `On order: ${of.length} parts`,
        undo: async () => {
          for (const { job_no: job, part, name } of done)
            await doing.mutateAsync({ job, act: { act: 'supply_back', part }, name })
        },
      })
    } catch (error) {
      setFault(error as Refused)
    }
  }
  return (
    <Ask open onClose={onClose} title={single ? `Ordered: ${one.name}` : `Ordered: ${of.length} parts`}>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          if (whole && !doing.isPending) void place()
        }}
      >
        <Field
          words
          label="Where"
          hint="Left empty where that does not matter"
          value={from}
          onChange={setFrom}
        />
        {single && (
          <div className="grid gap-x-5 sm:grid-cols-2">
            <Field
              label={`How many, of ${one.supply.to_order}`}
              numeric
              value={count}
              onChange={setCount}
              fault={
                !whole
                  ? 'Whole pieces, such as 2.'
                  : fault?.problem.field?.endsWith('count')
                    ? fault.problem.title
                    : undefined
              }
            />
            <Field
              label="What one costs"
              value={price}
              onChange={setPrice}
              hint="Where that is worth knowing"
            />
          </div>
        )}
        {fault && !fault.problem.field?.endsWith('count') && <Trouble error={fault} />}
        {!single && placed > 0 && (
          <p role="status">
            {placed} of {of.length} noted
          </p>
        )}
        <Presses onClose={onClose} pending={doing.isPending} press="It is ordered" />
      </form>
    </Ask>
  )
}

/** How many of several have come. */
function HowMany({
  of,
  onGive,
  onClose,
}: {
  of: Part
  onGive: (count: number) => void
  onClose: () => void
}) {
  const most = of.count - of.supply.come
  const [count, setCount] = useState(String(most))
  const fits = /^\d{1,4}$/.test(count.trim()) && Number(count) >= 1 && Number(count) <= most
  return (
    <Ask open onClose={onClose} title={`Here: ${of.name}`}>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          if (fits) onGive(Number(count))
        }}
      >
        <Field
          label={`How many, of ${most}`}
          numeric
          value={count}
          onChange={setCount}
          fault={fits ? undefined : `From 1 to ${most}.`}
        />
        <Presses onClose={onClose} press="They are here" />
      </form>
    </Ask>
  )
}
