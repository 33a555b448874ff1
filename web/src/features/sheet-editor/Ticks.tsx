// Some of many, by their keys.
import { useWriting } from './writing'

interface Props {
  title: string
  all: readonly (readonly [string, string])[]
  chosen: string[]
  of: string
  faults: Map<string, string>
  none?: string
}

export function Ticks({ title, all, chosen, of, faults, none }: Props) {
  const { put } = useWriting()
  return (
    <fieldset className="min-w-0">
      <legend className="font-semibold">{title}</legend>
      <div className="flex flex-wrap gap-x-6">
        {all.map(([key, name]) => (
          <label key={key} className="flex min-h-12 items-center gap-2">
            <input
              type="checkbox"
              className="size-6 shrink-0"
              checked={chosen.includes(key)}
              onChange={(e) => {
                const next = chosen.filter((k) => k !== key)
                if (e.target.checked) next.push(key)
                put(of, next.length > 0 ? next : undefined)
              }}
            />
            {name || '(no name yet)'}
          </label>
        ))}
        {all.length === 0 && <p className="text-dim">{none ?? 'There is none yet.'}</p>}
      </div>
      {[...faults]
        .filter(([place]) => place.startsWith(`${of}/`))
        .map(([place, message]) => (
          <p key={place} className="mt-1 font-semibold text-oxide">
            {message}
          </p>
        ))}
    </fieldset>
  )
}
