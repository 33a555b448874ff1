// The clutch packs, plate by plate, drawn as they are typed.
import type { Schemas } from '../../domain/schema'
import { PLATE_KINDS, PackStack } from '../../charts/PackStack'
import { showStated } from '../../domain/units'
import { Cell, type Column } from './Cell'
import { Chips } from './Chips'
import { Rows } from './Rows'
import { freshKey, type Sheet } from './draft'
import { checkOptions } from './names'
import { useWriting } from './writing'

const FIELDS: readonly Column[] = [
  { field: 'name', label: 'What the pack is called', as: 'text', names: true },
  { field: 'groove_depth', label: 'Drum floor to the groove', as: 'length' },
  { field: 'groove_tolerance', label: '± limits of that', as: 'length', optional: true },
  { field: 'frictions', label: 'Frictions, by the book', as: 'count', optional: true },
  { field: 'steels', label: 'Steels, by the book', as: 'count', optional: true },
  { field: 'return_springs', label: 'Pockets for return springs', as: 'count', optional: true },
  { field: 'springs_fitted', label: 'Springs the book fits, if fewer', as: 'count', optional: true },
]
const PLATES: readonly Column[] = [
  { field: 'kind', label: 'Plate', as: 'choice', options: PLATE_KINDS },
  { field: 'thickness', label: 'Thickness', as: 'length' },
  { field: 'tolerance', label: '± limits', as: 'length', optional: true },
  { field: 'free', label: 'Stands free, if it springs', as: 'length', optional: true },
  { field: 'name', label: 'Name, where the kind does not say enough', as: 'text', optional: true },
]
/** Said of a window that the rule of thumb gave. */
const THUMB = 'about 0.010 in a friction, from memory; it varies by maker'

type Pack = NonNullable<Sheet['packs']>[number]

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  drawn: Schemas['DrawnPack'][]
  shown: number
  show: (index: number) => void
}

export function Packs({ sheet, faults, drawn, shown, show }: Props) {
  const { put } = useWriting()
  const packs = sheet.packs ?? []
  const pack = packs[shown]
  const of = `/packs/${shown}`
  const picture = pack && drawn.find((d) => d.key === pack.key)
  const check: Column = {
    field: 'check',
    label: 'Signed off by the check',
    as: 'choice',
    options: checkOptions(sheet),
  }
  return (
    <>
      <Chips
        of="/packs"
        label="Clutch packs"
        names={packs.map((p) => p.name)}
        faulty={(i) => [...faults.keys()].some((place) => place.startsWith(`/packs/${i}/`))}
        noun="pack"
        {...{ shown, show }}
        add={() => {
          const free = sheet.checks.find(
            (c) => c.kind === 'clutch_pack_clearance' && !packs.some((p) => p.check === c.key),
          )
          put('/packs', [
            ...packs,
            { key: freshKey(sheet), name: '', groove_depth: '', plates: [], check: free?.key ?? '' },
          ])
          show(packs.length)
        }}
        move={(order) =>
          put(
            '/packs',
            order.map((i) => packs[i]),
          )
        }
      />
      {packs.length === 0 && (
        <p className="py-4">
          A pack is drawn in its drum, plate by plate, and its check is summed from it. Add the check first,
          under Checks.
        </p>
      )}
      {pack && (
        <>
          {picture && (
            <div className="mt-4 max-w-5xl">
              <PackStack pack={picture} />
            </div>
          )}
          {faults.get(of) && <p className="font-semibold text-oxide">{faults.get(of)}</p>}
          <div className="my-4 grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
            {[...FIELDS.slice(0, 1), check, ...FIELDS.slice(1)].map((column) => (
              <Cell
                key={column.field}
                {...{ column, of }}
                value={pack[column.field as keyof Pack]}
                fault={faults.get(`${of}/${column.field}`)}
                labelled
              />
            ))}
          </div>
          {picture?.thumb && <Thumb sheet={sheet} pack={pack} thumb={picture.thumb} />}
          <h2 className="text-lg">Plates, from the piston outwards</h2>
          <Rows
            of={`${of}/plates`}
            rows={pack.plates}
            columns={PLATES}
            noun="plate"
            faults={withOdd(faults, of, picture)}
            fresh={() => ({ kind: 'steel', thickness: '' })}
          />
          <button
            type="button"
            className="press-quiet mt-2"
            onClick={() => put(`${of}/plates`, [...pack.plates, ...nextPair(pack)])}
          >
            Add a steel and a friction
          </button>
        </>
      )}
    </>
  )
}

/** The faults, with what is to be asked about where a plate lies. */
function withOdd(faults: Map<string, string>, of: string, picture: Schemas['DrawnPack'] | undefined) {
  const all = new Map(faults)
  for (const { plate, message } of picture?.faults ?? []) {
    const place = `${of}/plates/${plate ?? 0}/kind`
    if (!all.has(place)) all.set(place, `${message}; or say why under what is asked about`)
  }
  return all
}

/** A pair like the last ones. */
function nextPair(pack: Pack): Pack['plates'] {
  const like = (kind: 'steel' | 'friction') => {
    const last = pack.plates.findLast((p) => p.kind === kind)
    return last ?? { kind, thickness: '' }
  }
  const pair = [like('steel'), like('friction')]
  return pack.plates.at(-1)?.kind === 'steel' ? pair.reverse() : pair
}

/** Offers the rule of thumb where the check has no window yet. */
function Thumb({ sheet, pack, thumb }: { sheet: Sheet; pack: Pack; thumb: Schemas['Thumb'] }) {
  const { put } = useWriting()
  const index = sheet.checks.findIndex((c) => c.key === pack.check)
  const check = sheet.checks[index]
  if (!check || check.window) return null
  const written = (nm: number) => `${showStated(nm, 'mm')} mm`
  return (
    <p className="mb-4 flex flex-wrap items-center gap-3 border-l-4 border-brass bg-brass-soft px-3 py-2">
      {check.name || 'Its check'} has no window yet. Where the book is silent: {THUMB}.
      <button
        type="button"
        className="press-quiet"
        onClick={() =>
          put(`/checks/${index}`, {
            ...check,
            window: { low: written(thumb.low_nm), high: written(thumb.high_nm) },
            rule: THUMB,
          })
        }
      >
        Use {written(thumb.low_nm)} to {written(thumb.high_nm)}
      </button>
    </p>
  )
}
