// A clearance hot and cold, from what lies side by side across it.
import { answer, server } from '../../api/client'
import { HotLine, HotSaid } from '../../charts/HotPlot'
import { Working } from '../../ui/Parts'
import { Area, Field } from '../../ui/Field'
import { Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { useFields, useSum } from './fields'

export function Hot() {
  const { fields, set } = useFields({
    clearance: '-0.06 mm',
    case: 'aluminium: 300 mm',
    inside: 'steel: 300 mm',
    low: '',
    high: '',
  })
  const { data, error, fault } = useSum('hot', fields, (unit) =>
    answer(server.POST('/api/calc/hot', { body: { ...fields, unit } })),
  )
  return (
    <Layout
      error={error}
      form={
        <>
          <Field
            label="Clearance at 20 °C"
            hint="Preload below zero."
            value={fields.clearance}
            onChange={set('clearance')}
            fault={fault('clearance')}
          />
          <Area
            label="The case along it, one a line"
            hint="Material, a colon, its length: aluminium, magnesium, cast iron, steel, bronze."
            rows={3}
            value={fields.case}
            onChange={set('case')}
            fault={fault('case')}
          />
          <Area
            label="What it holds, one a line"
            rows={3}
            value={fields.inside}
            onChange={set('inside')}
            fault={fault('inside')}
          />
          <Field label="Window from" value={fields.low} onChange={set('low')} fault={fault('low')} />
          <Field label="Window to" value={fields.high} onChange={set('high')} fault={fault('high')} />
        </>
      }
    >
      {data && (
        <>
          <p className="text-2xl first-letter:uppercase" aria-live="polite">
            <HotSaid line={data} />
          </p>
          <div className="my-3 max-w-3xl">
            <HotLine line={data} window={data.window} />
          </div>
          <Working lines={data.working} />
          <PutOnLog
            said={`Hot and cold: ${fields.clearance} at 20 °C, case ${fields.case.replaceAll('\n', ' + ')}, inside ${fields.inside.replaceAll('\n', ' + ')}: ${
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
