// What to order: the fewest sizes that will surely do for the open checks, as one list to print or send.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { useOrder } from '../../api/queries'
import { DoneLine, type Done } from '../drawers/DoneLine'
import { useDrawersWritten } from '../drawers/writes'
import { PartsToGet } from './PartsToGet'
import { Beyond, LeftOut } from '../allocation/LeftOut'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { show, showStated, unitName } from '../../domain/units'
import { useWidth } from '../../ui/width'
import { useSoon } from '../../ui/soon'

type Need = Schemas['PurchaseNeed']

export function PurchaseView() {
  const { jobNo } = useParams()
  const job = jobNo === undefined ? undefined : Number(jobNo)
  useTitle(job === undefined ? 'What to order' : `What to order, job ${job}`)
  const [params, setParams] = useSearchParams()
  const unmeasured = params.has('unmeasured')
  const { data, error } = useOrder(job, unmeasured)
  const order = useSoon(data)
  const [done, setDone] = useState<Done | null>(null)
  if (!order && error) return <Trouble error={error as unknown as Refused} />
  if (!order) return <Loading doing="Working out" what="what to order" />
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <header className="flex flex-wrap items-end gap-x-6 gap-y-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">What to order</h1>
          <p className="text-dim">
            {job === undefined ? (
              'The fewest sizes that will surely do, for every open check of the bench'
            ) : (
              <>
                The fewest sizes that will surely do, for every open check of{' '}
                <Link className="link" to={`/jobs/${job}`}>
                  job {job}
                </Link>{' '}
                ·{' '}
                <Link className="link" to="/order">
                  the whole bench
                </Link>
              </>
            )}
          </p>
        </div>
        <div className="no-print flex gap-3">
          <a
            className="press-quiet"
            href={`/api/order/csv?unmeasured=${unmeasured}${job === undefined ? '' : `&job_no=${job}`}`}
          >
            Save as CSV
          </a>
          <button className="press-quiet" onClick={() => print()}>
            Print
          </button>
          {order.lines.length > 0 && <Placed lines={order.lines} onDone={setDone} />}
        </div>
      </header>
      {done && <DoneLine key={done.actKey ?? done.said} done={done} onUndone={setDone} />}
      <label className="no-print inline-flex min-h-12 items-center gap-3">
        <input
          type="checkbox"
          className="size-6 accent-[var(--blue)]"
          checked={unmeasured}
          onChange={(e) => setParams(e.target.checked ? { unmeasured: '1' } : {}, { replace: true })}
        />
        Also for checks not measured yet, by what boxes before them wanted
      </label>
      <Beyond of={order.beyond} />
      {order.more_served != null && (
        <p className="my-2 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="unproven">
          What is on hand was shared out as well as could be found in the time there was, which is not proven
          the best:{' '}
          {order.more_served > 0
            ? `up to ${order.more_served} more ${order.more_served === 1 ? 'check' : 'checks'} could have ${order.more_served === 1 ? 'its' : 'their'} pieces on hand, and less be ordered.`
            : 'as many checks might come nearer their targets with what is on hand.'}
        </p>
      )}
      <List lines={order.lines} served={order.served} />
      <PartsToGet job={job} />
      {order.needs.length > 0 && <Needs needs={order.needs} one={job !== undefined} />}
      <LeftOut title="Nothing can be said of" of={order.left_out} one={job !== undefined} />
    </main>
  )
}

/** Notes that all of it is ordered. */
function Placed({ lines, onDone }: { lines: Schemas['PurchaseLine'][]; onDone: (done: Done) => void }) {
  const { who } = useBench()
  const written = useDrawersWritten()
  const place = useMutation<Drawer[], Refused, string>({
    mutationFn: (key) =>
      answer(
        server.POST('/api/drawers/acts', {
          params: { header: { 'Idempotency-Key': key } },
          body: {
            act: 'order',
            lines: lines.map(({ family_key, thickness_nm, count }) => ({ family_key, thickness_nm, count })),
            who,
          },
        }),
      ),
    onSuccess: (drawers, actKey) => {
      const count = lines.reduce((n, l) => n + l.count, 0)
      onDone({ said: `${count} ${count === 1 ? 'piece is' : 'pieces are'} on order.`, actKey })
      written(drawers)
    },
  })
  return (
    <>
      <button className="press" disabled={place.isPending} onClick={() => place.mutate(writeKey())}>
        These pieces are ordered
      </button>
      <Trouble error={place.error} />
    </>
  )
}

function List({ lines, served }: { lines: Schemas['PurchaseLine'][]; served: number }) {
  const { unit } = useBench()
  const count = lines.reduce((n, l) => n + l.count, 0)
  const have =
    served > 0 && ` ${served} ${served === 1 ? 'check has its' : 'checks have their'} pieces in the drawers.`
  if (lines.length === 0)
    return <p className="py-4 text-2xl font-semibold">No selective piece needs ordering.{have}</p>
  return (
    <section aria-label="The order" className="border-b border-line pb-4">
      <p className="text-2xl" data-testid="order">
        <strong className="figure text-[2.6rem] leading-none">{count}</strong>{' '}
        {count === 1 ? 'piece' : 'pieces'} in {lines.length} {lines.length === 1 ? 'size' : 'sizes'}.
        <span className="text-base text-dim">{have}</span>
      </p>
      <table className="mt-3 w-full">
        <caption className="sr-only">The order</caption>
        <thead>
          <tr>
            <th className="th">Drawer</th>
            <th className="th text-right">Size, {unitName[unit]}</th>
            <th className="th text-right">How many</th>
            <th className="th hidden sm:table-cell">Number</th>
            <th className="th">For</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={`${line.family_key} ${line.thickness_nm}`}>
              <td className="td sm:whitespace-nowrap">{line.family_name}</td>
              <td className="td figure text-right text-xl font-semibold">
                {showStated(line.thickness_nm, unit)}
              </td>
              <td className="td figure text-right text-xl font-semibold">{line.count}</td>
              <td className="td figure hidden whitespace-nowrap sm:table-cell">{line.number || '—'}</td>
              <td className="td text-dim">{line.wanted_for.join('; ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

function Needs({ needs, one }: { needs: Need[]; one: boolean }) {
  const { unit } = useBench()
  return (
    <section className="mt-8" aria-label="Why these">
      <h2 className="text-lg">Why these</h2>
      <ul className="ruled">
        {needs.map((need) => (
          <li
            key={`${need.job_no}/${need.check_key}`}
            className="keep-together grid gap-x-8 py-4 lg:grid-cols-2"
          >
            <div>
              <p>
                <Link className="link" to={`/jobs/${need.job_no}/checks/${need.check_key}`}>
                  {need.name}
                </Link>
                {!one && `, job ${need.job_no}, ${need.title}`}
              </p>
              <p className="mt-1">
                <Said need={need} />
              </p>
              <p className="mt-1 text-dim">
                {need.boxes == null
                  ? `Measured: wanted from ${show(need.wanted.from_nm, unit)} to ${show(need.wanted.to_nm, unit)} ${unitName[unit]}, with 95 % confidence.`
                  : `Not measured yet: ${need.boxes} boxes before it wanted from ${show(need.wanted.from_nm, unit)} to ${show(need.wanted.to_nm, unit)} ${unitName[unit]}.`}
              </p>
            </div>
            <Reach need={need} />
          </li>
        ))}
      </ul>
    </section>
  )
}

function Said({ need: { order, boxes } }: { need: Need }) {
  const { unit } = useBench()
  const u = unitName[unit]
  if (order.uncovered.length > 0)
    return (
      <strong>
        No size that is made, and none on hand, will surely do
        {boxes == null
          ? '. Have one made or ground, or measure again with a finer gauge.'
          : ` from ${order.uncovered.map((s) => `${show(s.from_nm, unit)} to ${show(s.to_nm, unit)}`).join(', ')} ${u}: measure first.`}
      </strong>
    )
  if (order.sizes.length === 0)
    return (
      <>
        What is in the drawer will do, at least {show(order.room_nm, unit)} {u} inside.
      </>
    )
  return (
    <>
      <strong className="figure">{order.sizes.map((s) => showStated(s, unit)).join(', ')}</strong> {u}:{' '}
      {order.sizes.length > 1
        ? 'one of them, or one on hand, lands'
        : boxes == null
          ? 'it lands'
          : 'it, or one on hand, lands'}{' '}
      at least {show(order.room_nm, unit)} {u} inside the window.
    </>
  )
}

const HIGH = 64

/** What is wanted as a bar, and where the sizes to order stand along it. */
function Reach({ need }: { need: Need }) {
  const { unit } = useBench()
  const { ref, width: W } = useWidth<HTMLDivElement>(560, 280)
  const { from_nm: a, to_nm: b } = need.wanted
  const all = [a, b, ...need.order.sizes]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const room = Math.max(high - low, 20_000) * 0.25
  const x = (nm: number) => 30 + ((nm - low + room) / (high - low + 2 * room)) * (W - 60)
  const label = `Wanted from ${show(a, unit)} to ${show(b, unit)} ${unitName[unit]}; to order: ${
    need.order.sizes.map((s) => showStated(s, unit)).join(', ') || 'nothing'
  }`
  return (
    <div ref={ref}>
      <svg width={W} height={HIGH} role="img" aria-label={label} className="block max-w-full">
        <line x1="8" x2={W - 8} y1="26" y2="26" stroke="var(--steel-line)" strokeWidth="2" />
        <rect x={x(a)} y="18" width={Math.max(x(b) - x(a), 3)} height="16" fill="var(--blue)" />
        {need.order.uncovered.map((part) => (
          <rect
            key={part.from_nm}
            x={x(part.from_nm)}
            y="14"
            width={Math.max(x(part.to_nm) - x(part.from_nm), 3)}
            height="24"
            fill="var(--paper)"
            stroke="var(--oxide)"
            strokeWidth="3"
          />
        ))}
        {[a, b].map((end, i) => (
          <text
            key={i}
            x={x(end) + (i === 0 ? -6 : 6)}
            y="13"
            textAnchor={i === 0 ? 'end' : 'start'}
            fontSize="14"
            fill="var(--dim)"
            fontFamily="var(--font-mono)"
          >
            {show(end, unit)}
          </text>
        ))}
        {need.order.sizes.map((size) => (
          <g key={size}>
            <path d={`M${x(size)} 36l-8 10h16z`} fill="var(--ink)" />
            <text
              x={x(size)}
              y="61"
              textAnchor="middle"
              fontSize="15"
              fontWeight="700"
              fill="var(--ink)"
              fontFamily="var(--font-mono)"
            >
              {showStated(size, unit)}
            </text>
          </g>
        ))}
      </svg>
    </div>
  )
}
