// A known shim in, and the float felt. The shim comes first: the same float says another thing without it.
import { useState } from 'react'
import type { CheckView, Unit } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { showStated, unitName } from '../../../domain/units'
import { Field, Form, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

/** The shim that was in last, or else the sheet's, as it would be typed; nothing where neither says. */
function shimIn(check: CheckView, unit: Unit) {
  const last = check.readings.filter((r) => r.taken.kind === 'known_shim' && !r.struck).at(-1)?.taken
  const nm = last?.kind === 'known_shim' ? last.shim_nm : check.known_shim_nm
  if (nm === 0) return 'none'
  return typeof nm === 'number' ? `${showStated(nm, unit)} ${unitName[unit]}` : ''
}

export function ShimForm({ check, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const again = back(refused, 'known_shim')
  const [known] = useState(() => again?.shim ?? shimIn(check, unit))
  const [shim, setShim] = useState(known)
  const [float, setFloat] = useState(again?.float ?? '')
  const enter = () => {
    if (!onTake({ kind: 'known_shim', shim, float })) return
    setFloat('')
    document.getElementById('reading')?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint="The shim goes in on the side that opens the gap. Two set-ups with different shims should agree."
    >
      <div className="flex gap-2">
        <Field
          id="shim"
          label="Shim in"
          field="shim"
          value={shim}
          onChange={setShim}
          placeholder={unitWord}
          input={known ? undefined : first}
        />
        <Field
          id="reading"
          label="Float felt"
          field="float"
          value={float}
          onChange={setFloat}
          placeholder={unitWord}
          input={known ? first : undefined}
        />
        <KeepPress />
      </div>
      {!shim.trim() && (
        <button type="button" className="link min-h-11" onClick={() => setShim('none')}>
          none is in
        </button>
      )}
    </Form>
  )
}
