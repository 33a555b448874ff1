// The plates as they lie so far: any of them is taken out or moved, by a press, by keys, or by dragging it.
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { plateName } from '../../../charts/PackStack'
import type { Schemas } from '../../../domain/schema'

type Kind = Schemas['PartKind']

interface Props {
  plates: Kind[]
  /** Those with something wrong. */
  faulty: number[]
  /** The one that is picked; none where plates go in at the end. */
  at: number | null
  onAt: (at: number | null) => void
  onChange: (plates: Kind[]) => void
}

/** The same plates with one of them at another place. */
function moved<T>(plates: T[], from: number, to: number): T[] {
  const plate = plates[from]
  if (plate === undefined) return plates
  return plates.toSpliced(from, 1).toSpliced(to, 0, plate)
}

/** So far a pointer moves before it drags. */
const DRAGS_PX = 8

export function LaidPlates({ plates, faulty, at, onAt, onChange }: Props) {
  const list = useRef<HTMLOListElement>(null)
  const drag = useRef<{ x: number; y: number } | null>(null)
  // A drag ends in a click as well, which picks nothing.
  const dragged = useRef(false)
  const [over, setOver] = useState<number | null>(null)
  const focusOn = (i: number) =>
    requestAnimationFrame(() => list.current?.querySelectorAll('button')[i]?.focus())
  const move = (from: number, to: number) => {
    if (to < 0 || to >= plates.length || to === from) return
    onChange(moved(plates, from, to))
    onAt(to)
    focusOn(to)
  }
  const takeOut = (i: number) => {
    onChange(plates.toSpliced(i, 1))
    onAt(null)
    focusOn(Math.min(i, plates.length - 2))
  }
  const onKey = (e: KeyboardEvent, i: number) => {
    const step = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0
    if (e.key === 'Delete' || e.key === 'Backspace') takeOut(i)
    else if (step !== 0 && e.altKey) move(i, i + step)
    else if (step !== 0) list.current?.querySelectorAll('button')[i + step]?.focus()
    else return
    e.preventDefault()
  }
  /** The plate under a point. */
  const under = (e: PointerEvent) => {
    const li = document.elementFromPoint(e.clientX, e.clientY)?.closest('li[data-plate]')
    return li && list.current?.contains(li) ? Number(li.getAttribute('data-plate')) : null
  }
  const far = (e: PointerEvent) =>
    drag.current && Math.hypot(e.clientX - drag.current.x, e.clientY - drag.current.y) > DRAGS_PX
  if (plates.length === 0) return null
  return (
    <>
      <ol ref={list} aria-label="Laid so far" className="mt-3 flex flex-wrap gap-1">
        {plates.map((kind, i) => (
          <li key={i} data-plate={i} className={over === i ? 'outline-3 outline-blue' : ''}>
            <button
              type="button"
              aria-pressed={at === i}
              className={`min-h-11 touch-none border-[1.5px] px-2 text-sm ${at === i ? 'bg-ink text-paper' : ''} ${faulty.includes(i) ? 'border-oxide font-bold' : 'border-ink'} ${faulty.includes(i) && at !== i ? 'text-oxide' : ''}`}
              onKeyDown={(e) => onKey(e, i)}
              onPointerDown={(e) => {
                drag.current = { x: e.clientX, y: e.clientY }
                dragged.current = false
                e.currentTarget.setPointerCapture(e.pointerId)
              }}
              onPointerMove={(e) => {
                if (far(e)) setOver(under(e))
              }}
              onPointerUp={(e) => {
                dragged.current = far(e) === true
                const to = dragged.current ? under(e) : null
                drag.current = null
                setOver(null)
                if (to !== null) move(i, to)
              }}
              onPointerCancel={() => {
                drag.current = null
                setOver(null)
              }}
              onClick={() => {
                if (!dragged.current) onAt(at === i ? null : i)
                dragged.current = false
              }}
            >
              {i + 1} {plateName(kind)}
              {faulty.includes(i) && <span className="sr-only">, laid wrong</span>}
            </button>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {at !== null && at < plates.length ? (
          <>
            <button type="button" className="press-quiet" onClick={() => takeOut(at)}>
              Take plate {at + 1} out
            </button>
            <button
              type="button"
              className="press-quiet"
              disabled={at === 0}
              onClick={() => move(at, at - 1)}
            >
              To the piston
            </button>
            <button
              type="button"
              className="press-quiet"
              disabled={at === plates.length - 1}
              onClick={() => move(at, at + 1)}
            >
              To the ring
            </button>
          </>
        ) : (
          <>
            <button type="button" className="press-quiet" onClick={() => takeOut(plates.length - 1)}>
              Take the last out
            </button>
            <span className="text-sm text-dim">
              Press a plate to take it out or put one after it; drag it, or Alt with an arrow key, to move it.
            </span>
          </>
        )}
      </div>
    </>
  )
}
