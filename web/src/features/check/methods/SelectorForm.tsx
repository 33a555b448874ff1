// Selector gaps, entered on the drawing: the drum turned from gear to gear, each gear between its neighbours
// with a field in the gap at either side.
import { useContext, useState } from 'react'
import { flushSync } from 'react-dom'
import type { CheckView, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { show } from '../../../domain/units'
import { Entering, FaultLine, Field, KeepPress, back, nextOf, type TakeProps } from './parts'

type Gaps = Extract<Schemas['Reading'], { kind: 'gaps' }>

/** The gaps taken this round, by gear; the last of each. */
const taken = (check: CheckView) =>
  new Map(
    check.readings.flatMap((r): [number, Gaps][] =>
      r.round === check.round && !r.struck && r.taken.kind === 'gaps' ? [[r.taken.gear, r.taken]] : [],
    ),
  )

/** The limits that a gear's gaps have, as the sheet has them. */
const limitsWords = (gear: Schemas['sheet.SelectorGear']) =>
  (['left', 'right'] as const)
    .map((side) => {
      const { low, high } = gear[side] ?? {}
      if (!low && !high) return ''
      return ` At the ${side} ${low && high ? `${low} to ${high}` : low ? `${low} or more` : `up to ${high}`}.`
    })
    .join('')

export function SelectorForm({ check, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const { clearFault } = useContext(Entering)
  const again = back(refused, 'gaps')
  const gears = check.selector?.gears ?? []
  const done = taken(check)
  const open = gears.findIndex((_, i) => !done.has(i + 1))
  const [gear, setGear] = useState(again?.gear ?? (open < 0 ? 1 : open + 1))
  const [left, setLeft] = useState(again?.left ?? '')
  const [right, setRight] = useState(again?.right ?? '')
  const turnTo = (next: number) => {
    // At once: a gauge types its next figure before the next frame.
    flushSync(() => {
      setGear(next)
      setLeft('')
      setRight('')
      clearFault()
    })
    first.current?.focus()
  }
  const enter = () => {
    if (left.trim() !== '' && right.trim() === '') {
      document.getElementById('gap-right')?.focus()
      return
    }
    if (!onTake({ kind: 'gaps', gear, left, right })) return
    turnTo(nextOf(gear, gears.length, (g) => done.has(g)))
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
      <ol className="border-y-2 border-ink" aria-label="The drum, gear by gear">
        {gears.map((g, i) => {
          const no = i + 1
          const here = no === gear
          const own = done.get(no)
          return (
            <li key={no} className={`grid grid-cols-[3.4rem_minmax(0,1fr)] ${here ? 'bg-card' : ''}`}>
              <Drum mark={g.mark || String(no)} here={here} />
              <button
                type="button"
                aria-pressed={here}
                className="flex min-h-12 w-full flex-wrap items-baseline gap-x-2 border-b border-line px-2 py-1 text-left"
                onClick={() => turnTo(no)}
              >
                <span className={here ? 'text-lg font-bold' : 'font-semibold'}>{g.name}</span>
                <span className="text-sm text-dim">
                  {[g.mark, g.fork, (g.weight ?? 1) > 1 && `weighs ${g.weight ?? 1}`]
                    .filter(Boolean)
                    .join(' · ')}
                </span>
                {own && (
                  <span className="figure ml-auto font-semibold">
                    {show(own.left_nm, unit)} | {show(own.right_nm, unit)}
                  </span>
                )}
              </button>
              {here && (
                <div className="col-start-2 border-b border-line px-2 pb-3">
                  <p className="mb-1 text-sm text-dim">
                    Detent home{g.mark && `, the drum’s mark “${g.mark}” at the pointer`}; feel the gap at
                    each side of the gear.{limitsWords(g)}
                  </p>
                  <div className="grid grid-cols-[1rem_minmax(0,1fr)_4.5rem_minmax(0,1fr)_1rem] items-stretch gap-1">
                    <Wall />
                    <Field
                      id="reading"
                      label="Left gap"
                      field="left"
                      value={left}
                      onChange={setLeft}
                      placeholder={unitWord}
                      input={first}
                    />
                    <Block fork={g.fork} />
                    <Field
                      id="gap-right"
                      label="Right gap"
                      field="right"
                      value={right}
                      onChange={setRight}
                      placeholder={unitWord}
                    />
                    <Wall />
                  </div>
                  <FaultLine />
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

/** A turn of the drum: its groove, and the pointer where it stands now. */
function Drum({ mark, here }: { mark: string; here: boolean }) {
  // The groove leads the fork aside where the drum is turned to it.
  const groove = here ? 'M14 0C14 18 34 14 34 50S14 82 14 100' : 'M14 0V100'
  return (
    <div className="relative row-span-2">
      <svg
        viewBox="0 0 54 100"
        className="absolute inset-0 h-full w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={here ? `${mark}, at the pointer` : mark}
      >
        <rect
          x="2"
          y="-4"
          width="40"
          height="108"
          fill="var(--steel)"
          stroke="var(--ink)"
          strokeWidth="2.5"
        />
        <path
          d={groove}
          fill="none"
          stroke="var(--steel-line)"
          strokeWidth="7"
          vectorEffect="non-scaling-stroke"
        />
        {here && <path d="M54 30L43 50L54 70Z" fill="var(--blue)" />}
      </svg>
    </div>
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
