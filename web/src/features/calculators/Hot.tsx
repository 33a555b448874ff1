// A clearance hot and cold, from what lies side by side across it.
import { answer, server } from '../../api/client'
import { HotLine, HotSaid } from '../../charts/HotPlot'
import { markWords } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { clearance, unitName, windowWords } from '../../domain/units'
import { Working } from '../../ui/Parts'
import { Area, Field } from '../../ui/Field'
import { Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { figureOf, useFields, useSum } from './fields'

export function Hot() {
  const { fields, set } = useFields({
    clearance: '-0.06 mm',
    bench_c: '20',
    case: 'aluminium: 282 mm',
    inside: 'steel: 282 mm',
    case_c: '',
    inside_c: '',
    low: '',
    high: '',
  })
  const warmth = {
    bench_c: figureOf(fields.bench_c),
    case_c: figureOf(fields.case_c),
    inside_c: figureOf(fields.inside_c),
  }
  const bad = Object.entries(warmth).find(([, c]) => Number.isNaN(c))?.[0]
  const { data, error, fault } = useSum('hot', fields, (unit) =>
    answer(server.POST('/api/calc/hot', { body: { ...fields, ...warmth, unit } })),
  )
  const wrong = (field: string) => (bad === field ? 'Degrees, such as −5 or 85.' : fault(field))
  return (
    <Layout
      error={error}
      form={
        <>
          <Field
            label="Clearance as measured"
            hint="Preload below zero."
            value={fields.clearance}
            onChange={set('clearance')}
            fault={wrong('clearance')}
          />
          <Field
            label="The bench was at, °C"
            value={fields.bench_c}
            onChange={set('bench_c')}
            fault={wrong('bench_c')}
          />
          <Area
            label="The case along it, one a line"
            hint="Material, a colon, its length: aluminium, magnesium, cast iron, steel, bronze."
            rows={3}
            value={fields.case}
            onChange={set('case')}
            fault={wrong('case')}
          />
          <Area
            label="What it holds, one a line"
            rows={3}
            value={fields.inside}
            onChange={set('inside')}
            fault={wrong('inside')}
          />
          <Field
            label="The case gets to, °C"
            hint="Empty: only where both are alike."
            value={fields.case_c}
            onChange={set('case_c')}
            fault={wrong('case_c')}
          />
          <Field
            label="What it holds gets to, °C"
            value={fields.inside_c}
            onChange={set('inside_c')}
            fault={wrong('inside_c')}
          />
          <Field
            label={`Window ${data?.there ? 'there' : 'at 20 °C'}, from`}
            value={fields.low}
            onChange={set('low')}
            fault={wrong('low')}
          />
          <Field label="Window to" value={fields.high} onChange={set('high')} fault={wrong('high')} />
        </>
      }
    >
      {data && !bad && (
        <>
          <p className="text-2xl first-letter:uppercase" aria-live="polite">
            <HotSaid line={data} />
          </p>
          {data.there && <There there={data.there} />}
          <div className="my-3 max-w-3xl">
            <HotLine line={data} window={data.there ? null : data.window} />
          </div>
          <Working lines={data.working} />
          <PutOnLog
            said={`Hot and cold: ${fields.clearance} at ${fields.bench_c || 20} °C, case ${fields.case.replaceAll('\n', ' + ')}, inside ${fields.inside.replaceAll('\n', ' + ')}: ${
              data.nil_at_c == null
                ? `there from ${data.from_c} to ${data.to_c} °C`
                : `gone at ${data.nil_at_c.toFixed(0)} °C`
            }.`}
          />
        </>
      )}
    </Layout>
  )
}

/** At the two temperatures asked for, and what it has to be cold to land in the window there. */
function There({ there }: { there: Schemas['HotThere'] }) {
  const { unit } = useBench()
  const { figure, word } = clearance(there.clearance_nm, unit)
  return (
    <p className="mt-2 border-l-4 border-blue bg-card px-3 py-2" data-testid="there">
      With the case at {there.case_c} °C and what it holds at {there.inside_c} °C it is{' '}
      <strong>
        {figure} {unitName[unit]} {word}
      </strong>
      {there.lands && `: ${there.lands === 'in' ? 'in the window' : markWords[there.lands]}`}.
      {there.cold && ` To land in it there it is set, at 20 °C, within ${windowWords(there.cold, unit)}.`} The
      case is taken as rigid; a preload stretches it a little.
    </p>
  )
}
