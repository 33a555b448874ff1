// Parts that belong together: gears in mesh, bearings whose inner stays with its own outer. Each is named at one of two.
import { Cell } from './Cell'
import { Part } from './Part'
import type { Sheet } from './draft'

const isBearing = (kind: string) => kind.endsWith('bearing')

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
}

export function Mates(props: Props) {
  return (
    <>
      <Meshes {...props} />
      <Bearings {...props} />
    </>
  )
}

/** Which gear on another shaft each gear of this one meshes with. */
function Meshes({ sheet, faults, shown }: Props) {
  const gears = (sheet.shafts[shown]?.parts ?? []).flatMap((part, i) =>
    part.kind === 'gear' ? [{ part, i }] : [],
  )
  const others = sheet.shafts.flatMap((shaft, s) =>
    s === shown
      ? []
      : shaft.parts
          .filter(({ kind, teeth }) => kind === 'gear' || (kind === 'hub' && teeth != null))
          .map(({ key, name }) => [key, `${name || '(no name yet)'}, ${shaft.name}`] as const),
  )
  if (gears.length === 0 || others.length === 0) return null
  return (
    <div className="mt-4">
      <Part title="Gears in mesh" open={gears.some(({ part }) => part.mates != null)}>
        <p className="mb-2 text-dim">At one gear of each pair is enough.</p>
        <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
          {gears.map(({ part, i }) => (
            <Cell
              key={part.key}
              column={{
                field: 'mates',
                label: `${part.name || 'This gear'} meshes with`,
                as: 'choice',
                optional: true,
                options: others,
              }}
              of={`/shafts/${shown}/parts/${i}`}
              value={part.mates}
              fault={faults.get(`/shafts/${shown}/parts/${i}/mates`)}
              labelled
            />
          ))}
        </div>
      </Part>
    </div>
  )
}

function Bearings({ sheet, faults, shown }: Props) {
  const bearings = (shaft: Sheet['shafts'][number]) =>
    shaft.parts.flatMap((part, i) => (isBearing(part.kind) ? [{ part, i }] : []))
  const own = sheet.shafts[shown] ? bearings(sheet.shafts[shown]) : []
  const all = sheet.shafts.flatMap((s) =>
    bearings(s).map(({ part }) => [part.key, part.name || '(no name yet)'] as const),
  )
  if (all.length < 2 || own.length === 0) return null
  return (
    <div className="mt-4">
      <Part title="Inners kept with their outers" open={own.some(({ part }) => part.kept_with != null)}>
        <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
          {own.map(({ part, i }) => (
            <Cell
              key={part.key}
              column={{
                field: 'kept_with',
                label: `${part.name || 'This bearing'} stays with`,
                as: 'choice',
                optional: true,
                options: all.filter(([key]) => key !== part.key),
              }}
              of={`/shafts/${shown}/parts/${i}`}
              value={part.kept_with}
              fault={faults.get(`/shafts/${shown}/parts/${i}/kept_with`)}
              labelled
            />
          ))}
        </div>
      </Part>
    </div>
  )
}
