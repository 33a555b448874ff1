// Where in the window the shop aims.
import { Cell } from './Cell'
import type { Sheet } from './draft'
import { useWriting } from './writing'

type Target = Sheet['checks'][number]['target']

const SCHOOLS = [
  ['middle', 'the middle'],
  ['tight', 'the tight side'],
  ['loose', 'the loose side'],
  ['at', 'a stated clearance'],
  ['between', 'a stated range'],
] as const

export function TargetFields({
  target,
  of,
  faults,
}: {
  target: Target
  of: string
  faults: Map<string, string>
}) {
  const { put } = useWriting()
  const school =
    target == null ? 'middle' : typeof target === 'string' ? target : 'at' in target ? 'at' : 'between'
  const give = (school: string) => {
    if (school === 'middle') put(of, undefined)
    else if (school === 'at') put(of, { at: '' })
    else if (school === 'between') put(of, { between: ['', ''] })
    else put(of, school)
  }
  const figure = (under: string, label: string, value: string) => (
    <Cell
      column={{ field: under, label, as: 'length' }}
      of={of}
      value={value}
      fault={faults.get(`${of}/${under}`)}
      labelled
    />
  )
  return (
    <>
      <div>
        <label className="block text-sm font-semibold" htmlFor={of}>
          Aim at
        </label>
        <select id={of} className="field px-1" value={school} onChange={(e) => give(e.target.value)}>
          {SCHOOLS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {faults.get(of) && <p className="mt-1 text-sm font-semibold text-oxide">{faults.get(of)}</p>}
      </div>
      {target != null && typeof target === 'object' && 'at' in target && figure('at', 'Aim', target.at)}
      {target != null && typeof target === 'object' && 'between' in target && (
        <>
          {figure('between/0', 'Aim from', target.between[0] ?? '')}
          {figure('between/1', 'Aim to', target.between[1] ?? '')}
        </>
      )}
    </>
  )
}
