// Depths from a bar across the joint face, round a circle.
import { useState } from 'react'
import type { Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { showStated, unitName } from '../../../domain/units'
import { Field, Form, KeepPress, Which, back } from './parts'
import type { TakeProps } from './parts'

const CIRCLES = [3, 4, 5, 6, 8, 12]

export function DepthForm({ check, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const again = back(refused, 'depth')
  const taken = check.readings.filter((r) => r.round === check.round && !r.struck && r.taken.kind === 'depth')
  const last = taken.at(-1)?.taken
  const [of, setOf] = useState(again?.of ?? (last?.kind === 'depth' ? last.of : 6))
  const [place, setPlace] = useState(() => again?.place ?? nextPlace(taken, of))
  // The bar stays what it was: left out once, every depth would be long by it.
  const [bar, setBar] = useState(() =>
    again
      ? (again.bar ?? '')
      : last?.kind === 'depth' && last.bar_nm > 0
        ? `${showStated(last.bar_nm, unit)} ${unitName[unit]}`
        : '',
  )
  const [depth, setDepth] = useState(again?.depth ?? '')
  const enter = () => {
    if (!onTake({ kind: 'depth', place, of, depth, bar })) return
    setDepth('')
    setPlace((place % of) + 1)
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint="Lay the bar across the joint face; read from its upper face, and give its thickness once."
    >
      <div className="mb-3 flex gap-2">
        <div className="flex-1">
          <label htmlFor="of" className="mb-1 block font-semibold">
            Places
          </label>
          <select
            id="of"
            className="field"
            value={of}
            onChange={(e) => {
              const next = Number(e.target.value)
              setOf(next)
              setPlace((now) => Math.min(now, next))
            }}
          >
            {CIRCLES.map((n) => (
              <option key={n} value={n}>
                {n} round
              </option>
            ))}
          </select>
        </div>
        <Field id="bar" label="Bar is thick" field="bar" value={bar} onChange={setBar} placeholder="none" />
      </div>
      <Which
        label="Which place"
        count={of}
        now={place}
        onPick={(p) => {
          setPlace(p)
          first.current?.focus()
        }}
      />
      <div className="flex gap-2">
        <Field
          id="reading"
          label={`Depth at place ${place}`}
          field="depth"
          value={depth}
          onChange={setDepth}
          placeholder={unitWord}
          input={first}
          wide
        />
        <KeepPress />
      </div>
    </Form>
  )
}

function nextPlace(taken: Schemas['ReadingView'][], of: number) {
  const read = new Set(taken.map((r) => (r.taken.kind === 'depth' ? r.taken.place : 0)))
  for (let p = 1; p <= of; p++) if (!read.has(p)) return p
  return 1
}
