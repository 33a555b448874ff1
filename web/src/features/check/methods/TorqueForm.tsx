// A turning torque, by wrench or by scale and radius.
import { useState } from 'react'
import type { ReadingInput } from '../../../domain/readings'
import { Field, Form, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

export function TorqueForm({ gauge, onTake, first, refused }: TakeProps) {
  const scale = gauge?.kind === 'spring_scale'
  const pulled = back(refused, 'pull')
  const [figure, setFigure] = useState(back(refused, 'torque')?.torque ?? pulled?.force ?? '')
  const [radius, setRadius] = useState(pulled?.radius ?? '')
  const enter = () => {
    const entry: ReadingInput = scale
      ? { kind: 'pull', force: figure, radius }
      : { kind: 'torque', torque: figure }
    if (!onTake(entry)) return
    setFigure('')
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={
        scale
          ? 'Pull steadily on the string while it turns: N, kgf or lbf.'
          : 'Read it while it turns, not as it breaks loose: N·m, N·cm, lbf·ft, lbf·in or kgf·cm.'
      }
    >
      <div className="flex gap-2">
        <Field
          id="reading"
          label={scale ? 'Pull' : 'Turning torque'}
          field={scale ? 'force' : 'torque'}
          value={figure}
          onChange={setFigure}
          placeholder={scale ? 'N' : 'N·m'}
          input={first}
          wide
        />
        {scale && (
          <Field
            id="radius"
            label="At a radius of"
            field="radius"
            value={radius}
            onChange={setRadius}
            placeholder="75 mm"
          />
        )}
        <KeepPress />
      </div>
    </Form>
  )
}
