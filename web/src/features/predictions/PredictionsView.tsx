// Predicted against achieved over the finished boxes of a sheet: the usual difference and its spread.
import { scale } from '../../charts/axis'
import { Levels } from '../../charts/Levels'
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { usePast, useSheet } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { dayText, show, unitName } from '../../domain/units'
import { useWidth } from '../../ui/width'
import { useSoon } from '../../ui/soon'

type Past = Schemas['PastOfCheck']

export function PredictionsView() {
  const { sheetKey = '' } = useParams()
  const { data: sheet } = useSheet(sheetKey)
  const { data, error } = usePast(sheetKey)
  const past = useSoon(data)
  useTitle(sheet ? `How predictions came out, ${sheet.name}` : undefined)
  if (!past && error) return <Trouble error={error as unknown as Refused} />
  if (!past) return <Loading what="the finished boxes" />
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <header className="py-5">
        <h1 className="text-3xl">How predictions came out</h1>
        <p className="text-dim">
          Achieved less predicted, over the finished boxes of{' '}
          <Link className="link" to={`/sheets/${sheetKey}`}>
            {sheet?.name ?? sheetKey}
          </Link>
          . Nothing of it counts unless somebody says so at a check.
        </p>
      </header>
      {past.length === 0 && (
        <p className="text-lg">
          No box of this sheet is finished yet. Each one handed over adds a point for every check that pieces
          were fitted for.
        </p>
      )}
      <div className="grid gap-x-10 lg:grid-cols-2">
        {past.map((p) => (
          <OfCheck key={p.check_key} past={p} />
        ))}
      </div>
    </main>
  )
}

function OfCheck({ past }: { past: Past }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const { usual, boxes } = past
  return (
    <section id={past.check_key} aria-label={past.name} className="border-t-2 border-ink py-4">
      <h2 className="text-xl">{past.name}</h2>
      {usual ? (
        <>
          <p className="mt-1 text-lg">
            <strong className="figure text-3xl">{show(Math.abs(usual.mean_nm), unit)}</strong> {u}{' '}
            {usual.mean_nm < 0 ? 'tighter' : 'looser'} than predicted, give or take{' '}
            <span className="figure">{show(usual.spread_nm, unit)}</span>, over {usual.boxes} boxes.
          </p>
          <p className="text-dim">
            {usual.matters
              ? 'More than chance brings: it is offered at the check.'
              : 'No more than chance brings: nothing to count with.'}{' '}
            {usual.spreads_more
              ? `They spread more than their uncertainties explain (${show(usual.explained_nm, unit)}).`
              : `Their uncertainties explain a spread of ${show(usual.explained_nm, unit)}.`}
          </p>
        </>
      ) : (
        <p className="mt-1 text-dim">
          {boxes.length} {boxes.length === 1 ? 'box' : 'boxes'}: too few for anything to be usual; five will
          do.
        </p>
      )}
      <Plot past={past} />
    </section>
  )
}

const HIGH = 170
const LEFT = 62

/** A pin for each box, its wings the uncertainty; the band is the usual difference and its spread. */
function Plot({ past }: { past: Past }) {
  const { unit } = useBench()
  const { ref, width } = useWidth<HTMLDivElement>(560, 280)
  const { boxes, usual } = past
  const most = Math.max(1000, ...boxes.map((b) => Math.abs(b.difference_nm) + b.expanded_nm))
  const y = scale(most, -most, 12, HIGH - 28)
  const x = scale(0, Math.max(1, boxes.length - 1), LEFT + 14, width - 16)
  const u = unitName[unit]
  const label = boxes
    .map(
      (b) =>
        `job ${b.job_no}: ${show(Math.abs(b.difference_nm), unit)} ${b.difference_nm < 0 ? 'tighter' : 'looser'}`,
    )
    .join('; ')
  return (
    <div ref={ref} className="mt-2">
      <svg width={width} height={HIGH} role="img" aria-label={label} className="block max-w-full">
        {usual && (
          <rect
            x={LEFT}
            width={width - LEFT - 4}
            y={y(usual.mean_nm + usual.expanded_spread_nm)}
            height={Math.max(
              2,
              y(usual.mean_nm - usual.expanded_spread_nm) - y(usual.mean_nm + usual.expanded_spread_nm),
            )}
            fill="var(--steel)"
          />
        )}
        <Levels at={[most, 0, -most]} {...{ y, unit }} left={LEFT} right={width - 4} />
        {usual && (
          <line
            x1={LEFT}
            x2={width - 4}
            y1={y(usual.mean_nm)}
            y2={y(usual.mean_nm)}
            stroke="var(--blue)"
            strokeWidth="2.5"
          />
        )}
        {boxes.map((b, i) => (
          <g key={b.job_no}>
            <title>{`Job ${b.job_no}, ${b.title}, ${dayText(b.finished_at)}`}</title>
            <line
              x1={x(i)}
              x2={x(i)}
              y1={y(b.difference_nm + b.expanded_nm)}
              y2={y(b.difference_nm - b.expanded_nm)}
              stroke="var(--steel-line)"
              strokeWidth="1.5"
            />
            <circle cx={x(i)} cy={y(b.difference_nm)} r="4" fill="var(--ink)" />
          </g>
        ))}
        <text x={LEFT} y={HIGH - 6} fontSize="13" fill="var(--dim)">
          {u}, looser up, tighter down; the oldest box left
        </text>
      </svg>
    </div>
  )
}
