// The level lines of a plot of lengths, each with its figure at the left; nil is drawn as the ground.
import type { Unit } from '../domain/schema'
import { show } from '../domain/units'

interface Props {
  /** Where the lines are, in nanometres; each is drawn once. */
  at: number[]
  y: (nm: number) => number
  left: number
  right: number
  unit: Unit
}

export function Levels({ at, y, left, right, unit }: Props) {
  return [...new Set(at)].map((nm) => (
    <g key={nm}>
      <line
        x1={left}
        x2={right}
        y1={y(nm)}
        y2={y(nm)}
        stroke={nm === 0 ? 'var(--ink)' : 'var(--steel-line)'}
        strokeWidth={nm === 0 ? 2 : 1}
      />
      <text
        x={left - 8}
        y={y(nm) + 5}
        textAnchor="end"
        fontSize="14"
        fill="var(--ink)"
        fontFamily="var(--font-mono)"
      >
        {nm === 0 ? 'nil' : show(Math.abs(nm), unit)}
      </text>
    </g>
  ))
}
