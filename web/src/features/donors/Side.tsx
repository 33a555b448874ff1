// The parts of several boxes side by side; each can be settled by a press.
import { useState } from 'react'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import type { Pins } from './acts'
import { UsedShape } from './UsedShape'
import { isUsable, stateWords, usedWords } from './words'

type View = Schemas['DonorsView']
type Row = Schemas['DonorRow']

interface Props {
  of: View
  view: Schemas['BestView']
  pins: Pins
  /** Boxes that give nothing. */
  without: number[]
  onPins: (pins: Pins) => void
  open: boolean
}

export function Side({ of, view, pins, without, onPins, open }: Props) {
  const [all, setAll] = useState(false)
  const own = of.boxes[0]?.job_no ?? 0
  const pickOf = (row: Row) => view.picks.find((p) => p.part === row.part)?.from ?? null
  const rows = of.rows.filter((r) => !r.always_new)
  // Where this box has it, sound, and keeps it, there is nothing to decide.
  const matters = rows.filter((r) => {
    const [mine] = r.cells
    const settled = (mine?.state === 'sound' || mine?.state === 'not_looked_at') && pickOf(r) === own
    return !settled || r.part in pins
  })
  const shown = all ? rows : matters
  const pin = (row: Row, from: number | null) => {
    const next = { ...pins }
    const was = row.part in pins && pins[row.part] === from
    for (const part of [row.part, ...row.stays_with]) {
      delete next[part]
    }
    if (!was) next[row.part] = from
    onPins(next)
  }
  return (
    <section aria-label="Side by side" className="mt-5">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <h2 className="text-lg">Side by side</h2>
        <label className="flex min-h-11 items-center gap-2">
          <input type="checkbox" className="size-6" checked={all} onChange={() => setAll(!all)} />
          all {rows.length} parts
        </label>
      </div>
      <p className="text-dim">
        {open
          ? 'Framed is what the best box has. Press another to settle on it; press it again to leave it open.'
          : 'Framed is what the best box has.'}
      </p>
      {shown.length === 0 && (
        <p className="py-3">Nothing is to be decided: what was looked at in this box is sound.</p>
      )}
      <ul className="ruled mt-2">
        {shown.map((row) => (
          <li key={row.part} className="grid gap-x-4 gap-y-2 py-3 lg:grid-cols-[15rem_1fr]">
            <div>
              <p className="font-bold">
                {row.count > 1 && `${row.count} × `}
                {row.name}
              </p>
              {row.stays_with.length > 0 && (
                <p className="text-sm text-dim">
                  stays with{' '}
                  {row.stays_with.map((k) => of.rows.find((r) => r.part === k)?.name ?? k).join(', ')}
                </p>
              )}
              {row.taken_from != null && <p className="text-sm">taken from job {row.taken_from}</p>}
            </div>
            <div className="flex flex-wrap gap-2" role="group" aria-label={row.name}>
              {row.cells.map((cell, i) => {
                const box = of.boxes[i]
                if (!box) return null
                return (
                  <Cell
                    key={box.job_no}
                    name={i === 0 ? 'This box' : `Job ${box.job_no}`}
                    part={cell}
                    picked={pickOf(row) === box.job_no}
                    pinned={row.part in pins && pins[row.part] === box.job_no}
                    off={
                      !open ||
                      without.includes(box.job_no) ||
                      !(isUsable(cell) || (i === 0 && cell.state === 'not_looked_at'))
                    }
                    onPin={() => pin(row, box.job_no)}
                  />
                )
              })}
              <Cell
                name="New"
                picked={pickOf(row) === null}
                pinned={row.part in pins && pins[row.part] === null}
                off={!open}
                onPin={() => pin(row, null)}
              />
            </div>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** One part of one box, or a new one. */
function Cell({
  name,
  part,
  picked,
  pinned,
  off,
  onPin,
}: {
  name: string
  part?: Schemas['UsedPart']
  picked: boolean
  pinned: boolean
  off: boolean
  onPin: () => void
}) {
  const { unit } = useBench()
  return (
    <button
      className={`min-h-14 w-44 px-2 py-1 text-left max-sm:w-[calc(50%-0.25rem)] ${picked ? 'border-[3px] border-ink font-bold' : 'border-[1.5px] border-line'} ${off && !picked ? 'text-dim' : ''}`}
      aria-pressed={pinned}
      aria-disabled={off}
      onClick={() => !off && onPin()}
    >
      <span className="flex items-center gap-1.5">
        {part && <UsedShape state={part.state} />}
        <span>
          {name}
          {part && `: ${stateWords(part)}`}
        </span>
      </span>
      <span className="block text-sm font-normal">
        {part && usedWords(part, unit).join(', ')}
        {picked && <span className="sr-only"> the best box has it</span>}
        {pinned && <strong className="block">settled by you</strong>}
      </span>
    </button>
  )
}
