// One check: where it is cut, its window and target, how it is taken, what sets it, and all that goes with it.
import type { ReactNode } from 'react'
import { Cell, type Column } from './Cell'
import { Lines } from './Lines'
import { Rows } from './Rows'
import { TargetFields } from './TargetFields'
import { Ticks } from './Ticks'
import { at, type Sheet } from './draft'
import { CHECK_KINDS, MATERIALS, WAYS, checkOptions, familyOptions, partOptions } from './names'
import { useWriting } from './writing'

type Check = Sheet['checks'][number]

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  check: Check
  of: string
}

const length = (field: string, label: string, optional = false): Column => ({
  field,
  label,
  as: 'length',
  optional,
})
const words = (field: string, label: string, track?: string): Column => ({ field, label, as: 'text', track })
const EFFECT = [
  ['1', 'closes the gap'],
  ['-1', 'opens the gap'],
] as const
const READY: readonly Column[] = [words('tick', 'See to'), words('why', 'Why')]
const ADJUSTMENTS: readonly Column[] = [
  words('what', 'What differs in the final build', 'minmax(0,2.5fr)'),
  length('by', 'Clearance grows by'),
  length('tolerance', '± limits', true),
]
const CHART: readonly Column[] = [length('from', 'From'), length('to', 'To'), length('piece', 'Piece')]
const HOT: readonly Column[] = [
  words('what', 'What', 'minmax(0,2fr)'),
  { field: 'material', label: 'Material', as: 'choice', options: MATERIALS },
  length('length', 'Length along the check'),
]

export function CheckForm({ sheet, faults, check, of }: Props) {
  const { put } = useWriting()
  const field = (column: Column, under = '') => (
    <Cell
      {...{ column }}
      of={of + under}
      value={at(check, `${under}/${column.field}`)}
      fault={faults.get(`${of}${under}/${column.field}`)}
      labelled
    />
  )
  const list = { faults, optional: true }
  const own = (place: string) => {
    const fault = faults.get(of + place)
    return fault && <p className="mt-1 font-semibold text-oxide">{fault}</p>
  }
  const others = checkOptions(sheet, check.key)
  const parts = partOptions(sheet)
  return (
    <div className="mt-4 space-y-6">
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {field({ field: 'name', label: 'What the check is called', as: 'text', names: true })}
        {field({ field: 'kind', label: 'Kind', as: 'choice', options: CHECK_KINDS })}
        <Between {...{ sheet, faults, check, of }} />
      </div>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {check.kind !== 'turning_torque' && (
          <>
            <div>
              {field(length('low', 'Window from; preload below zero', true), '/window')}
              {own('/window')}
            </div>
            {field(length('high', 'Window to', true), '/window')}
            <div>
              {field(length('low', 'The shop’s own window from', true), '/shop_window')}
              {own('/shop_window')}
            </div>
            {field(length('high', 'The shop’s own window to', true), '/shop_window')}
            <div className="lg:col-span-2">
              {field({
                field: 'rule',
                label: 'Where the window comes from, if from no book',
                as: 'text',
                optional: true,
              })}
            </div>
            <TargetFields target={check.target} of={`${of}/target`} faults={faults} />
          </>
        )}
        {(check.kind === 'turning_torque' || check.kind === 'bearing_preload') && (
          <>
            <div>
              {field(
                { field: 'low_n_m', label: 'Turning torque from, N·m', as: 'number', optional: true },
                '/torque',
              )}
              {own('/torque')}
            </div>
            {field(
              { field: 'high_n_m', label: 'Turning torque to, N·m', as: 'number', optional: true },
              '/torque',
            )}
          </>
        )}
      </div>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {field({ field: 'method', label: 'How it is usually taken', as: 'choice', options: WAYS })}
        <div className="lg:col-span-2">
          {field({
            field: 'how',
            label: 'In words: where the gauge stands, what to push',
            as: 'text',
            optional: true,
          })}
        </div>
        {field({
          field: 'closing',
          label: 'In which closing of the case',
          as: 'text',
          optional: true,
          hint: 'Empty: on the bench.',
        })}
      </div>
      <SetBy {...{ sheet, check, of, field }}>{own('/set_by')}</SetBy>
      <Ticks
        title="Signed off before it"
        all={others}
        chosen={check.after ?? []}
        of={`${of}/after`}
        faults={faults}
        none="There is no other check yet."
      />
      <Part title="Before a reading is believed" count={check.ready?.length}>
        <Rows
          of={`${of}/ready`}
          rows={check.ready}
          columns={READY}
          noun="tick"
          fresh={() => ({ tick: '', why: '' })}
          {...list}
        />
      </Part>
      <Part title="What differs between trial and final build" count={check.adjustments?.length}>
        <Rows
          of={`${of}/adjustments`}
          rows={check.adjustments}
          columns={ADJUSTMENTS}
          noun="difference"
          fresh={() => ({ what: '', by: '' })}
          {...list}
        />
      </Part>
      <Part title="Terms of a stack sum" count={check.stack?.length} open={check.method === 'stack_sum'}>
        <Rows
          of={`${of}/stack`}
          rows={check.stack}
          columns={[
            words('what', 'Term', 'minmax(0,2fr)'),
            { field: 'sign', label: 'It', as: 'choice', numeric: true, options: EFFECT_OF_TERM },
            length('length', 'Length'),
            length('tolerance', '± limits', true),
            { field: 'part', label: 'Part on the rail', as: 'choice', optional: true, options: parts },
          ]}
          noun="term"
          fresh={() => ({ what: '', sign: -1, length: '' })}
          {...list}
        />
        {own('/stack')}
      </Part>
      <Part title="Moved by the pieces of other checks" count={check.moved_by?.length}>
        <Rows
          of={`${of}/moved_by`}
          rows={check.moved_by}
          columns={[
            { field: 'check', label: 'Check', as: 'choice', options: others },
            { field: 'effect', label: 'A thicker piece there', as: 'choice', numeric: true, options: EFFECT },
          ]}
          noun="check"
          fresh={() => ({ check: others[0]?.[0] ?? '', effect: 1 })}
          {...list}
        />
      </Part>
      <Part title="Selection chart" count={check.chart?.rows.length}>
        {check.chart ? (
          <>
            <div className="mb-3 grid gap-x-6 gap-y-3 sm:grid-cols-2">
              {field(words('measured', 'What is measured to read it'), '/chart')}
              {field(length('resolution', 'The chart’s step'), '/chart')}
            </div>
            <Rows
              of={`${of}/chart/rows`}
              rows={check.chart.rows}
              columns={CHART}
              noun="row"
              faults={faults}
              fresh={() => ({ from: '', to: '', piece: '' })}
            />
            {own('/chart')}
            {check.chart.rows.map((_, i) => (
              <div key={i}>{own(`/chart/rows/${i}`)}</div>
            ))}
            <button type="button" className="press-quiet mt-2" onClick={() => put(`${of}/chart`, undefined)}>
              Take the chart off
            </button>
          </>
        ) : (
          <button
            type="button"
            className="press-quiet"
            onClick={() =>
              put(`${of}/chart`, {
                measured: '',
                resolution: '',
                rows: [{ from: '', to: '', piece: '' }],
              })
            }
          >
            Give it a chart
          </button>
        )}
      </Part>
      <Part
        title="Hot and cold: what lies side by side"
        count={check.hot ? check.hot.case.length + check.hot.inside.length : 0}
      >
        {check.hot ? (
          <>
            {(['case', 'inside'] as const).map((side) => (
              <div key={side} className="mb-3">
                <h3 className="font-semibold">
                  {side === 'case' ? 'The case, along the check' : 'What it holds'}
                </h3>
                <Rows
                  of={`${of}/hot/${side}`}
                  rows={check.hot?.[side]}
                  columns={HOT}
                  noun="length"
                  faults={faults}
                  fresh={() => ({ what: '', material: side === 'case' ? 'aluminium' : 'steel', length: '' })}
                />
              </div>
            ))}
            {own('/hot')}
            <button type="button" className="press-quiet" onClick={() => put(`${of}/hot`, undefined)}>
              Take it off
            </button>
          </>
        ) : (
          <button
            type="button"
            className="press-quiet"
            onClick={() =>
              put(`${of}/hot`, {
                case: [{ what: '', material: 'aluminium', length: '' }],
                inside: [{ what: '', material: 'steel', length: '' }],
              })
            }
          >
            Say what lies there
          </button>
        )}
      </Part>
      <Lines
        of={`${of}/cautions`}
        title="Cautions here"
        noun="caution"
        lines={check.cautions}
        faults={faults}
      />
    </div>
  )
}

const EFFECT_OF_TERM = [
  ['1', 'opens the gap'],
  ['-1', 'fills it'],
] as const

function Part({
  title,
  count,
  open,
  children,
}: {
  title: string
  count?: number
  open?: boolean
  children: ReactNode
}) {
  return (
    <details className="group" open={open || (count ?? 0) > 0}>
      <summary className="flex min-h-12 items-center gap-2 font-semibold">
        <span aria-hidden="true" className="group-open:rotate-90">
          ▸
        </span>{' '}
        {title}
        {count ? <span className="font-normal text-dim">({count})</span> : null}
      </summary>
      <div className="pt-1">{children}</div>
    </details>
  )
}

/** Where the check is cut: two parts of one shaft. */
function Between({ sheet, faults, check, of }: Props) {
  const { put } = useWriting()
  const [left = '', right = ''] = check.between ?? []
  const shaftOf = (part: string) => sheet.shafts.find((s) => s.parts.some((p) => p.key === part))
  const give = (side: 0 | 1, part: string) => {
    if (part === '' && (side === 0 ? right : left) === '') {
      put(`${of}/between`, undefined)
      return
    }
    if (side === 0) {
      const parts = shaftOf(part)?.parts ?? []
      const next = parts[parts.findIndex((p) => p.key === part) + 1]?.key ?? ''
      // The part to the right is most often the next one.
      const keeps = right !== '' && shaftOf(right) === shaftOf(part)
      put(`${of}/between`, part === '' ? undefined : [part, keeps ? right : next])
    } else put(`${of}/between`, [left, part])
  }
  const fault = [`${of}/between`, `${of}/between/0`, `${of}/between/1`]
    .map((place) => faults.get(place))
    .find(Boolean)
  return (['Cut in after', 'and before'] as const).map((label, side) => (
    <div key={label}>
      <label className="block text-sm font-semibold" htmlFor={`${of}/between/${side}`}>
        {label}
      </label>
      <select
        id={`${of}/between/${side}`}
        className="field px-1"
        value={side === 0 ? left : right}
        onChange={(e) => give(side === 0 ? 0 : 1, e.target.value)}
      >
        <option value="">nowhere on the rail</option>
        {sheet.shafts.map((s) => (
          <optgroup key={s.key} label={s.name || 'shaft without a name'}>
            {s.parts.map((p) => (
              <option key={p.key} value={p.key}>
                {p.name || '(no name yet)'}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
      {side === 0 && fault && <p className="mt-1 text-sm font-semibold text-oxide">{fault}</p>}
    </div>
  ))
}

/** What sets it. */
function SetBy({
  sheet,
  check,
  of,
  field,
  children,
}: {
  sheet: Sheet
  check: Check
  of: string
  field: (column: Column, under?: string) => ReactNode
  children: ReactNode
}) {
  const { put } = useWriting()
  const families = familyOptions(sheet)
  const set = check.set_by
  return (
    <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
      <div>
        <label className="block text-sm font-semibold" htmlFor={`${of}/set_by/family`}>
          Set by
        </label>
        <select
          id={`${of}/set_by/family`}
          className="field px-1"
          value={set?.family ?? ''}
          onChange={(e) =>
            e.target.value === ''
              ? put(`${of}/set_by`, undefined)
              : put(`${of}/set_by`, {
                  effect: 1,
                  measured_with: 'nothing',
                  ...set,
                  family: e.target.value,
                })
          }
        >
          <option value="">nothing: measured only</option>
          {set && !families.some(([key]) => key === set.family) && (
            <option value={set.family}>{set.family} (not there)</option>
          )}
          {families.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {families.length === 0 && (
          <p className="mt-1 text-sm text-dim">Enter the pieces first, under Pieces.</p>
        )}
        {children}
      </div>
      {set && (
        <>
          {field(
            { field: 'effect', label: 'A thicker piece', as: 'choice', numeric: true, options: EFFECT },
            '/set_by',
          )}
          {field(
            {
              field: 'measured_with',
              label: 'First readings are taken with',
              as: 'choice',
              options: [
                ['nothing', 'no piece in'],
                ['as_found', 'what was found in the box'],
              ],
            },
            '/set_by',
          )}
          {field(
            {
              field: 'part',
              label: 'It is this part on the rail',
              as: 'choice',
              optional: true,
              options: partOptions(sheet),
            },
            '/set_by',
          )}
          {field({ field: 'least_pieces', label: 'Fewest pieces', as: 'count', optional: true }, '/set_by')}
          {field({ field: 'most_pieces', label: 'Most pieces', as: 'count', optional: true }, '/set_by')}
        </>
      )}
    </div>
  )
}
