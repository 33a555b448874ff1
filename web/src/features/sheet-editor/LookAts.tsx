// Where to look first for a complaint: the symptom, the gear, the parts, what to look for.
import { useState } from 'react'
import { symptomName } from '../../domain/labels'
import { Part } from './Part'
import { Rows } from './Rows'
import { Ticks } from './Ticks'
import type { Column } from './Cell'
import type { Sheet } from './draft'
import { SYMPTOMS, allParts } from './names'

interface Props {
  sheet: Sheet
  faults: Map<string, string>
}

export function LookAts({ sheet, faults }: Props) {
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
      {sheet.look_at?.map((_, i) => (
        <Looked key={i} at={i} {...{ sheet, faults }} />
      ))}
    </>
  )
}

/** The parts to look at for one complaint; open at first only where there is none yet. */
function Looked({ sheet, faults, at }: Props & { at: number }) {
  const look = sheet.look_at?.[at]
  const [fresh] = useState(look?.parts.length === 0)
  if (!look) return null
  const of = `/look_at/${at}/parts`
  const title = [`Parts to look at: ${look.parts.length}`, symptomName[look.symptom], look.gear]
  return (
    <Part title={title.filter(Boolean).join(', ')} open={fresh}>
      <Ticks
        title="The likeliest first, as they are ticked"
        all={allParts(sheet)}
        chosen={look.parts}
        of={of}
        faults={faults}
      />
      {faults.get(of) && <p className="mt-1 font-semibold text-oxide">{faults.get(of)}</p>}
    </Part>
  )
}
