// The lists that go with a check: ticks, differences, terms, movers, chart, hot and cold. Each is closed until it
// holds something.
import { Fragment, type ReactNode } from 'react'
import { length, words, type Column } from './Cell'
import type { CheckProps } from './check-props'
import { Part } from './Part'
import { Rows } from './Rows'
import { EFFECT, MATERIALS, checkOptions, partOptions } from './names'
import { useWriting } from './writing'

const READY: readonly Column[] = [words('tick', 'See to'), words('why', 'Why')]
const ADJUSTMENTS: readonly Column[] = [
  words('what', 'What differs in the final build', 'minmax(0,2.5fr)'),
  length('by', 'Clearance grows by'),
  length('tolerance', '± limits', true),
]
const CHART: readonly Column[] = [
  length('from', 'From'),
  length('to', 'To'),
  length('piece', 'Piece'),
  length('piece_to', 'or up to', true),
]
const HOT: readonly Column[] = [
  words('what', 'What', 'minmax(0,2fr)'),
  { field: 'material', label: 'Material', as: 'choice', options: MATERIALS },
  length('length', 'Length along the check'),
]

const GEARS: readonly Column[] = [
  words('name', 'Gear'),
  { field: 'weight', label: 'Weighs', as: 'count', optional: true, track: '5rem' },
  { field: 'fork', label: 'Fork', as: 'text', optional: true },
  { field: 'mark', label: 'Index mark at the pointer', as: 'text', optional: true },
]

const EFFECT_OF_TERM = [
  ['1', 'opens the gap'],
  ['-1', 'fills it'],
] as const

interface Props extends CheckProps {
  field: (column: Column, under?: string) => ReactNode
  /** What is wrong at a place of the check. */
  own: (place: string) => ReactNode
}

export function CheckLists({ sheet, faults, check, of, field, own }: Props) {
  const { put } = useWriting()
  const list = { faults, optional: true }
  const others = checkOptions(sheet, check.key)
  const parts = partOptions(sheet)
  return (
    <>
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
      <Part
        title="Gears that the selector holds"
        count={check.selector?.gears.length}
        open={check.method === 'selector_gaps'}
      >
        {check.selector ? (
          <>
            <Rows
              of={`${of}/selector/gears`}
              rows={check.selector.gears}
              columns={GEARS}
              noun="gear"
              faults={faults}
              fresh={() => ({ name: '' })}
            />
            {check.kind === 'selector_limits' &&
              check.selector.gears.map((gear, g) => (
                <div key={g} className="mt-3 grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
                  {(['left', 'right'] as const).map((side) => (
                    <Fragment key={side}>
                      <div>
                        {field(
                          length('low', `${gear.name || `Gear ${g + 1}`}, ${side} gap from`, true),
                          `/selector/gears/${g}/${side}`,
                        )}
                        {own(`/selector/gears/${g}/${side}/low`)}
                      </div>
                      {field(
                        length('high', `${gear.name || `Gear ${g + 1}`}, ${side} gap to`, true),
                        `/selector/gears/${g}/${side}`,
                      )}
                    </Fragment>
                  ))}
                </div>
              ))}
            <button
              type="button"
              className="press-quiet mt-2"
              onClick={() => put(`${of}/selector`, undefined)}
            >
              Take them off
            </button>
          </>
        ) : (
          <button
            type="button"
            className="press-quiet"
            onClick={() => put(`${of}/selector`, { gears: [{ name: '' }] })}
          >
            Name its gears
          </button>
        )}
        {own('/selector')}
      </Part>
      <Part title="Moved by the pieces of other checks" count={check.moved_by?.length}>
        <Rows
          of={`${of}/moved_by`}
          rows={check.moved_by}
          columns={[
            { field: 'check', label: 'Check', as: 'choice', options: others },
            check.kind === 'backlash'
              ? {
                  field: 'effect',
                  label: 'A thicker piece there',
                  as: 'choice',
                  numeric: true,
                  options: EFFECT,
                }
              : { field: 'effect', label: 'Closes by, for each 1 thicker (− opens)', as: 'number' },
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
            <div className="mb-3 grid gap-x-6 gap-y-3 sm:grid-cols-2">
              {field(
                {
                  field: 'case_c',
                  label: 'The window holds with the case at, °C',
                  as: 'number',
                  optional: true,
                  hint: 'Empty: at 20 °C.',
                },
                '/hot/window_at',
              )}
              {field(
                { field: 'inside_c', label: 'and what it holds at, °C', as: 'number', optional: true },
                '/hot/window_at',
              )}
            </div>
            {own('/hot/window_at')}
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
    </>
  )
}
