// A field of a sum.
import { Labelled } from '../ui/Parts'

interface Props {
  label: string
  value: string
  onChange: (value: string) => void
  hint?: string
  fault?: string | undefined
  numeric?: boolean
}

export function Field({ label, value, onChange, hint, fault, numeric }: Props) {
  return (
    <Labelled label={label} hint={hint} error={fault}>
      {(id) => (
        <input
          id={id}
          className="field figure"
          value={value}
          inputMode={numeric ? 'numeric' : undefined}
          autoComplete="off"
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Labelled>
  )
}

export function Choice({
  label,
  value,
  onChange,
  options,
}: {
  label: string
  value: string
  onChange: (value: string) => void
  options: readonly (readonly [string, string])[]
}) {
  return (
    <Labelled label={label}>
      {(id) => (
        <select id={id} className="field" value={value} onChange={(e) => onChange(e.target.value)}>
          {options.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  )
}
