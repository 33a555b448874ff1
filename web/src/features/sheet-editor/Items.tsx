// Parts off the rails, and what is to be known of every part where it goes in: which one, which way round, its marks.
import type { Schemas } from '../../domain/schema'
import { Cell, type Column } from './Cell'
import { Gears } from './Gears'
import { Lines } from './Lines'
import { LookAts } from './LookAts'
import { Part } from './Part'
import { Rows } from './Rows'
import { freshKey, type Sheet } from './draft'
import { FACES, HANDS, ITEM_KINDS, TOWARDS, allParts } from './names'
import { WearLimits } from './WearLimits'
import { useWriting } from './writing'

const ITEM: readonly Column[] = [
  { field: 'name', label: 'Name', as: 'text', names: true, track: 'minmax(0,2fr)' },
  { field: 'kind', label: 'Kind', as: 'choice', options: ITEM_KINDS },
  { field: 'count', label: 'How many', as: 'count', optional: true, track: '5rem' },
  { field: 'number', label: 'Number', as: 'text', optional: true },
  { field: 'always_new', label: 'Always new', as: 'tick', track: '5rem' },
]

interface Props {
  sheet: Sheet
  faults: Map<string, string>
}

export function Items({ sheet, faults }: Props) {
  const { put } = useWriting()
  return (
    <>
      <h2 className="text-lg">Off the rails</h2>
      <p className="mb-2 text-dim">Seals, rings, springs, balls, keys, forks, covers, fasteners.</p>
      <Rows
        of="/items"
        rows={sheet.items}
        columns={ITEM}
        fresh={() => ({ key: freshKey(sheet), name: '', kind: 'seal' })}
        noun="item"
        faults={faults}
        optional
      />
      <h2 className="mt-8 text-lg">Positions of the selector</h2>
      {sheet.positions ? (
        <>
          <Lines
            of="/positions/names"
            title="In their order, a notch apart"
            noun="position"
            lines={sheet.positions.names}
            faults={faults}
          />
          <Cell
            column={{ field: 'ring', label: 'The first follows the last again', as: 'tick' }}
            of="/positions"
            value={sheet.positions.ring}
            labelled
          />
          {[...faults]
            .filter(([place]) => place.startsWith('/positions/'))
            .map(([place, message]) => (
              <p key={place} className="mt-1 font-semibold text-oxide">
                {message}
              </p>
            ))}
          <button type="button" className="press-quiet" onClick={() => put('/positions', undefined)}>
            It has none
          </button>
        </>
      ) : (
        <button
          type="button"
          className="press-quiet mt-1"
          onClick={() => put('/positions', { names: ['neutral', 'first'] })}
        >
          Name them
        </button>
      )}
      <Gears sheet={sheet} faults={faults} />
      <LookAts sheet={sheet} faults={faults} />
      <WearLimits sheet={sheet} faults={faults} />
      <h2 className="mt-8 text-lg">Which one, which way round, which marks</h2>
      {sheet.shafts.map((shaft, s) => (
        <Part
          key={shaft.key}
          title={shaft.name || '(no name yet)'}
          count={shaft.parts.filter((p) => p.facing ?? p.which ?? p.twin ?? p.marks).length}
        >
          {shaft.parts.map((part, p) => (
            <Told key={part.key} of={`/shafts/${s}/parts/${p}`} {...{ sheet, part, faults }} />
          ))}
        </Part>
      ))}
      {sheet.items && sheet.items.length > 0 && (
        <Part
          title="Off the rails"
          count={sheet.items.filter((i) => i.facing ?? i.which ?? i.twin ?? i.marks).length}
        >
          {sheet.items.map((item, i) => (
            <Told key={item.key} of={`/items/${i}`} part={item} {...{ sheet, faults }} />
          ))}
        </Part>
      )}
    </>
  )
}

const TOLD: readonly Column[] = [
  { field: 'which', label: 'Told from its twin by', as: 'text', optional: true },
  { field: 'marks', label: 'Marks to line up', as: 'text', optional: true },
]

/** What tells one part, in a row. */
function Told({
  of,
  sheet,
  part,
  faults,
}: Props & {
  of: string
  part: Schemas['sheet.Part'] | Schemas['sheet.Item']
}) {
  const { put } = useWriting()
  const fault = faults.get(`${of}/facing/towards`) ?? faults.get(`${of}/facing/face`)
  const choice = (
    label: string,
    field: string,
    value: string | undefined,
    options: readonly (readonly [string, string])[],
    give: (value: string) => void,
  ) => (
    <label className="block min-w-0 text-sm font-semibold">
      {label}
      <select
        id={`${of}/${field}`}
        data-optional=""
        aria-label={`${label}, ${part.name}`}
        className="field px-1 font-normal"
        value={value ?? ''}
        onChange={(e) => give(e.target.value)}
      >
        <option value="" />
        {options.map(([key, name]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    </label>
  )
  const others = allParts(sheet).filter(([key]) => key !== part.key)
  const { facing } = part
  return (
    <div
      role="group"
      aria-label={part.name}
      className="grid grid-cols-2 items-end gap-2 border-b border-line py-2 lg:grid-cols-[10rem_repeat(6,minmax(0,1fr))]"
    >
      <p className="col-span-2 self-center font-semibold lg:col-span-1">{part.name || '(no name yet)'}</p>
      {choice('Face', 'facing/face', facing?.face, FACES, (face) =>
        put(`${of}/facing`, face === '' ? undefined : { face, towards: facing?.towards ?? 'left' }),
      )}
      {choice('Looks', 'facing/towards', facing?.towards, [...TOWARDS, ...others], (towards) =>
        put(`${of}/facing`, towards === '' ? undefined : { face: facing?.face ?? 'chamfer', towards }),
      )}
      {choice('Twin', 'twin', part.twin ?? undefined, others, (twin) =>
        put(`${of}/twin`, twin === '' ? undefined : twin),
      )}
      {'teeth' in part && part.teeth != null && (
        <>
          {choice('Teeth lean', 'helix', part.helix ?? undefined, HANDS, (hand) =>
            put(`${of}/helix`, hand === '' ? undefined : hand),
          )}
          <label className="flex min-h-12 items-center gap-2 text-sm font-semibold">
            <input
              type="checkbox"
              className="size-11"
              checked={part.chain === true}
              onChange={(e) => put(`${of}/chain`, e.target.checked || undefined)}
            />
            A chain or belt runs on it
          </label>
        </>
      )}
      {TOLD.map((column) => (
        <Cell
          key={column.field}
          {...{ column, of }}
          value={part[column.field as 'which' | 'marks']}
          fault={faults.get(`${of}/${column.field}`)}
          thing={part.name}
          labelled
        />
      ))}
      {fault && <p className="col-span-full font-semibold text-oxide">{fault}</p>}
    </div>
  )
}
