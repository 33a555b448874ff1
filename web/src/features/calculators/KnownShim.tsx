// A preload by known shims: what each set-up gives, and whether they agree.
import { answer, server } from '../../api/client'
import { SetUps } from '../../charts/SetUps'
import { Area, Field } from '../../ui/Field'
import { ClearanceFound, ErrorLeftOut, Layout } from './Layout'
import { useFields, useSum } from './fields'

export function KnownShim() {
  const { fields, set } = useFields({
    set_ups: '7 thou: 2.6 thou\n9 thou: 4.6 thou',
    step: '0.1 thou',
    error: '0.2 thou',
    low: '-6.5 thou',
    high: '-2.5 thou',
  })
  const { data, error, fault } = useSum('known-shim', fields, (unit) =>
    answer(server.POST('/api/calc/known-shim', { body: { ...fields, unit } })),
  )
  const field = (name: keyof typeof fields, label: string, hint?: string) => (
    <Field label={label} value={fields[name]} onChange={set(name)} fault={fault(name)} hint={hint} />
  )
  return (
    <Layout
      error={error}
      form={
        <>
          <Area
            label="Shim in: float felt, one set-up a line"
            hint="The shim goes on the side that opens the gap. 0: 0 is nothing in, nothing felt. A single float is taken to scatter by a step of the gauge."
            value={fields.set_ups}
            onChange={set('set_ups')}
            fault={fault('set_ups')}
          />
          <div className="grid grid-cols-2 gap-x-4">
            {field('step', 'Step of the gauge')}
            {field('error', 'It reads off by up to ±')}
          </div>
          {field('low', 'Window from', 'Preload below zero.')}
          {field('high', 'Window to')}
        </>
      }
    >
      {data && (
        <ClearanceFound sum={data} said={`Known shim (${fields.set_ups.replaceAll('\n', '; ')})`}>
          <ErrorLeftOut error={fields.error} />
          {data.detail.kind === 'set_ups' && (
            <div className="max-w-xl">
              <SetUps setUps={data.detail.set_ups} />
            </div>
          )}
        </ClearanceFound>
      )}
    </Layout>
  )
}
