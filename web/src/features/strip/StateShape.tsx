// What becomes of a part, as a shape: it is never told by colour alone.
import type { Schemas } from '../../domain/schema'

export function StateShape({
  state,
  given = false,
}: {
  state: Schemas['PartState'] | null
  /** The box gives its parts: no new one goes into it. */
  given?: boolean
}) {
  const ink = { fill: 'none', stroke: 'var(--ink)', strokeWidth: 2.5 }
  const shape = {
    reused: <path d="M5 12L10 18L19 6" {...ink} />,
    renewed: (
      <rect x="5" y="5" width="14" height="14" fill="var(--brass)" stroke="var(--ink)" strokeWidth="2" />
    ),
    reworked: <path d="M6 18L18 6M6 12L12 6M12 18L18 12" {...ink} />,
    swapped: <path d="M4 9H17L13 5M20 15H7L11 19" {...ink} />,
    from_another: <path d="M4 8V20H20V8M12 3V15M8 11L12 15L16 11" {...ink} />,
    no_good: (
      <path d="M7 17L17 7M12 3A9 9 0 1 1 11.9 3" fill="none" stroke="var(--oxide)" strokeWidth="2.5" />
    ),
    missing: <path d="M6 6L18 18M18 6L6 18" fill="none" stroke="var(--oxide)" strokeWidth="3" />,
  }
  return (
    <svg width="24" height="24" aria-hidden="true">
      {state ? (
        shape[given && state === 'renewed' ? 'no_good' : state]
      ) : (
        <circle cx="12" cy="12" r="6.5" fill="none" stroke="var(--dim)" strokeDasharray="3 3" />
      )}
    </svg>
  )
}
