// Where to look first for a complaint: the symptom, the gear, the parts, what to look for.
import { Part } from './Part'
import { Rows } from './Rows'
import { Ticks } from './Ticks'
import type { Column } from './Cell'
import type { Sheet } from './draft'
import { SYMPTOMS, allParts } from './names'
import { symptomName } from '../../domain/labels'

export function LookAts({ sheet, faults }: { sheet: Sheet; faults: Map<string, string> }) {
  const gears = (sheet.gears ?? []).map((g) => [g.name, g.name] as const)
  const columns: readonly Column[] = [
    { field: 'symptom', label: 'It', as: 'choice', options: SYMPTOMS },
    { field: 'gear', label: 'In the gear', as: 'choice', optional: true, options: gears },
    { field: 'what', label: 'What to look for', as: 'text', optional: true, track: 'minmax(0,2fr)' },
  ]
  return (
    <>
      <h2 className="mt-8 text-lg">Where to look first for a complaint</h2>
      <Rows
        of="/look_at"
        rows={sheet.look_at}
        columns={columns}
        fresh={() => ({ symptom: 'jumps_out', parts: [] })}
        noun="complaint"
        faults={faults}
        optional
      />
      {sheet.look_at?.map((look, i) => (
        <Part
          key={i}
          title={[`Parts to look at: ${look.parts.length}`, symptomName[look.symptom], look.gear]
            .filter(Boolean)
            .join(', ')}
          open={look.parts.length === 0}
        >
          <Ticks
            title="The likeliest first, as they are ticked"
            all={allParts(sheet)}
            chosen={look.parts}
            of={`/look_at/${i}/parts`}
            faults={faults}
          />
          {faults.get(`/look_at/${i}/parts`) && (
            <p className="mt-1 font-semibold text-oxide">{faults.get(`/look_at/${i}/parts`)}</p>
          )}
        </Part>
      ))}
    </>
  )
}
