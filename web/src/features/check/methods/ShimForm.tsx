// A known shim in, and the float felt.
import { useState } from 'react'
import { Field, Form, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

export function ShimForm({ unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'known_shim')
  const [shim, setShim] = useState(again?.shim ?? '')
  const [float, setFloat] = useState(again?.float ?? '')
  const enter = () => {
    if (!onTake({ kind: 'known_shim', shim, float })) return
    setFloat('')
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint="The shim goes in on the side that opens the gap. Two set-ups with different shims should agree."
    >
      <div className="flex gap-2">
        <Field id="shim" label="Shim in" field="shim" value={shim} onChange={setShim} placeholder="none" />
        <Field
          id="reading"
          label="Float felt"
          field="float"
          value={float}
          onChange={setFloat}
          placeholder={unitWord}
          input={first}
        />
        <KeepPress />
      </div>
    </Form>
  )
}
