// What becomes of a part, as a shape: it is never told by colour alone.
import type { Schemas } from '../../domain/schema'

export function StateShape({ state }: { state: Schemas['PartState'] | null }) {
  const ink = { fill: 'none', stroke: 'var(--ink)', strokeWidth: 2.5 }
  const shape = {
    reused: <path d="M5 12L10 18L19 6" {...ink} />,
    renewed: (
      <rect x="5" y="5" width="14" height="14" fill="var(--brass)" stroke="var(--ink)" strokeWidth="2" />
    ),
    reworked: <path d="M6 18L18 6M6 12L12 6M12 18L18 12" {...ink} />,
    swapped: <path d="M4 9H17L13 5M20 15H7L11 19" {...ink} />,
    missing: <path d="M6 6L18 18M18 6L6 18" fill="none" stroke="var(--oxide)" strokeWidth="3" />,
  }
  return (
    <svg width="24" height="24" aria-hidden="true">
      {state ? (
        shape[state]
      ) : (
        <circle cx="12" cy="12" r="6.5" fill="none" stroke="var(--dim)" strokeDasharray="3 3" />
      )}
    </svg>
  )
}
