// The shafts, and the parts along each as they lie on its rail.
import { useCallback } from 'react'
import { Cell, type Column } from './Cell'
import { Chips } from './Chips'
import { Mates } from './Mates'
import { Rows } from './Rows'
import { freshKey, type Sheet } from './draft'
import { MATERIALS, PART_KINDS } from './names'
import { useWriting } from './writing'

const NAME: Column = { field: 'name', label: 'What the shaft is called', as: 'text', names: true }
const DIAMETER: Column = {
  field: 'diameter',
  label: 'Diameter of the bare shaft',
  as: 'length',
  optional: true,
}
const PARTS: readonly Column[] = [
  { field: 'name', label: 'Part', as: 'text', names: true, track: 'minmax(9rem,2.2fr)' },
  { field: 'kind', label: 'Kind', as: 'choice', options: PART_KINDS, track: 'minmax(7rem,1.3fr)' },
  { field: 'width', label: 'Width', as: 'length' },
  { field: 'width_tolerance', label: '± limits', as: 'length', optional: true },
  { field: 'diameter', label: 'Diameter', as: 'length', optional: true },
  { field: 'gap_before', label: 'Bare before', as: 'length', optional: true },
  { field: 'teeth', label: 'Teeth', as: 'count', optional: true, track: '3.6rem' },
  { field: 'material', label: 'Material', as: 'choice', optional: true, options: MATERIALS, track: '6rem' },
  { field: 'note', label: 'Which way round, note', as: 'text', optional: true, track: 'minmax(6rem,1.4fr)' },
  { field: 'always_new', label: 'New', as: 'tick', track: '2.8rem' },
]

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
  show: (index: number) => void
  /** Cuts a new check in after a part. */
  cut: (shaft: number, part: number) => void
}

export function Shafts({ sheet, faults, shown, show, cut }: Props) {
  const { put } = useWriting()
  const shaft = sheet.shafts[shown]
  const of = `/shafts/${shown}`
  const add = () => {
    const key = freshKey(sheet)
    put('/shafts', [...sheet.shafts, { key, name: '', parts: [] }])
    show(sheet.shafts.length)
    requestAnimationFrame(() => document.getElementById(`/shafts/${sheet.shafts.length}/name`)?.focus())
  }
  const last = (shaft?.parts.length ?? 0) - 1
  const more = useCallback(
    (row: Record<string, unknown>, index: number) => (
      <button
        type="button"
        className="min-h-12 min-w-11 font-bold text-blue hover:bg-card disabled:opacity-30"
        disabled={index === last}
        aria-label={`Cut a check in after ${String(row.name)}`}
        title="Cut a check in between this part and the next"
        onClick={() => cut(shown, index)}
      >
        ✂
      </button>
    ),
    [cut, shown, last],
  )
  return (
    <>
      <Chips
        of="/shafts"
        label="Shafts"
        names={sheet.shafts.map((s) => s.name)}
        faulty={(i) => [...faults.keys()].some((place) => place.startsWith(`/shafts/${i}/`))}
        noun="shaft"
        {...{ shown, show, add }}
        move={(next) =>
          put(
            '/shafts',
            next.map((i) => sheet.shafts[i]),
          )
        }
      />
      {shaft && (
        <>
          <div className="my-4 grid max-w-3xl gap-x-6 gap-y-3 sm:grid-cols-2">
            <Cell column={NAME} of={of} value={shaft.name} fault={faults.get(`${of}/name`)} labelled />
            <Cell
              column={DIAMETER}
              of={of}
              value={shaft.diameter}
              fault={faults.get(`${of}/diameter`)}
              labelled
            />
          </div>
          <h2 className="text-lg">Parts, from left to right</h2>
          <Rows
            of={`${of}/parts`}
            rows={shaft.parts}
            columns={PARTS}
            noun="part"
            faults={faults}
            more={more}
            fresh={() => ({ key: freshKey(sheet), name: '', kind: 'gear', width: '' })}
          />
          <Mates {...{ sheet, faults, shown }} />
        </>
      )}
    </>
  )
}
