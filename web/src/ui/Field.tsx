// A field for one figure or a line of text, and one for a choice.
import { Labelled } from './Parts'

interface Props {
  label: string
  value: string
  onChange: (value: string) => void
  hint?: string
  fault?: string | undefined
  numeric?: boolean
  /** Words, not a figure. */
  words?: boolean
  placeholder?: string
}

export function Field({ label, value, onChange, hint, fault, numeric, words, placeholder }: Props) {
  return (
    <Labelled label={label} hint={hint} error={fault}>
      {(id) => (
        <input
          id={id}
          className={words ? 'field' : 'field figure'}
          value={value}
          placeholder={placeholder}
          maxLength={500}
          inputMode={numeric ? 'numeric' : undefined}
          autoComplete="off"
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Labelled>
  )
}

/** A field for a list, one a line. */
export function Area({
  label,
  value,
  onChange,
  hint,
  fault,
  rows = 5,
}: Pick<Props, 'label' | 'value' | 'onChange' | 'hint' | 'fault'> & { rows?: number }) {
  return (
    <Labelled label={label} hint={hint} error={fault}>
      {(id) => (
        <textarea
          id={id}
          className="field figure h-auto py-2"
          rows={rows}
          value={value}
          spellCheck={false}
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
