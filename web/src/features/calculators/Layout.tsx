// How every sum is laid out: what is typed at the left, the answer beside it.
import type { ReactNode } from 'react'
import type { Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Trouble, Working } from '../../ui/Parts'
import { SlotGauge } from '../../charts/SlotGauge'
import { markWords } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { clearance, unitName } from '../../domain/units'
import { PutOnLog } from './PutOnLog'

export function Layout({
  form,
  error,
  children,
}: {
  form: ReactNode
  error: Refused | null
  children: ReactNode
}) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-x-10 lg:grid-cols-[24rem_minmax(0,1fr)]">
      <form onSubmit={(e) => e.preventDefault()}>{form}</form>
      <section aria-label="Answer">
        {error && !error.problem.field && <Trouble error={error} />}
        {children}
      </section>
    </div>
  )
}

/** Said where the gauge's error is not known: every chance shown leaves it out. */
export function ErrorLeftOut({ error }: { error: string }) {
  if (error.trim()) return null
  return (
    <p className="mt-1 text-dim">
      The gauge’s own error is not counted: what is said here is surer than it is.
    </p>
  )
}

/** The figure that the sum is for, as large as it matters. */
export function Big({ figure, children, id }: { figure: string; children: ReactNode; id: string }) {
  return (
    <p className="text-2xl" aria-live="polite">
      <strong className="figure text-[3.2rem] leading-none" data-testid={id}>
        {figure}
      </strong>{' '}
      {children}
    </p>
  )
}

/** A clearance as the answer, in the window where there is one, with what there is to draw and its working. */
export function ClearanceFound({
  sum,
  said,
  children,
}: {
  sum: Schemas['WaySum']
  /** What it is of, for a job's log. */
  said: string
  children: ReactNode
}) {
  const { unit } = useBench()
  const { estimate, no_estimate, verdict, window } = sum
  if (!estimate)
    return (
      <>
        <p className="text-lg font-semibold text-oxide">{no_estimate}</p>
        {children}
      </>
    )
  const c = clearance(estimate.clearance_nm, unit)
  return (
    <>
      <Big figure={c.figure} id="clearance">
        {unitName[unit]} {c.word === 'nil' ? 'neither float nor preload' : c.word}
        {verdict && `: ${verdict.call === 'in' ? 'in the window' : markWords[verdict.call]}`}
      </Big>
      {window && verdict && (
        <SlotGauge
          window={window}
          aim={middle(window)}
          measured={{
            nm: estimate.clearance_nm,
            expanded_nm: verdict.expanded_nm,
            call: verdict.call,
            label: 'found',
          }}
        />
      )}
      {children}
      <div className="mt-3">
        <Working lines={estimate.working} />
      </div>
      <PutOnLog said={`${said}: ${c.figure} ${unitName[unit]} ${c.word}.`} />
    </>
  )
}

/** What a window is aimed at where nothing is said: its middle, or its one end. */
const middle = (window: Schemas['Ends']): Schemas['TargetRange'] => {
  const at = ((window.low_nm ?? window.high_nm ?? 0) + (window.high_nm ?? window.low_nm ?? 0)) / 2
  return { from_nm: at, to_nm: at }
}
