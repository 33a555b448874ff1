// What a finger touches in a drawing is named under it: a mouse has the tooltip, a screen reader the label.
import { useState, type PointerEvent, type ReactNode } from 'react'

export function Named({ children }: { children: ReactNode }) {
  const [name, setName] = useState('')
  const onPointerUp = (e: PointerEvent) => {
    if (e.pointerType === 'mouse' || !(e.target instanceof Element)) return
    const shape = e.target.closest(':has(> title)')
    setName(shape?.querySelector(':scope > title')?.textContent ?? '')
  }
  return (
    <div onPointerUp={onPointerUp}>
      {children}
      {name && (
        <p
          aria-hidden="true"
          data-testid="named"
          className="no-print border-l-4 border-blue bg-card px-3 py-1"
        >
          {name}
        </p>
      )}
    </div>
  )
}
