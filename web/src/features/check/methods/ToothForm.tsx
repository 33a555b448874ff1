// Backlash at one tooth after another round the ring gear; and, where the slope is wanted, the same again with the ring
// gear moved.
import { useState } from 'react'
import { Field, Form, HOW_TO_WRITE, KeepPress, LeafPicks, Which, back, nextOf, type TakeProps } from './parts'

export function ToothForm({ check, gauge, unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'tooth')
  const count = check.mesh?.places ?? 4
  const standing = check.readings.flatMap((r) =>
    r.round === check.round && !r.struck && r.taken.kind === 'tooth' ? [r.taken] : [],
  )
  // The second set-up is the one last taken.
  const last = standing.at(-1)
  const second = standing.filter((t) => t.moved_nm !== 0)
  const [moved, setMoved] = useState(again?.moved ?? '')
  const [moving, setMoving] = useState(moved !== '')
  const taken = (
    moving ? second.filter((t) => t.moved_nm === last?.moved_nm) : standing.filter((t) => t.moved_nm === 0)
  ).map((t) => t.place)
  const all = Array.from({ length: count }, (_, i) => i + 1)
  const [place, setPlace] = useState(() => again?.place ?? all.find((p) => !taken.includes(p)) ?? 1)
  const [play, setPlay] = useState(again?.play ?? '')
  const enter = () => {
    if (!onTake({ kind: 'tooth', place, play, moved: moving ? moved : '' })) return
    setPlay('')
    setPlace(nextOf(place, count, (p) => taken.includes(p)))
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={`Pinion held, ring gear rocked, gauge square to the tooth at its outer end. ${HOW_TO_WRITE}`}
    >
      <Which
        label="Which place round the gear"
        count={count}
        now={place}
        taken={taken}
        onPick={(p) => {
          setPlace(p)
          first.current?.focus()
        }}
      />
      <div className="flex gap-2">
        <Field
          id="reading"
          label={`Backlash at place ${place}`}
          field="play"
          value={play}
          onChange={setPlay}
          placeholder={unitWord}
          input={first}
          wide
        />
        <KeepPress />
      </div>
      <LeafPicks gauge={gauge} onPick={setPlay} />
      {moving ? (
        <div className="mt-3 flex items-end gap-2">
          <Field
            id="moved"
            label="Ring gear moved away from the pinion by"
            field="moved"
            value={moved}
            onChange={setMoved}
            placeholder={`${unitWord}; nearer with a minus`}
          />
          <button
            type="button"
            className="press-quiet shrink-0"
            onClick={() => {
              setMoving(false)
              setMoved('')
              first.current?.focus()
            }}
          >
            As it is set
          </button>
        </div>
      ) : (
        <button type="button" className="link mt-2 min-h-11" onClick={() => setMoving(true)}>
          Find how much it grows: a second set-up
        </button>
      )}
    </Form>
  )
}
