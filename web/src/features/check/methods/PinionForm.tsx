// Planet pinions one by one: which one, and its end play; the next without a reading comes by itself.
import { useState } from 'react'
import { Field, Form, HOW_TO_WRITE, KeepPress, LeafPicks, Which, back, nextOf, type TakeProps } from './parts'

export function PinionForm({ check, gauge, unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'pinion')
  const count = check.pinions?.count ?? 1
  const taken = check.readings.flatMap((r) =>
    r.round === check.round && !r.struck && r.taken.kind === 'pinion' ? [r.taken.pinion] : [],
  )
  const all = Array.from({ length: count }, (_, i) => i + 1)
  const [pinion, setPinion] = useState(() => again?.pinion ?? all.find((p) => !taken.includes(p)) ?? 1)
  const [play, setPlay] = useState(again?.play ?? '')
  const enter = () => {
    if (!onTake({ kind: 'pinion', pinion, play })) return
    setPlay('')
    setPinion(nextOf(pinion, count, (p) => taken.includes(p)))
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={
        gauge && gauge.leaves_nm.length > 0
          ? 'The leaf that takes up all the play and no more.'
          : `Push the pinion home, zero, pull it out. ${HOW_TO_WRITE}`
      }
    >
      <Which
        label="Which pinion"
        count={count}
        now={pinion}
        taken={taken}
        onPick={(p) => {
          setPinion(p)
          first.current?.focus()
        }}
      />
      <div className="flex gap-2">
        <Field
          id="reading"
          label={`End play of pinion ${pinion}`}
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
    </Form>
  )
}
