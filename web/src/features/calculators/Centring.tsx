// Selector centring: the gaps each side at every gear, drawn, and where the shims at the ends put the shaft best.
import { answer, server } from '../../api/client'
import { Arrangements, Forks, shimsWords } from '../../charts/Forks'
import { Working } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { Field } from '../../ui/Field'
import { Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { AddRow, TakeOut, inOneField } from './Rows'
import { useFields, useSum } from './fields'

const START = 'first: 1.10; 0.84\nsecond: 0.72; 1.08\nthird: 0.66; 0.90; floats\nfourth: 0.95; 0.88'

export function Centring() {
  const { unit } = useBench()
  const { fields, set } = useFields({ gears: START, left: '0.50 0.20 mm', right: '0.30 0.10 mm' })
  const { data, error, fault } = useSum('centring', fields, (unit) =>
    answer(server.POST('/api/calc/centring', { body: { ...fields, unit } })),
  )
  const u = unitName[unit]
  const best = data?.arrangements[0]
  const shims = (of: number[]) => shimsWords(of, unit)
  return (
    <Layout
      error={error}
      form={
        <>
          <Gears text={fields.gears} onChange={set('gears')} fault={fault('gears')} />
          <Field
            label="Shims at the left end"
            hint="With spaces between."
            value={fields.left}
            onChange={set('left')}
            fault={fault('left')}
          />
          <Field
            label="Shims at the right end"
            value={fields.right}
            onChange={set('right')}
            fault={fault('right')}
          />
        </>
      }
    >
      {data && best && (
        <>
          <p className="text-2xl" aria-live="polite">
            <strong className="figure text-[3.2rem] leading-none" data-testid="shift">
              {show(Math.abs(best.shift_nm), unit)}
            </strong>{' '}
            {u}{' '}
            {best.shift_nm === 0
              ? 'to move: it lies best as it is'
              : best.shift_nm > 0
                ? 'to the left'
                : 'to the right'}
          </p>
          <p className="mt-1">
            The worst gear then stands {show(best.worst_nm, unit)} off the middle, weighted; now{' '}
            {show(data.worst_now_nm, unit)}. With a shim of any thickness it could be{' '}
            {show(data.best_worst_nm, unit)}.
          </p>
          <Forks gears={data.gears} shift={best.shift_nm} />
          <Arrangements of={data.arrangements} />
          <p className="my-2 text-dim">All shims stay in the box, so the float stays what it is.</p>
          <Working lines={data.working} />
          <PutOnLog
            said={`Selector centring (${fields.gears.replaceAll('\n', ' · ')}): left ${shims(best.left_nm)}, right ${shims(best.right_nm)} ${u}; worst offset ${show(best.worst_nm, unit)}, was ${show(data.worst_now_nm, unit)} ${u}.`}
          />
        </>
      )}
    </Layout>
  )
}

interface Row {
  name: string
  left: string
  right: string
  rest: string
}

const read = (text: string): Row[] =>
  text.split('\n').map((line) => {
    const [name = '', gaps = ''] = line.split(/:(.*)/s)
    const [left = '', right = '', ...rest] = gaps.split(';').map((t) => t.trim())
    return { name, left, right, rest: rest.join('; ') }
  })

const written = (rows: Row[]) =>
  rows.map((r) => `${r.name}: ${r.left}; ${r.right}${r.rest ? `; ${r.rest}` : ''}`).join('\n')

/** The gaps as they are entered: a row for each gear, left and right of it. */
function Gears({
  text,
  onChange,
  fault,
}: {
  text: string
  onChange: (text: string) => void
  fault?: string
}) {
  const rows = read(text)
  const change = (i: number, part: Partial<Row>) =>
    onChange(written(rows.map((r, j) => (j === i ? { ...r, ...part } : r))))
  return (
    <fieldset className="mb-4">
      <legend className="font-semibold">Gaps each side, the detent home</legend>
      <div aria-hidden="true" className="grid grid-cols-[1.3fr_1fr_1fr_auto_auto] gap-1 text-sm text-dim">
        <span>Gear</span>
        <span>Left</span>
        <span>Right</span>
        <span className="w-14">Floats</span>
        <span className="w-8" />
      </div>
      {rows.map((r, i) => (
        <div key={i} className="mb-1 grid grid-cols-[1.3fr_1fr_1fr_auto_auto] items-center gap-1">
          {(['name', 'left', 'right'] as const).map((part) => (
            <input
              key={part}
              className={`field px-2 ${part === 'name' ? '' : 'figure'}`}
              aria-label={`${part === 'name' ? 'Name' : part === 'left' ? 'Gap at the left' : 'Gap at the right'}, gear ${i + 1}`}
              value={r[part]}
              maxLength={60}
              onChange={(e) => change(i, { [part]: inOneField(e.target.value) })}
            />
          ))}
          <span className="flex w-14 justify-center">
            <input
              type="checkbox"
              className="size-11"
              aria-label={`Gear ${i + 1} has no stop of its own`}
              checked={r.rest === 'floats'}
              onChange={(e) => change(i, { rest: e.target.checked ? 'floats' : '' })}
            />
          </span>
          <TakeOut
            what={`gear ${i + 1}`}
            disabled={rows.length === 1}
            onPress={() => onChange(written(rows.filter((_, j) => j !== i)))}
          />
        </div>
      ))}
      <AddRow
        fault={fault}
        onPress={() =>
          onChange(written([...rows, { name: `gear ${rows.length + 1}`, left: '', right: '', rest: '' }]))
        }
      >
        Add a gear
      </AddRow>
    </fieldset>
  )
}
