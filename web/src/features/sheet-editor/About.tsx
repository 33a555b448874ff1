// What the box is: its name, kind and unit, how to tell it, what can hurt.
import { Cell, type Column } from './Cell'
import { Lines } from './Lines'
import type { Sheet } from './draft'
import { BOX_KINDS, UNITS } from './names'

const NAME: Column = { field: 'name', label: 'What people call the box', as: 'text', names: true }
const KEY: Column = {
  field: 'key',
  label: 'Short name for addresses',
  as: 'text',
  hint: 'Small letters, digits and hyphens; made from the name where nothing is typed. It stays for good.',
}
const KIND: Column = { field: 'kind', label: 'Kind of box', as: 'choice', options: BOX_KINDS }
const UNIT: Column = {
  field: 'unit',
  label: 'Unit of its literature',
  as: 'choice',
  options: UNITS,
  hint: 'A figure typed here without a unit is in this one.',
}
const SOURCE: Column = {
  field: 'source',
  label: 'Where the figures come from',
  as: 'text',
  optional: true,
  placeholder: 'such as the shop’s own measurements of six boxes',
}
const NOTES: Column = { field: 'notes', label: 'Anything else worth knowing', as: 'text', optional: true }

export function About({
  sheet,
  faults,
  isNew,
}: {
  sheet: Sheet
  faults: Map<string, string>
  isNew: boolean
}) {
  const field = (column: Column) => (
    <Cell
      column={column}
      of=""
      value={sheet[column.field as keyof Sheet]}
      fault={faults.get(`/${column.field}`)}
      labelled
    />
  )
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-2">
      {field(NAME)}
      {isNew ? (
        field(KEY)
      ) : (
        <p className="self-center text-dim">
          In addresses it is <code className="figure">{sheet.key}</code>.
        </p>
      )}
      {field(KIND)}
      {field(UNIT)}
      {field(SOURCE)}
      {field(NOTES)}
      <Lines
        of="/identification"
        title="How to tell the box"
        noun="sign"
        lines={sheet.identification}
        faults={faults}
        placeholder="such as a casting mark, splines, teeth"
      />
      <Lines
        of="/cautions"
        title="Cautions"
        noun="caution"
        lines={sheet.cautions}
        faults={faults}
        placeholder="what can hurt somebody or the box"
      />
    </div>
  )
}
