// A row of things of which one is open: chosen, added, moved, taken out.
import { focusOnceDrawn } from '../../ui/focus'

interface Props {
  label: string
  names: string[]
  /** The place of the list, and the field of a new one that comes first. */
  of: string
  first?: string
  noun: string
  shown: number
  show: (index: number) => void
  faulty: (index: number) => boolean
  add: () => void
  /** Gives the things a new order, by their numbers now; one that is not named is taken out. */
  move: (order: number[]) => void
}

export function Chips({ label, names, of, first = 'name', noun, shown, show, faulty, add, move }: Props) {
  const all = names.map((_, i) => i)
  const swap = (a: number, b: number) => {
    const order = [...all]
    order[a] = b
    order[b] = a
    move(order)
    show(b)
  }
  const small = 'press-quiet min-w-11 px-3 disabled:opacity-30'
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-2">
      {names.map((name, i) => (
        <button
          key={i}
          type="button"
          aria-pressed={i === shown}
          className={`min-h-12 border-[1.5px] border-ink px-3 font-semibold ${i === shown ? 'bg-ink text-paper' : ''}`}
          onClick={() => show(i)}
        >
          {name || `(${noun} without a name)`}
          {faulty(i) && <span title="something to see to"> ●</span>}
          {faulty(i) && <span className="sr-only"> something to see to</span>}
        </button>
      ))}
      <button
        type="button"
        className="press-quiet"
        onClick={() => {
          add()
          // Its name is what comes next.
          focusOnceDrawn(`${of}/${names.length}/${first}`)
        }}
      >
        Add a {noun}
      </button>
      {names.length > 0 && (
        <span className="ml-auto flex gap-2">
          <button
            type="button"
            className={small}
            disabled={shown === 0}
            aria-label={`Move this ${noun} earlier`}
            onClick={() => swap(shown, shown - 1)}
          >
            ←
          </button>
          <button
            type="button"
            className={small}
            disabled={shown >= names.length - 1}
            aria-label={`Move this ${noun} later`}
            onClick={() => swap(shown, shown + 1)}
          >
            →
          </button>
          <button
            type="button"
            className={small}
            onClick={() => {
              move(all.filter((i) => i !== shown))
              show(Math.max(0, Math.min(shown, names.length - 2)))
            }}
          >
            Take this {noun} out
          </button>
        </span>
      )}
    </div>
  )
}
