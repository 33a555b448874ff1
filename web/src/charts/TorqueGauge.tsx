// A turning torque in its window: the same slot as every clearance, in newton metres.
import { scale } from './axis'
import type { CheckView } from '../domain/schema'
import { useWidth } from '../ui/width'

const EDGE = 26
const TOP = 120
const FLOOR = 174

export function TorqueGauge({ check }: { check: CheckView }) {
  const { ref, width: W } = useWidth<HTMLDivElement>(800, 280)
  const low = check.torque_window?.low_n_m ?? null
  const high = check.torque_window?.high_n_m ?? null
  const found = check.torque ?? null
  const far = Math.max(high ?? 0, (low ?? 0) * 1.6, found?.torque_n_m ?? 0, 0.1) * 1.3
  const x = scale(0, far, EDGE, W - EDGE)
  const a = low === null ? EDGE : x(low)
  const b = high === null ? W - EDGE : x(high)
  const half = found ? Math.min(Math.max(7, x(found.expanded_n_m) - x(0)), 60) : 0
  const foot = found?.call === 'in' ? FLOOR : TOP
  const said = found ? `turning torque ${found.torque_n_m.toFixed(2)} N·m` : 'not measured yet'
  return (
    <div ref={ref}>
      <svg
        width={W}
        height="240"
        role="img"
        aria-label={`Window of the turning torque; ${said}`}
        className="block"
      >
        <path
          d={`M${EDGE} ${low === null ? FLOOR : TOP}H${a}V${FLOOR}H${b}V${high === null ? FLOOR : TOP}H${W - EDGE}V${FLOOR + 18}H${EDGE}Z`}
          fill="var(--steel)"
          stroke="var(--ink)"
          strokeWidth="2.5"
        />
        {[low, high].map(
          (limit, i) =>
            limit !== null && (
              <text
                key={i}
                x={x(limit)}
                y={FLOOR + 44}
                textAnchor="middle"
                fontSize="17"
                fill="var(--ink)"
                fontFamily="var(--font-mono)"
              >
                {limit} N·m
              </text>
            ),
        )}
        {found && (
          <path
            d={`M${x(found.torque_n_m) - half} ${foot - 85}h${2 * half}V${foot - 10}L${x(found.torque_n_m)} ${foot}L${x(found.torque_n_m) - half} ${foot - 10}Z`}
            fill="var(--brass-line)"
            stroke="var(--ink)"
            strokeWidth="2.5"
            strokeLinejoin="round"
          />
        )}
      </svg>
    </div>
  )
}
