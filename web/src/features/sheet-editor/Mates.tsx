// Bearings whose inner stays with its own outer: each is named once, at one of the two.
import { Cell } from './Cell'
import { Part } from './Part'
import type { Sheet } from './draft'

const isBearing = (kind: string) => kind.endsWith('bearing')

export function Mates({
  sheet,
  faults,
  shown,
}: {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
}) {
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
