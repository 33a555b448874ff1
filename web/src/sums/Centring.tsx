// Selector centring: the gaps each side at every gear, drawn, and where the shims at the ends put the shaft best.
import { answer, server, type Schemas } from '../api/client'
import { Working } from '../ui/Parts'
import { useBench } from '../ui/bench-state'
import { show, showStated, unitName } from '../ui/units'
import { Field } from '../ui/Field'
import { Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
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
  const shims = (of: number[]) =>
    of.length === 0 ? 'none' : of.map((nm) => showStated(nm, unit)).join(' + ')
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
          <div className="overflow-x-auto" tabIndex={0}>
            <table className="w-full min-w-[34rem]" aria-label="Ways to share the shims out">
              <thead>
                <tr>
                  <th className="th">Left, {u}</th>
                  <th className="th">Right, {u}</th>
                  <th className="th">Moves</th>
                  <th className="th">Worst</th>
                </tr>
              </thead>
              <tbody>
                {data.arrangements.map((a, i) => (
                  <tr key={i} className={i === 0 ? 'font-bold' : ''}>
                    <td className="td figure">{shims(a.left_nm)}</td>
                    <td className="td figure">{shims(a.right_nm)}</td>
                    <td className="td figure">
                      {a.shift_nm === 0
                        ? 'as now'
                        : `${show(Math.abs(a.shift_nm), unit)} ${a.shift_nm > 0 ? 'left' : 'right'}`}
                    </td>
                    <td className="td figure">
                      {show(a.worst_nm, unit)}
                      {a.fouls.length > 0 && (
                        <span className="block font-sans text-sm text-oxide">
                          △ {a.fouls.join(', ')} touches
                        </span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
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
              onChange={(e) => change(i, { [part]: e.target.value.replace(/[:;\n]/g, '') })}
            />
          ))}
          <span className="flex w-14 justify-center">
            <input
              type="checkbox"
              className="size-6"
              aria-label={`Gear ${i + 1} has no stop of its own`}
              checked={r.rest === 'floats'}
              onChange={(e) => change(i, { rest: e.target.checked ? 'floats' : '' })}
            />
          </span>
          <button
            type="button"
            className="min-h-12 w-8 font-bold"
            disabled={rows.length === 1}
            aria-label={`Take out gear ${i + 1}`}
            onClick={() => onChange(written(rows.filter((_, j) => j !== i)))}
          >
            ×
          </button>
        </div>
      ))}
      <button
        type="button"
        className="press-quiet mt-1"
        onClick={() =>
          onChange(written([...rows, { name: `gear ${rows.length + 1}`, left: '', right: '', rest: '' }]))
        }
      >
        Add a gear
      </button>
      {fault && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {fault}
        </p>
      )}
    </fieldset>
  )
}

const LINE = 52
const BLOCK = 54

/** The drum's gears in a column: each sliding gear between its neighbours, now solid, moved as an outline. */
function Forks({ gears, shift }: { gears: Schemas['Offset'][]; shift: number }) {
  const { unit } = useBench()
  const width = 560
  const name = 92
  const most = Math.max(...gears.map((g) => g.left_nm + g.right_nm), 1)
  const scale = (width - name - 3 * BLOCK - 30) / most
  const middle = name + (width - name) / 2
  return (
    <svg
      viewBox={`0 0 ${width} ${gears.length * LINE + 26}`}
      className="my-3 block w-full max-w-2xl"
      role="img"
      aria-label={`${gears.length} gears between their neighbours, now and moved`}
    >
      <line
        x1={middle}
        x2={middle}
        y1="4"
        y2={gears.length * LINE}
        stroke="var(--dim)"
        strokeDasharray="12 4 3 4"
      />
      {gears.map((g, i) => {
        const y = 8 + i * LINE
        const half = ((g.left_nm + g.right_nm) / 2) * scale
        const now = middle + g.now_nm * scale - BLOCK / 2
        const then = now - shift * scale
        const wall = { fill: 'var(--steel)', stroke: 'var(--ink)', strokeWidth: 1.5 }
        return (
          <g key={i}>
            <text x="0" y={y + 24} fontSize="15" fontWeight={g.weight > 1 ? 700 : 400} fill="var(--ink)">
              {g.name.slice(0, 11)}
              {g.weight > 1 ? ` ×${g.weight}` : ''}
            </text>
            <rect x={middle - half - BLOCK * 1.5} y={y} width={BLOCK} height={36} {...wall} />
            <rect x={middle + half + BLOCK / 2} y={y} width={BLOCK} height={36} {...wall} />
            <rect
              x={now}
              y={y + 4}
              width={BLOCK}
              height={28}
              fill="var(--brass-soft)"
              stroke="var(--ink)"
              strokeWidth="1.8"
            />
            <rect
              x={then}
              y={y}
              width={BLOCK}
              height={36}
              fill="none"
              stroke="var(--blue)"
              strokeWidth="2.5"
              strokeDasharray="6 4"
            />
            <text
              x={now + BLOCK / 2}
              y={y + 23}
              textAnchor="middle"
              fontSize="13"
              fill="var(--ink)"
              className="figure"
            >
              {show(Math.abs(g.now_nm), unit)}
            </text>
          </g>
        )
      })}
      <text x={middle} y={gears.length * LINE + 20} textAnchor="middle" fontSize="13" fill="var(--dim)">
        off the middle now, {unitName[unit]}; moved, dashed
      </text>
    </svg>
  )
}
