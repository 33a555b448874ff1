// The gears that a selector holds, drawn between their neighbours, and the ways of sharing the shims out.
import type { ReactNode } from 'react'
import type { Schemas, Unit } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, showStated, unitName } from '../domain/units'

export const shimsWords = (of: number[], unit: Unit) =>
  of.length === 0 ? 'none' : of.map((nm) => showStated(nm, unit)).join(' + ')

/** The ways of sharing the shims out between the two ends, the best first. */
export function Arrangements({
  of,
  more,
}: {
  of: Schemas['Arrangement'][]
  /** What can be done with one. */
  more?: (arrangement: Schemas['Arrangement'], best: boolean) => ReactNode
}) {
  const { unit } = useBench()
  const u = unitName[unit]
  return (
    <div className="overflow-x-auto" tabIndex={0}>
      <table className="w-full min-w-[26rem]" aria-label="Ways to share the shims out">
        <thead>
          <tr>
            <th className="th">Left, {u}</th>
            <th className="th">Right, {u}</th>
            <th className="th">Moves</th>
            <th className="th">Worst</th>
            {more && (
              <th className="th">
                <span className="sr-only">Move them</span>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {of.map((a, i) => (
            <tr key={i} className={i === 0 ? 'font-bold' : ''}>
              <td className="td figure">{shimsWords(a.left_nm, unit)}</td>
              <td className="td figure">{shimsWords(a.right_nm, unit)}</td>
              <td className="td figure">
                {a.shift_nm === 0
                  ? 'as now'
                  : `${show(Math.abs(a.shift_nm), unit)} ${a.shift_nm > 0 ? 'left' : 'right'}`}
              </td>
              <td className="td figure">
                {show(a.worst_nm, unit)}
                {a.fouls.length > 0 && (
                  <span className="block font-sans text-sm text-oxide">△ {a.fouls.join(', ')} touches</span>
                )}
              </td>
              {more && <td className="td text-right">{more(a, i === 0)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

const LINE = 52
const BLOCK = 54

/** The drum's gears in a column: each sliding gear between its neighbours, now solid, moved as an outline. */
export function Forks({ gears, shift }: { gears: Schemas['Offset'][]; shift: number }) {
  const { unit } = useBench()
  const width = 560
  const name = 104
  const most = Math.max(...gears.map((g) => g.left_nm + g.right_nm), 1)
  const scale = (width - name - 3 * BLOCK - 30) / most
  const middle = name + (width - name) / 2
  return (
    <svg
      viewBox={`0 0 ${width} ${gears.length * LINE + 26}`}
      className="my-3 block w-full max-w-2xl"
      role="img"
      aria-label={`${gears.length} gears between their neighbours, now and moved`}
    >
      <line
        x1={middle}
        x2={middle}
        y1="4"
        y2={gears.length * LINE}
        stroke="var(--dim)"
        strokeDasharray="12 4 3 4"
      />
      {gears.map((g, i) => {
        const y = 8 + i * LINE
        const half = ((g.left_nm + g.right_nm) / 2) * scale
        const now = middle + g.now_nm * scale - BLOCK / 2
        const then = now - shift * scale
        const wall = { fill: 'var(--steel)', stroke: 'var(--ink)', strokeWidth: 1.5 }
        return (
          <g key={i}>
            <text x="0" y={y + 15} fontSize="15" fontWeight={g.weight > 1 ? 700 : 400} fill="var(--ink)">
              {g.name.slice(0, 12)}
              {g.weight > 1 ? ` ×${g.weight}` : ''}
            </text>
            <text x="0" y={y + 34} fontSize="13" fill="var(--dim)" className="figure">
              {show(Math.abs(g.now_nm), unit)}
              {g.now_nm === 0 ? '' : g.now_nm < 0 ? ' left' : ' right'}
            </text>
            <rect x={middle - half - BLOCK * 1.5} y={y} width={BLOCK} height={36} {...wall} />
            <rect x={middle + half + BLOCK / 2} y={y} width={BLOCK} height={36} {...wall} />
            <rect
              x={now}
              y={y + 4}
              width={BLOCK}
              height={28}
              fill="var(--brass-soft)"
              stroke="var(--ink)"
              strokeWidth="1.8"
            />
            <rect
              x={then}
              y={y}
              width={BLOCK}
              height={36}
              fill="none"
              stroke="var(--blue)"
              strokeWidth="2.5"
              strokeDasharray="6 4"
            />
          </g>
        )
      })}
      <text x={middle} y={gears.length * LINE + 20} textAnchor="middle" fontSize="13" fill="var(--dim)">
        off the middle now, {unitName[unit]}; moved, dashed
      </text>
    </svg>
  )
}
