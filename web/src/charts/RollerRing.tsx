// A row of loose rollers round their shaft.
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, unitName } from '../domain/units'

/** The row as it lies round the shaft, the gap at the top. */
export function RollerRing({ row, size = 300 }: { row: Schemas['NeedleRow']; size?: number }) {
  const { unit } = useBench()
  const pitch = row.pitch_nm / 2
  // A roller's radius from the step: the pitch circle's chord from one to the next is its diameter.
  const roller = pitch * Math.sin(row.step_rad / 2)
  const scale = (size / 2 - 12) / (pitch + roller)
  const open = 2 * Math.PI - (row.count - 1) * row.step_rad
  const at = (i: number) => {
    const angle = -Math.PI / 2 + open / 2 + i * row.step_rad
    return [size / 2 + pitch * scale * Math.cos(angle), size / 2 + pitch * scale * Math.sin(angle)] as const
  }
  return (
    <svg
      width={size}
      height={size}
      role="img"
      className="my-3 max-w-full"
      aria-label={`${row.count} rollers round the shaft, ${show(row.gap_nm, unit)} ${unitName[unit]} left between the first and the last`}
    >
      <circle
        cx={size / 2}
        cy={size / 2}
        r={(pitch - roller) * scale}
        fill="var(--steel)"
        stroke="var(--ink)"
        strokeWidth="2"
      />
      {Array.from({ length: Math.min(row.count, 400) }, (_, i) => {
        const [x, y] = at(i)
        const end = i === 0 || i === row.count - 1
        return (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={roller * scale}
            fill={end ? 'var(--blue-soft)' : 'var(--card)'}
            stroke="var(--ink)"
            strokeWidth={end ? 2.5 : 1.2}
          />
        )
      })}
      <text
        x={size / 2}
        y={size / 2 + 6}
        textAnchor="middle"
        fontSize="18"
        fontWeight="700"
        fill="var(--ink)"
      >
        shaft
      </text>
    </svg>
  )
}
