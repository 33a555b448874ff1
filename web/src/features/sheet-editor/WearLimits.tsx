// How far each part may be worn: what is measured, its size when new, at least, at most.
import { Cell, length, words, type Column } from './Cell'
import { allParts } from './names'
import { useWriting } from './writing'
import type { Sheet } from './draft'

const WEAR: readonly Column[] = [
  words('what', 'What is measured'),
  length('new', 'New', true),
  length('at_least', 'At least', true),
  length('at_most', 'At most', true),
]

export function WearLimits({ sheet, faults }: { sheet: Sheet; faults: Map<string, string> }) {
  const { put } = useWriting()
  const placed = [
    ...sheet.shafts.flatMap((shaft, s) =>
      shaft.parts.map((part, p) => ({ part, of: `/shafts/${s}/parts/${p}/wear` })),
    ),
    ...(sheet.items ?? []).map((part, i) => ({ part, of: `/items/${i}/wear` })),
  ]
  const without = new Map(placed.filter(({ part }) => !part.wear).map(({ part, of }) => [part.key, of]))
  return (
    <>
      <h2 className="mt-8 text-lg">Wear limits</h2>
      {placed.map(
        ({ part, of }) =>
          part.wear && (
            <div
              key={of}
              role="group"
              aria-label={`Wear limit of ${part.name}`}
              className="grid grid-cols-2 items-end gap-2 border-b border-line py-2 lg:grid-cols-[10rem_minmax(0,2fr)_repeat(3,minmax(0,1fr))_3rem]"
            >
              <p className="col-span-2 self-center font-semibold lg:col-span-1">{part.name}</p>
              {WEAR.map((column) => (
                <Cell
                  key={column.field}
                  {...{ column, of }}
                  value={part.wear?.[column.field as 'what' | 'new' | 'at_least' | 'at_most']}
                  fault={faults.get(`${of}/${column.field}`)}
                  thing={part.name}
                  labelled
                />
              ))}
              <button
                type="button"
                className="press-quiet min-w-11 px-3"
                aria-label={`Take out the wear limit of ${part.name}`}
                onClick={() => put(of, undefined)}
              >
                ×
              </button>
            </div>
          ),
      )}
      <label className="mt-2 block max-w-sm text-sm font-semibold">
        Add a wear limit of
        <select
          data-optional=""
          className="field px-1 font-normal"
          value=""
          onChange={(e) => {
            const of = without.get(e.target.value)
            if (of) put(of, { what: '' })
          }}
        >
          <option value="" />
          {allParts(sheet)
            .filter(([key]) => without.has(key))
            .map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
        </select>
      </label>
    </>
  )
}
