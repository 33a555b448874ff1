// Terms of a stack sum, measured.
import { useState } from 'react'
import { Field, Form, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

export function TermForm({ check, unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'term')
  const [term, setTerm] = useState(again?.term ?? 1)
  const [length, setLength] = useState(again?.length ?? '')
  if (check.terms.length === 0)
    return (
      <p className="mt-4 text-dim">
        The sheet has no terms for this sum. Enter them on the sheet, or take it another way.
      </p>
    )
  const enter = () => {
    if (!onTake({ kind: 'term', term, length })) return
    setLength('')
    setTerm((term % check.terms.length) + 1)
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={
        check.kind === 'fit'
          ? 'Measured, it counts in place of the sheet’s limits. Twice across is better than once.'
          : 'A term that is measured counts in place of the sheet’s figure.'
      }
    >
      <label htmlFor="term" className="mb-1 block font-semibold">
        {check.kind === 'fit' ? 'Which diameter' : 'Part or depth measured'}
      </label>
      <select id="term" className="field mb-3" value={term} onChange={(e) => setTerm(Number(e.target.value))}>
        {check.terms.map((t, i) => (
          <option key={i} value={i + 1}>
            {i + 1}. {t.what}
          </option>
        ))}
      </select>
      <div className="flex gap-2">
        <Field
          id="reading"
          label="Measures"
          field="length"
          value={length}
          onChange={setLength}
          placeholder={unitWord}
          input={first}
          wide
        />
        <KeepPress />
      </div>
    </Form>
  )
}
