// The plan of a box: which checks go in which closing of the case, with the sheet's own order beside it.
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useBox, usePlan, useSheet } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { allInSentence } from '../../domain/words'

type Plan = Schemas['Plan']
type Check = Schemas['PlanCheck']

export function PlanView() {
  const { jobNo, sheetKey } = useParams()
  return jobNo === undefined ? <OfSheet sheet={sheetKey ?? ''} /> : <OfJob job={Number(jobNo)} />
}

function OfJob({ job }: { job: number }) {
  const { data: box } = useBox(job)
  return (
    <Screen
      of={{ job }}
      title={`Plan, job ${job}`}
      back={`/jobs/${job}`}
      what={box ? `Job ${job}, ${box.title}` : `Job ${job}`}
    />
  )
}

function OfSheet({ sheet }: { sheet: string }) {
  const { data } = useSheet(sheet)
  return (
    <Screen
      of={{ sheet }}
      title={`Plan, ${data?.name ?? sheet}`}
      back={`/sheets/${sheet}`}
      what={data?.name ?? sheet}
    />
  )
}

function Screen({
  of,
  title,
  back,
  what,
}: {
  of: { job: number } | { sheet: string }
  title: string
  back: string
  what: string
}) {
  useTitle(title)
  const { data: fetched, error } = usePlan(of)
  const data = useSoon(fetched)
  if (!data && error) return <Trouble error={error as unknown as Refused} />
  if (!data) return <Loading what="the plan" />
  const { plan, in_order: order, checks, steps } = data
  const job = 'job' in of ? of.job : undefined
  const same = JSON.stringify(plan.closings) === JSON.stringify(order.closings)
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <header className="flex flex-wrap items-end gap-x-6 gap-y-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">Plan of closings</h1>
          <p className="text-dim">
            <Link className="link" to={back}>
              {what}
            </Link>
            : what to measure in which closing, once of bolting the case together
          </p>
        </div>
        <button className="press-quiet no-print" onClick={() => print()}>
          Print
        </button>
      </header>
      {!data.says && (
        <p className="border-l-4 border-brass bg-brass-soft px-3 py-2">
          The sheet does not say of any check in which closing of the case it is measured, so there is nothing
          to save. Name the closings on the sheet, and plan again.
        </p>
      )}
      {plan.closings.length === 0 ? (
        <p className="py-4 text-2xl font-semibold">Nothing is left to measure.</p>
      ) : (
        <>
          <p className="text-lg" data-testid="plan">
            <strong className="figure text-[2.6rem] leading-none">{plan.count}</strong>{' '}
            {plan.count === 1 ? 'closing' : 'closings'} of the case
            {plan.count > plan.at_least && ` (at least ${plan.at_least}; the best that was found)`}.{' '}
            <span className="text-dim">{versus(plan, order, same)}</span>
          </p>
          <p className="mt-1 max-w-3xl text-dim">
            Each check that a piece sets is measured in one closing and again, with its piece in, in a later
            one. Preloads come as early as they can: a float set against an end plate that a preload will
            later move is wasted work.
          </p>
          <Chart title="Fewest closings" plan={plan} {...{ checks, steps, job }} />
          {!same && <Chart title="The sheet’s own order" plan={order} {...{ checks, steps, job }} />}
        </>
      )}
    </main>
  )
}

function versus(plan: Plan, order: Plan, same: boolean) {
  if (same) return 'The sheet’s own order is the same.'
  const more = order.count - plan.count
  if (more === 0)
    return 'The sheet’s own order takes as many; it stands, and the difference is which comes first.'
  return `The sheet’s own order takes ${order.count}: ${more} more ${more === 1 ? 'split' : 'splits'}.`
}

/** The step of the build that closes the case. */
function InStep({ of, job }: { of: Schemas['PlanStep'] | undefined; job: number | undefined }) {
  if (!of) return null
  const words = `step ${of.number}: ${of.what}`
  return (
    <span className="block text-sm font-normal">
      {job === undefined ? (
        words
      ) : (
        <Link className="link inline-flex min-h-11 items-center" to={`/jobs/${job}/build?step=${of.key}`}>
          {words}
        </Link>
      )}
    </span>
  )
}

/** One column a closing, one line a check: hollow is measured, solid is measured for the last time. */
function Chart({
  title,
  plan,
  checks,
  steps,
  job,
}: {
  title: string
  plan: Plan
  checks: Check[]
  steps: Schemas['ClosingStep'][]
  job: number | undefined
}) {
  const rows = checks.map((check, n) => ({ check, n })).filter(({ check }) => !check.done)
  const mark = (visits: Schemas['Visit'][], n: number) => {
    const here = visits.filter((v) => v.check === n)
    return here.length === 0 ? null : here.some((v) => v.last) ? 'last' : 'first'
  }
  const cell = (visits: Schemas['Visit'][], n: number, settles: boolean) => {
    const kind = mark(visits, n)
    if (!kind) return null
    const once = kind === 'last' && visits.filter((v) => v.check === n).length === 1
    const words = kind === 'first' ? 'measure, choose, fit' : once && settles ? 'measure again' : 'measure'
    return (
      <span className="flex items-center gap-2 whitespace-nowrap">
        <span
          aria-hidden="true"
          className={`inline-block size-4 shrink-0 rounded-full border-2 border-ink ${kind === 'last' ? 'bg-ink' : ''}`}
        />
        <span className="text-sm">{words}</span>
      </span>
    )
  }
  const begun = (upTo: number, n: number) =>
    plan.closings.slice(0, upTo).some((c) => mark(c.visits, n) ?? mark(c.bench, n))
  const bench = plan.closings.some((c) => c.bench.length > 0)
  let closed = 0
  const heads = plan.closings.map((c) => (c.closing ? { ...c, number: ++closed } : { ...c, number: 0 }))
  return (
    <section aria-label={title} className="keep-together mt-8">
      <h2 className="text-xl">
        {title}: {plan.count}
      </h2>
      <div className="overflow-x-auto">
        <table className="mt-2 w-full min-w-[44rem]">
          <thead>
            <tr>
              <th className="th">Check</th>
              {heads.map((c, i) => (
                <th key={i} className="th border-l-2 border-l-ink align-bottom">
                  {c.number ? `Closing ${c.number}` : 'After the last'}
                  <span className="block font-normal text-dim">{c.closing || 'on the bench'}</span>
                  <InStep of={steps.find((s) => s.closing === c.closing)?.step} job={job} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ check, n }) => (
              <tr key={check.check_key}>
                <td className="td">
                  {job === undefined ? (
                    check.name
                  ) : (
                    <Link className="link" to={`/jobs/${job}/checks/${check.check_key}`}>
                      {check.name}
                    </Link>
                  )}
                  <span className="block text-sm text-dim">
                    {[
                      check.preload && 'preload',
                      !check.closing && 'on the bench',
                      check.step && `after step ${check.step.number}`,
                      check.after.length > 0 && `after ${allInSentence(check.after)}`,
                    ]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </td>
                {plan.closings.map((c, i) => (
                  <td key={i} className="td border-l-2 border-l-ink">
                    {cell(c.visits, n, begun(i, n))}
                    {mark(c.bench, n) && (
                      <span className="text-sm text-dim">
                        {c.closing ? 'on the bench, before' : 'on the bench'}
                      </span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {bench && <p className="mt-1 text-sm text-dim">What is measured on the bench costs no closing.</p>}
    </section>
  )
}
