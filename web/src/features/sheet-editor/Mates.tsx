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

type ShaftPart = Sheet['shafts'][number]['parts'][number]

export function Mates(props: Props) {
  return (
    <>
      <Meshes {...props} />
      <Bearings {...props} />
    </>
  )
}

/** Which gear on another shaft each gear of this one meshes with. */
function Meshes(props: Props) {
  const { sheet, shown } = props
  const others = sheet.shafts.flatMap((shaft, s) =>
    s === shown
      ? []
      : shaft.parts
          .filter(({ kind, teeth }) => kind === 'gear' || (kind === 'hub' && teeth != null))
          .map(({ key, name }) => [key, `${name || '(no name yet)'}, ${shaft.name}`] as const),
  )
  if (others.length === 0) return null
  return (
    <Chosen
      {...props}
      title="Gears in mesh"
      hint="At one gear of each pair is enough."
      field="mates"
      label={({ name }) => `${name || 'This gear'} meshes with`}
      isOne={({ kind }) => kind === 'gear'}
      options={others}
    />
  )
}

function Bearings(props: Props) {
  const all = props.sheet.shafts.flatMap((shaft) =>
    shaft.parts
      .filter(({ kind }) => isBearing(kind))
      .map(({ key, name }) => [key, name || '(no name yet)'] as const),
  )
  if (all.length < 2) return null
  return (
    <Chosen
      {...props}
      title="Inners kept with their outers"
      field="kept_with"
      label={({ name }) => `${name || 'This bearing'} stays with`}
      isOne={({ kind }) => isBearing(kind)}
      options={all}
    />
  )
}

interface ChosenProps extends Props {
  title: string
  hint?: string
  field: 'mates' | 'kept_with'
  label: (part: ShaftPart) => string
  /** Whether a part has another that belongs to it. */
  isOne: (part: ShaftPart) => boolean
  options: (readonly [string, string])[]
}

/** For each of these parts on the shaft, the one that belongs to it. */
function Chosen({ sheet, faults, shown, title, hint, field, label, isOne, options }: ChosenProps) {
  const own = (sheet.shafts[shown]?.parts ?? []).flatMap((part, i) => (isOne(part) ? [{ part, i }] : []))
  if (own.length === 0) return null
  return (
    <div className="mt-4">
      <Part title={title} open={own.some(({ part }) => part[field] != null)}>
        {hint && <p className="mb-2 text-dim">{hint}</p>}
        <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2 lg:grid-cols-3">
          {own.map(({ part, i }) => (
            <Cell
              key={part.key}
              column={{
                field,
                label: label(part),
                as: 'choice',
                optional: true,
                options: options.filter(([key]) => key !== part.key),
              }}
              of={`/shafts/${shown}/parts/${i}`}
              value={part[field]}
              fault={faults.get(`/shafts/${shown}/parts/${i}/${field}`)}
              labelled
            />
          ))}
        </div>
      </Part>
    </div>
  )
}
