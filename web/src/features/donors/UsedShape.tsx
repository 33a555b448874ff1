// What a used part is good for, as a shape: it is never told by colour alone.
import type { Schemas } from '../../domain/schema'

export function UsedShape({ state }: { state: Schemas['UsedState'] }) {
  const ink = { fill: 'none', stroke: 'var(--ink)', strokeWidth: 2.5 }
  const cross = <path d="M5 5L15 15M15 5L5 15" fill="none" stroke="var(--oxide)" strokeWidth="2.5" />
  const none = <path d="M5 10H15" fill="none" stroke="var(--dim)" strokeWidth="2" />
  const shape = {
    sound: <path d="M4 10L8 15L16 5" {...ink} />,
    worn: <path d="M4 10L8 15L16 5M3 18H17" {...ink} />,
    not_looked_at: <circle cx="10" cy="10" r="5.5" fill="none" stroke="var(--dim)" strokeDasharray="3 3" />,
    no_good: cross,
    missing: cross,
    given: none,
    another: none,
    gone: none,
  }
  return (
    <svg width="20" height="20" aria-hidden="true" className="shrink-0">
      {shape[state]}
    </svg>
  )
}
