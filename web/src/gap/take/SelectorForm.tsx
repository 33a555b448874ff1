// Selector gaps, entered on the drawing: the drum turned from gear to gear, each gear between its neighbours
// with a field in the gap at either side.
import { useContext, useState } from 'react'
import type { Gap } from '../../api/client'
import { Entering, KeepPress, back, type TakeProps } from './parts'

/** The gears that have gaps this round. */
const taken = (gap: Gap) =>
  gap.readings.flatMap((r) =>
    r.round === gap.round && !r.struck && r.taken.kind === 'gaps' ? [r.taken.gear] : [],
  )

export function SelectorForm({ gap, unitWord, onTake, first, refused }: TakeProps) {
  const { fault, clearFault } = useContext(Entering)
  const again = back(refused, 'gaps')
  const gears = gap.selector?.gears ?? []
  const done = taken(gap)
  const open = gears.findIndex((_, i) => !done.includes(i + 1))
  const [gear, setGear] = useState(again?.gear ?? (open < 0 ? 1 : open + 1))
  const [left, setLeft] = useState(again?.left ?? '')
  const [right, setRight] = useState(again?.right ?? '')
  const turnTo = (next: number) => {
    setGear(next)
    setLeft('')
    setRight('')
    clearFault()
    requestAnimationFrame(() => first.current?.focus())
  }
  const enter = () => {
    if (left.trim() !== '' && right.trim() === '') {
      document.getElementById('gap-right')?.focus()
      return
    }
    if (!onTake({ kind: 'gaps', gear, left, right })) return
    const next = gears.findIndex((_, i) => i + 1 !== gear && !done.includes(i + 1))
    turnTo(next < 0 ? (gear % gears.length) + 1 : next + 1)
  }
  return (
    <form
      className="mt-4"
      noValidate
      onSubmit={(e) => {
        e.preventDefault()
        enter()
      }}
    >
      <ol className="border-l-[14px] border-double border-steel-line" aria-label="The drum, gear by gear">
        {gears.map((g, i) => {
          const no = i + 1
          const here = no === gear
          return (
            <li key={no} className={here ? 'border-y-2 border-ink bg-card' : ''}>
              <button
                type="button"
                aria-pressed={here}
                className="flex min-h-11 w-full items-center gap-2 px-2 text-left"
                onClick={() => turnTo(no)}
              >
                <span aria-hidden="true" className={`figure ${here ? 'font-bold' : 'text-dim'}`}>
                  {here ? '◂' : '·'} {g.mark || no}
                </span>
                <span className={here ? 'font-bold' : ''}>{g.name}</span>
                <span className="ml-auto text-sm text-dim">
                  {[g.fork, (g.weight ?? 1) > 1 && `weighs ${g.weight ?? 1}`, done.includes(no) && '✓ taken']
                    .filter(Boolean)
                    .join(' · ')}
                </span>
              </button>
              {here && (
                <div className="px-2 pb-3">
                  <p className="mb-1 text-sm text-dim">
                    Detent home{g.mark && `, the drum’s mark “${g.mark}” at the pointer`}; feel the gap at
                    each side of the gear.
                  </p>
                  <div className="grid grid-cols-[1rem_minmax(0,1fr)_4.5rem_minmax(0,1fr)_1rem] items-stretch gap-1">
                    <Wall />
                    <Gauged {...{ label: 'Gap at the left', field: 'left', id: 'reading', unitWord }}>
                      {{ value: left, set: setLeft, input: first }}
                    </Gauged>
                    <Block fork={g.fork} />
                    <Gauged {...{ label: 'Gap at the right', field: 'right', id: 'gap-right', unitWord }}>
                      {{ value: right, set: setRight }}
                    </Gauged>
                    <Wall />
                  </div>
                  {fault && (
                    <p role="alert" id="take-fault" className="mt-2 font-semibold text-oxide">
                      {fault.title}
                    </p>
                  )}
                  <div className="mt-2 flex justify-end">
                    <KeepPress />
                  </div>
                </div>
              )}
            </li>
          )
        })}
      </ol>
    </form>
  )
}

/** The neighbour that the gear must not touch. */
const Wall = () => (
  <span
    aria-hidden="true"
    className="border-2 border-ink bg-[repeating-linear-gradient(45deg,var(--steel)_0_5px,var(--steel-line)_5px_7px)]"
  />
)

/** The sliding gear with the fork in its groove. */
function Block({ fork }: { fork?: string }) {
  return (
    <svg viewBox="0 0 72 84" className="block h-full w-full" aria-hidden="true" preserveAspectRatio="none">
      <path d="M2 30H28V44H44V30H70V82H2Z" fill="var(--brass-soft)" stroke="var(--ink)" strokeWidth="2.5" />
      <path d="M30 2H42V42H30Z" fill={fork ? 'var(--steel)' : 'none'} stroke="var(--ink)" strokeWidth="2" />
    </svg>
  )
}

function Gauged({
  label,
  field,
  id,
  unitWord,
  children: { value, set, input },
}: {
  label: string
  field: string
  id: string
  unitWord: string
  children: { value: string; set: (text: string) => void; input?: React.RefObject<HTMLInputElement | null> }
}) {
  const { fault, clearFault } = useContext(Entering)
  const wrong = fault?.field === field
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {label}
      </label>
      <input
        id={id}
        ref={input}
        className="field figure px-2 text-lg"
        autoComplete="off"
        inputMode="text"
        value={value}
        placeholder={unitWord}
        aria-invalid={wrong}
        aria-describedby={wrong ? 'take-fault' : undefined}
        onChange={(e) => {
          set(e.target.value)
          clearFault()
        }}
      />
    </div>
  )
}
