// The gears of the box as the ways that power takes: pair by pair, from the teeth on the rails.
import { Cell, type Column } from './Cell'
import { Part } from './Part'
import { Rows } from './Rows'
import { TURNINGS, toothedParts } from './names'
import type { Sheet } from './draft'

const COLUMNS: readonly Column[] = [
  { field: 'name', label: 'Gear', as: 'text' },
  { field: 'position', label: 'Selector’s position', as: 'text', optional: true },
]

export function Gears({ sheet, faults }: { sheet: Sheet; faults: Map<string, string> }) {
  const toothed = toothedParts(sheet)
  const pair: readonly Column[] = [
    { field: '0', label: 'Drives', as: 'choice', options: toothed },
    { field: '1', label: 'Is driven', as: 'choice', options: toothed },
  ]
  return (
    <>
      <h2 className="mt-8 text-lg">Gears, for the shift test</h2>
      <Rows
        of="/gears"
        rows={sheet.gears}
        columns={COLUMNS}
        fresh={() => ({ name: '', pairs: [] })}
        noun="gear"
        faults={faults}
        optional
      />
      {sheet.gears?.map((gear, i) => (
        <Part
          key={i}
          title={`${gear.name || '(no name yet)'}: from the input to the output`}
          count={gear.pairs?.length}
        >
          <Rows
            of={`/gears/${i}/pairs`}
            rows={gear.pairs}
            columns={pair}
            fresh={() => ['', ''] as unknown as Record<string, unknown>}
            noun="pair"
            faults={faults}
            optional
          />
        </Part>
      ))}
      {sheet.gears && (
        <div className="mt-3 max-w-sm">
          <Cell
            column={{
              field: 'input_turns',
              label: 'The input turns, seen from the left',
              as: 'choice',
              optional: true,
              options: TURNINGS,
            }}
            of=""
            value={sheet.input_turns ?? undefined}
            fault={faults.get('/input_turns')}
            labelled
          />
        </div>
      )}
    </>
  )
}
