// A list of plain lines.
import { useWriting } from './writing'

interface Props {
  of: string
  title: string
  noun: string
  lines: string[] | undefined
  faults: Map<string, string>
  placeholder?: string
}

export function Lines({ of, title, noun, lines = [], placeholder }: Props) {
  const { put, rest } = useWriting()
  const set = (next: string[]) => put(of, next.length === 0 ? undefined : next)
  const add = () => {
    set([...lines, ''])
    requestAnimationFrame(() => document.getElementById(`${of}/${lines.length}`)?.focus())
  }
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 font-semibold">{title}</legend>
      {lines.map((line, i) => (
        <div key={i} className="mb-2 flex gap-1">
          <input
            id={`${of}/${i}`}
            className="field px-2"
            aria-label={`${noun} ${i + 1}`}
            value={line}
            maxLength={1000}
            placeholder={placeholder}
            onChange={(e) => put(`${of}/${i}`, e.target.value)}
            onBlur={rest}
            onKeyDown={(e) => {
              if (e.key !== 'Enter') return
              e.preventDefault()
              if (i === lines.length - 1) add()
              else document.getElementById(`${of}/${i + 1}`)?.focus()
            }}
          />
          <button
            type="button"
            className="min-h-12 min-w-11 font-bold"
            aria-label={`Take out ${noun} ${i + 1}`}
            onClick={() => set(lines.filter((_, j) => j !== i))}
          >
            ×
          </button>
        </div>
      ))}
      <button type="button" className="press-quiet" onClick={add}>
        Add a {noun}
      </button>
    </fieldset>
  )
}
