// Depths from a bar across the joint face, round a circle.
import { useContext, useState } from 'react'
import type { Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { showStated, unitName } from '../../../domain/units'
import { Entering, Field, Form, KeepPress, Which, back } from './parts'
import type { TakeProps } from './parts'

const CIRCLES = [3, 4, 5, 6, 8, 12]

export function DepthForm({ check, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const { clearFault } = useContext(Entering)
  const again = back(refused, 'depth')
  const depths = check.readings.filter((r) => !r.struck && r.taken.kind === 'depth')
  const taken = depths.filter((r) => r.round === check.round)
  const last = depths.at(-1)?.taken
  const [of, setOf] = useState(again?.of ?? (last?.kind === 'depth' ? last.of : 6))
  const [place, setPlace] = useState(() => again?.place ?? nextPlace(taken, of))
  // The bar stays what it was, after fitting too: left out once, every depth would be long by it.
  const [bar, setBar] = useState(() =>
    again
      ? (again.bar ?? '')
      : last?.kind === 'depth' && last.bar_nm > 0
        ? `${showStated(last.bar_nm, unit)} ${unitName[unit]}`
        : '',
  )
  const [depth, setDepth] = useState(again?.depth ?? '')
  const [barOn, setBarOn] = useState(
    again?.bar_on ?? (last?.kind === 'depth' ? last.bar_on : undefined) ?? 'face',
  )
  const seat = check.kind === 'seat_height'
  const enter = () => {
    if (!onTake({ kind: 'depth', place, of, depth, bar, ...(seat && { bar_on: barOn }) })) return
    setDepth('')
    setPlace((place % of) + 1)
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={
        seat
          ? `Read from the bar’s upper face down to the ${barOn === 'face' ? 'part' : 'face'}, and give the bar’s thickness once.`
          : 'Lay the bar across the joint face; read from its upper face, and give its thickness once.'
      }
    >
      {seat && (
        <div className="mb-3">
          <span className="mb-1 block font-semibold" id="bar-on">
            The bar lies on
          </span>
          <div className="flex gap-2" role="group" aria-labelledby="bar-on">
            {(['face', 'part'] as const).map((on) => (
              <button
                key={on}
                type="button"
                aria-pressed={on === barOn}
                className={`min-h-12 flex-1 border-[1.5px] border-ink px-2 font-semibold ${on === barOn ? 'bg-ink text-paper' : ''}`}
                onClick={() => {
                  setBarOn(on)
                  clearFault()
                  first.current?.focus()
                }}
              >
                {on === 'face' ? 'the face: the part lies below' : 'the part: it stands proud'}
              </button>
            ))}
          </div>
        </div>
      )}
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
