// A stack sum with no job: what opens the gap, what fills it, and each term's share in the uncertainty.
import { answer, server } from '../../api/client'
import { Bars } from '../../charts/StackBars'
import { Area, Field } from '../../ui/Field'
import { ClearanceFound, Layout } from './Layout'
import { useFields, useSum } from './fields'

const START = `+ housing depth: 101.80 ± 0.03
+ cover spigot, gasket in: 0.35 ± 0.02
- front bearing: 22.50 ± 0.02
- shaft between shoulders: 58.30 ± 0.02
- race and spacer for a wide race: 17.2 + 3.6 ± 0.02`

export function Stack() {
  const { fields, set } = useFields({ terms: START, low: '', high: '' })
  const { data, error, fault } = useSum('stack', fields, (unit) =>
    answer(server.POST('/api/calc/stack', { body: { ...fields, unit } })),
  )
  return (
    <Layout
      error={error}
      form={
        <>
          <Area
            label="Terms, one a line"
            hint="+ opens the gap, - fills it; what it is, a colon, its length, and ± its limits. 17.2 + 3.6 is two parts for one."
            rows={9}
            value={fields.terms}
            onChange={set('terms')}
            fault={fault('terms')}
          />
          <Field label="Window from" value={fields.low} onChange={set('low')} fault={fault('low')} />
          <Field label="Window to" value={fields.high} onChange={set('high')} fault={fault('high')} />
        </>
      }
    >
      {data && (
        <ClearanceFound sum={data} said={`Stack sum (${fields.terms.replaceAll('\n', '; ')})`}>
          {data.detail.kind === 'sum' && <Bars sum={data.detail.sum} />}
        </ClearanceFound>
      )}
    </Layout>
  )
}
