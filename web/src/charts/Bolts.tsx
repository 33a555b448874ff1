// Bolts on their joint, numbered in the order in which they are tightened.
import type { Schemas } from '../domain/schema'

const SIDE = 190
const PAD = 20

export function Bolts({ bolts }: { bolts: Schemas['sheet.Bolt'][] }) {
  const at = (n: number) => PAD + (n / 100) * (SIDE - 2 * PAD)
  const path = bolts.map((b, i) => `${i ? 'L' : 'M'}${at(b.across)} ${at(b.down)}`).join('')
  return (
    <svg
      width={SIDE}
      height={SIDE}
      role="img"
      aria-label={`${bolts.length} bolts, in the order of their numbers`}
      className="shrink-0"
    >
      <rect
        x="3"
        y="3"
        width={SIDE - 6}
        height={SIDE - 6}
        rx="16"
        fill="var(--card)"
        stroke="var(--steel-line)"
        strokeWidth="1.5"
      />
      <path d={path} fill="none" stroke="var(--blue)" strokeWidth="1" strokeDasharray="2 4" />
      {bolts.map((b, i) => (
        <g key={i} transform={`translate(${at(b.across)} ${at(b.down)})`}>
          <path
            d="M-13 0L-6.5 -11.3H6.5L13 0L6.5 11.3H-6.5Z"
            fill="var(--paper)"
            stroke="var(--ink)"
            strokeWidth="1.8"
          />
          <text y="5" textAnchor="middle" fontSize="14" fontWeight="700" fill="var(--ink)">
            {i + 1}
          </text>
        </g>
      ))}
    </svg>
  )
}

/** A nut that tightens against the clock. */
export function LeftHand() {
  return (
    <svg width="92" height="92" viewBox="0 0 92 92" aria-hidden="true" className="shrink-0">
      <path
        d="M26 46L36 28.7H56L66 46L56 63.3H36Z"
        fill="var(--card)"
        stroke="var(--ink)"
        strokeWidth="2.5"
      />
      <circle cx="46" cy="46" r="9" fill="var(--paper)" stroke="var(--ink)" strokeWidth="2" />
      <path d="M76 30A34 34 0 1 0 80 46" fill="none" stroke="var(--oxide)" strokeWidth="5" />
      <path d="M88 44L79 58L70 44Z" fill="var(--oxide)" transform="rotate(180 79 50)" />
    </svg>
  )
}
