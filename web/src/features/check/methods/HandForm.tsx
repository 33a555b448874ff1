// By feel: kept, and signs nothing off.
import { useState } from 'react'
import { Field, Form, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

export function HandForm({ unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'by_hand')
  const [from, setFrom] = useState(again?.from ?? '')
  const [to, setTo] = useState(again?.to ?? '')
  return (
    <Form
      onEnter={() => {
        if (!onTake({ kind: 'by_hand', from, to })) return
        setFrom('')
        setTo('')
        first.current?.focus()
      }}
      hint="Kept as an estimate by hand. It signs nothing off."
    >
      <div className="flex gap-2">
        <Field
          id="reading"
          label="By feel, from"
          field="from"
          value={from}
          onChange={setFrom}
          placeholder={unitWord}
          input={first}
        />
        <Field id="to" label="to" field="to" value={to} onChange={setTo} placeholder="or about" />
        <KeepPress />
      </div>
    </Form>
  )
}
