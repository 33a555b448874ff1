// The small mark of a check's state: a slot, and where the pin is. Always beside a word.
import type { MarkState } from '../domain/labels'

/** The mark as shapes, on a ground 26 wide and 24 high. */
export function MarkShape({ state, open }: { state: MarkState; open?: boolean }) {
  const fill = open ? 'none' : 'currentColor'
  const pin = { fill, stroke: 'currentColor', strokeWidth: 1.5 }
  return (
    <g>
      <path d="M1 13h7v8h10v-8h7" fill="none" stroke="currentColor" strokeWidth="2.6" />
      {state === 'in' && <path d="M11 4h4v14l-2 2-2-2z" {...pin} />}
      {state === 'tight' && <path d="M1.6 1h4v8l-2 2-2-2z" {...pin} />}
      {state === 'loose' && <path d="M20.4 1h4v8l-2 2-2-2z" {...pin} />}
      {state === 'failed' && (
        <path d="M9 1l8 8M17 1l-8 8" fill="none" stroke="currentColor" strokeWidth="3" />
      )}
      {state === 'too_close' && (
        <path d="M11 3h4v14l-2 2-2-2z" transform="rotate(24 13 18) translate(1 -2)" {...pin} />
      )}
    </g>
  )
}

export function StateMark({ state, open, size = 28 }: { state: MarkState; open?: boolean; size?: number }) {
  return (
    <svg viewBox="0 0 26 24" width={size} height={(size * 24) / 26} aria-hidden="true" className="shrink-0">
      <MarkShape state={state} open={open} />
    </svg>
  )
}
