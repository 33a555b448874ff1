// Planet pinions one by one: which one, and its end play; the next without a reading comes by itself.
import { useState } from 'react'
import { useBench } from '../../ui/bench-state'
import { showStated, unitName } from '../../ui/units'
import { Field, Form, HOW_TO_WRITE, KeepPress, back, nextOf, type TakeProps } from './parts'

export function PinionForm({ gap, gauge, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const again = back(refused, 'pinion')
  const count = gap.pinions?.count ?? 1
  const taken = gap.readings.flatMap((r) =>
    r.round === gap.round && !r.struck && r.taken.kind === 'pinion' ? [r.taken.pinion] : [],
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
  const leaves = gauge?.leaves_nm ?? []
  return (
    <Form
      onEnter={enter}
      hint={
        leaves.length > 0
          ? 'The leaf that takes up all the play and no more.'
          : `Push the pinion home, zero, pull it out. ${HOW_TO_WRITE}`
      }
    >
      <div className="mb-2 flex flex-wrap gap-1" role="group" aria-label="Which pinion">
        {all.map((p) => (
          <button
            key={p}
            type="button"
            aria-pressed={p === pinion}
            className={`min-h-11 min-w-11 border-[1.5px] border-ink font-semibold ${p === pinion ? 'bg-ink text-paper' : ''}`}
            onClick={() => {
              setPinion(p)
              first.current?.focus()
            }}
          >
            {p}
            {taken.includes(p) && <span className="sr-only"> (has a reading)</span>}
          </button>
        ))}
      </div>
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
      {leaves.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-1" role="group" aria-label="Leaves of the set">
          {leaves.map((l) => (
            <button
              key={l}
              type="button"
              className="figure min-h-11 min-w-13 border border-steel-line px-1 text-sm"
              // Written with its unit, so that switching it changes nothing.
              onClick={() => setPlay(`${showStated(l, unit)} ${unitName[unit]}`)}
            >
              {showStated(l, unit)}
            </button>
          ))}
        </div>
      )}
    </Form>
  )
}
