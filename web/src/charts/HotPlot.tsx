// Clearance against temperature: the window as a band, the clearance as a line through it.
import { scale } from './axis'
import { Levels } from './Levels'
import type { CheckView, Schemas } from '../domain/schema'
import { Working } from '../ui/Parts'
import { useBench } from '../domain/session'
import { clearance, show, unitName } from '../domain/units'
import { useWidth } from '../ui/width'

type Line = Schemas['HotAndCold']

const HIGH = 260
const LEFT = 64
const FOOT = 34
const TOP = 26

export function HotPlot({ check }: { check: CheckView }) {
  const { hot } = check
  const line = hot?.expected ?? hot?.measured
  if (!hot || !line || !check.aim) return null
  return (
    <section aria-label="Hot and cold" className="border-t border-line px-3 py-5 sm:px-6">
      <h2 className="text-lg">Hot and cold</h2>
      <p className="mt-1">
        {hot.expected ? 'With the piece chosen, or the best,' : 'As it is,'} <HotSaid line={line} />
      </p>
      <HotWindow hot={hot} check={check} />
      <div className="mt-3 max-w-3xl">
        <HotLine window={hot.window_at ? null : check.window} line={line} dashed={!!hot.expected} />
        <Working lines={hot.working} />
      </div>
    </section>
  )
}

/** The window holds hot: what it comes to there, the cold figure beside it. */
function HotWindow({ hot, check }: { hot: Schemas['Hot']; check: CheckView }) {
  const { unit } = useBench()
  if (!hot.window_at || hot.window_nm == null || hot.cold_nm == null) return null
  const [there, cold] = [hot.window_nm, hot.cold_nm].map((nm) => clearance(nm, unit, false, check.kind))
  return (
    <p className="mt-2 border-l-4 border-blue bg-card px-3 py-2" data-testid="hot-window">
      The window holds with the case at {hot.window_at.case_c} °C and what it holds at{' '}
      {hot.window_at.inside_c} °C: there it is{' '}
      <strong>
        {there?.figure} {unitName[unit]} {there?.word}
      </strong>
      , at 20 °C {cold?.figure} {unitName[unit]} {cold?.word}. The case is taken as rigid; a preload stretches
      it a little.
    </p>
  )
}

/** What becomes of a clearance as it warms. */
export function HotSaid({ line }: { line: Line }) {
  const { unit } = useBench()
  const cold = line.from_nm + (line.growth_nm_per_k * (20 - line.from_c) || 0)
  const what = cold < 0 ? 'preload' : 'float'
  return (
    <>
      the {what} of <span className="figure">{show(Math.abs(cold), unit)}</span> {unitName[unit]} at 20 °C{' '}
      {line.nil_at_c == null ? (
        `is there from ${line.from_c} to ${line.to_c} °C.`
      ) : (
        <strong>
          is gone at <span data-testid="nil">{line.nil_at_c.toFixed(0)} °C</span>.
        </strong>
      )}
    </>
  )
}

/** A clearance as a line against temperature, the window as a band. */
export function HotLine({
  window,
  line,
  dashed,
}: {
  window: Schemas['Ends'] | null | undefined
  line: Line
  dashed?: boolean
}) {
  const { unit } = useBench()
  const { ref, width: W } = useWidth<HTMLDivElement>(720, 280)
  const { low_nm: low, high_nm: high } = window ?? {}
  const all = [line.from_nm, line.to_nm, 0, low, high].filter((n): n is number => n != null)
  const [least, most] = [Math.min(...all), Math.max(...all)]
  const room = (most - least) * 0.08 || 10_000
  const x = scale(line.from_c, line.to_c, LEFT, W - 12)
  const y = scale(most + room, least - room, TOP, HIGH - FOOT)
  const a = y(high ?? most + room)
  const b = y(low ?? least - room)
  const ticks = x.ticks(8)
  const label = `Clearance from ${show(line.from_nm, unit)} at ${line.from_c} °C to ${show(line.to_nm, unit)} ${unitName[unit]} at ${line.to_c} °C`
  return (
    <div ref={ref}>
      <svg width={W} height={HIGH} role="img" aria-label={label} className="block">
        {window && (
          <>
            <rect x={LEFT} y={a} width={W - LEFT - 12} height={Math.max(b - a, 1)} fill="var(--steel)" />
            <text x={W - 18} y={a + 18} textAnchor="end" fontSize="14" fill="var(--ink)">
              window, at 20 °C
            </text>
          </>
        )}
        <Levels
          at={[0, low, high].filter((n): n is number => n != null)}
          {...{ y, unit }}
          left={LEFT}
          right={W - 12}
        />
        {ticks.map((c) => (
          <g key={c}>
            <line x1={x(c)} x2={x(c)} y1={HIGH - FOOT} y2={HIGH - FOOT + 7} stroke="var(--dim)" />
            <text
              x={x(c)}
              y={HIGH - 8}
              textAnchor="middle"
              fontSize="14"
              fill="var(--dim)"
              fontFamily="var(--font-mono)"
            >
              {c}
            </text>
          </g>
        ))}
        <line x1={x(20)} x2={x(20)} y1={TOP} y2={HIGH - FOOT} stroke="var(--dim)" strokeDasharray="3 4" />
        <line
          x1={x(line.from_c)}
          y1={y(line.from_nm)}
          x2={x(line.to_c)}
          y2={y(line.to_nm)}
          stroke="var(--blue)"
          strokeWidth="3.5"
          strokeDasharray={dashed ? '9 6' : undefined}
        />
        {line.nil_at_c != null && (
          <g>
            <path d={`M${x(line.nil_at_c)} ${y(0)}l-9 -16h18z`} fill="var(--oxide)" />
            <text
              x={Math.min(x(line.nil_at_c), W - 60)}
              y={y(0) - 22}
              textAnchor="middle"
              fontSize="15"
              fontWeight="700"
              fill="var(--ink)"
            >
              {line.nil_at_c.toFixed(0)} °C
            </text>
          </g>
        )}
        <text x={LEFT} y="16" fontSize="14" fill="var(--dim)">
          {unitName[unit]}, float up, preload down; °C along
        </text>
      </svg>
    </div>
  )
}
