// The piece that readings and a target want, and which of the sizes typed would do.
import { answer, server } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Working } from '../../ui/Parts'
import { SlotStrip } from '../../charts/SlotGauge'
import { useBench } from '../../domain/session'
import { clearance, percent, piecesText, show, showStated, unitName } from '../../domain/units'
import { Area, Choice, Field } from '../../ui/Field'
import { Big, ErrorLeftOut, Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { figureOf, useFields, useSum } from './fields'

const EFFECTS = [
  ['closes', 'closes the gap: a washer, a shim'],
  ['opens', 'opens it: a spacer between cones'],
] as const

export function Piece() {
  const { unit } = useBench()
  const { fields, set } = useFields({
    readings: '0.71 0.72 0.72 mm',
    step: '0.01 mm',
    error: '0.01 mm',
    low: '0.12 mm',
    high: '0.26 mm',
    target: '',
    fitted: '',
    effect: 'closes',
    sizes: '0.45 0.50 0.55 0.60',
    tolerance: '0.005 mm',
    most: '1',
  })
  const most = figureOf(fields.most)
  const bad = most === null || !Number.isInteger(most) || most < 1 || most > 8
  const { data, error, fault } = useSum('piece', fields, (unit) =>
    answer(
      server.POST('/api/calc/piece', {
        body: {
          readings: fields.readings,
          step: fields.step,
          error: fields.error,
          low: fields.low,
          high: fields.high,
          target: fields.target,
          fitted: fields.fitted,
          effect: fields.effect as Schemas['Effect'],
          sizes: fields.sizes,
          tolerance: fields.tolerance,
          most_pieces: bad ? 1 : (most ?? 1),
          unit,
        },
      }),
    ),
  )
  const field = (name: keyof typeof fields, label: string, hint?: string) => (
    <Field label={label} value={fields[name]} onChange={set(name)} fault={fault(name)} hint={hint} />
  )
  const u = unitName[unit]
  const best = data?.choices?.ranked[0]
  return (
    <Layout
      error={error}
      form={
        <>
          {field('readings', 'Measured', 'One or more, with spaces between; preload below zero.')}
          <div className="grid grid-cols-2 gap-x-4">
            {field('step', 'Step of the gauge')}
            {field('error', 'It reads off by up to ±')}
          </div>
          <div className="grid grid-cols-2 gap-x-4">
            {field('low', 'Window from')}
            {field('high', 'Window to')}
          </div>
          {field('target', 'Aim at', 'Empty: the middle of the window.')}
          {field('fitted', 'Fitted now', 'Empty: nothing.')}
          <Choice label="A thicker piece" value={fields.effect} onChange={set('effect')} options={EFFECTS} />
          <Area
            label="Sizes there are"
            hint="With spaces between, or one a line."
            rows={3}
            value={fields.sizes}
            onChange={set('sizes')}
            fault={fault('sizes')}
          />
          <div className="grid grid-cols-2 gap-x-4">
            {field('tolerance', 'A size is off by up to ±')}
            <Field
              label="Most pieces"
              numeric
              value={fields.most}
              onChange={set('most')}
              fault={bad ? 'From 1 to 8.' : fault('most_pieces')}
            />
          </div>
        </>
      }
    >
      {data && !bad && (
        <>
          <Big figure={show(data.wanted.thickness_nm, unit)} id="wanted">
            {u} wanted
          </Big>
          {data.wanted.thickness_nm < 0 && (
            <p className="mt-1 text-lg font-bold text-oxide">
              △ Even with no piece at all it is too tight: something else has to give.
            </p>
          )}
          {data.read.readings === 1 && (
            <p className="mt-1 text-dim">
              One reading says nothing of its own scatter: a step of the gauge stands for it.
            </p>
          )}
          <ErrorLeftOut error={fields.error} />
          <div className="mt-3">
            <Working lines={data.wanted.working} />
          </div>
          {data.choices && <Ranked choices={data.choices} window={data.window} />}
          <PutOnLog
            said={`Piece wanted: measured ${fields.readings}, ${show(data.wanted.thickness_nm, unit)} ${u} wanted${
              best ? `; ${piecesText(best.pieces, unit)} ${u} gives ${words(best.predicted_nm, unit)}` : ''
            }.`}
          />
        </>
      )}
    </Layout>
  )
}

const words = (nm: number, unit: 'thou' | 'mm' | 'um') => {
  const c = clearance(nm, unit)
  return c.word === 'nil' ? 'nil' : `${c.figure} ${c.word}`
}

function Ranked({
  choices,
  window,
}: {
  choices: Schemas['Choices']
  window: Schemas['Ends'] | null | undefined
}) {
  const { unit } = useBench()
  if (choices.ranked.length === 0) return <p className="mt-3">None of these sizes can be fitted.</p>
  return (
    <div className="@container mt-4">
      <table className="w-full" aria-label="Choices">
        <thead>
          <tr>
            <th className="th">Fit, {unitName[unit]}</th>
            <th className="th">Gives</th>
            <th className="th">In window</th>
            <th className="th hidden w-1/3 @md:table-cell">
              <span className="sr-only">Where in the window</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {choices.ranked.map((c, i) => (
            <tr key={i} className={c.reaches_floor ? '' : 'text-dim'}>
              <td className="td figure font-bold">
                {piecesText(c.pieces, unit)}
                {c.pieces.length > 1 && <span className="text-dim"> = {showStated(c.total_nm, unit)}</span>}
              </td>
              <td className="td figure">{words(c.predicted_nm, unit)}</td>
              <td className="td figure">{percent(c.chance)}</td>
              <td className="td hidden @md:table-cell">
                {window && <SlotStrip window={window} pin={{ nm: c.predicted_nm, lands: c.lands }} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
