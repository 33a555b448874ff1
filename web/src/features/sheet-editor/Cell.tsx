// One field of a sheet being written, bound to its place; what is wrong with it stands under it.
import { useState } from 'react'
import { released } from '../../ui/released'
import { withUnit } from './draft'
import { useWriting } from './writing'

export interface Column {
  field: string
  label: string
  as: 'text' | 'length' | 'count' | 'number' | 'tick' | 'choice'
  /** Left out of the sheet where it is empty. */
  optional?: boolean
  options?: readonly (readonly [string, string])[]
  /** What is chosen is a figure in the sheet. */
  numeric?: boolean
  /** Its share of a row, as a CSS grid track. */
  track?: string
  placeholder?: string
  hint?: string
  /** The thing takes its key from this name. */
  names?: boolean
}

export const length = (field: string, label: string, optional = false): Column => ({
  field,
  label,
  as: 'length',
  optional,
})

export const words = (field: string, label: string, track?: string): Column => ({
  field,
  label,
  as: 'text',
  track,
})

interface Props {
  column: Column
  /** The place of the thing whose field it is. */
  of: string
  value: unknown
  fault?: string
  /** Its label stands above it at every width. */
  labelled?: boolean
  /** What its thing is called, for whoever hears the page. */
  thing?: string
}

export function Cell({ column, of, value, fault, labelled, thing }: Props) {
  const { put, nameIt, rest, unit, showAll } = useWriting()
  const [left, setLeft] = useState(false)
  // A bare figure gets its unit in the sheet at once, on the screen when the field is left.
  const [typed, setTyped] = useState<string | null>(null)
  const { field, label, as, optional } = column
  const pointer = `${of}/${field}`
  const text = typed ?? (typeof value === 'string' || typeof value === 'number' ? String(value) : '')
  const shown = fault && (showAll || left || text !== '') ? fault : undefined
  const give = (text: string) => {
    const number = Number(text.replace(',', '.'))
    if (optional && text.trim() === '') put(pointer, undefined)
    else if (as === 'length') put(pointer, withUnit(text, unit))
    else if (as === 'count' || as === 'number')
      put(pointer, text.trim() !== '' && Number.isFinite(number) ? number : text)
    else put(pointer, text)
  }
  const common = {
    id: pointer,
    // Enter goes past it.
    'data-optional': optional || as === 'tick' ? '' : undefined,
    'aria-label': thing ? `${label}, ${thing}` : label,
    'aria-invalid': shown ? true : undefined,
    'aria-describedby': shown ? `${pointer}-fault` : undefined,
  }
  const input =
    as === 'choice' ? (
      <select
        {...common}
        className="field px-1"
        value={text}
        onChange={(e) => {
          const chosen = e.target.value
          put(pointer, optional && chosen === '' ? undefined : column.numeric ? Number(chosen) : chosen)
        }}
      >
        {(optional || !column.options?.some(([key]) => key === text)) && (
          <option value={optional ? '' : text}>{optional ? '' : text || 'choose'}</option>
        )}
        {optional && text !== '' && !column.options?.some(([key]) => key === text) && (
          <option value={text}>{text} (not there)</option>
        )}
        {column.options?.map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    ) : as === 'tick' ? (
      <input
        {...common}
        type="checkbox"
        className="size-11"
        checked={value === true}
        onChange={(e) => put(pointer, e.target.checked || undefined)}
      />
    ) : (
      <input
        {...common}
        className={`field ${as === 'text' ? '' : 'figure'} px-2 ${shown ? 'border-oxide' : ''}`}
        value={text}
        placeholder={column.placeholder}
        inputMode={as === 'count' ? 'numeric' : undefined}
        autoComplete="off"
        maxLength={1000}
        onChange={(e) => {
          if (as !== 'text') setTyped(e.target.value)
          give(e.target.value)
        }}
        onBlur={() => {
          setTyped(null)
          void released().then(() => setLeft(true))
          if (column.names) nameIt(of)
          else rest()
        }}
      />
    )
  return (
    <div className={as === 'tick' ? 'flex min-h-12 flex-wrap items-center gap-2' : 'min-w-0'}>
      <span aria-hidden="true" className={`block text-sm font-semibold ${labelled ? '' : 'lg:hidden'}`}>
        {label}
      </span>
      {input}
      {column.hint && labelled && <p className="mt-1 text-sm text-dim">{column.hint}</p>}
      {shown && (
        <p id={`${pointer}-fault`} className="mt-1 text-sm font-semibold text-oxide">
          {shown}
        </p>
      )}
    </div>
  )
}
