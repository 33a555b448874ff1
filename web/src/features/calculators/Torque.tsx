// Turning torque from a spring scale at a radius, in every unit.
import { answer, server } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Working } from '../../ui/Parts'
import { Area, Field } from '../../ui/Field'
import { Big, ErrorLeftOut, Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { torqueName } from './torque-units'
import { figureOf, useFields, useSum } from './fields'

const callWords: Record<Schemas['Call'], string> = {
  in: 'in the window',
  tight: 'turns too hard',
  loose: 'turns too easily',
  too_close: 'too close to call',
  failed: 'not as it should be',
}

export function Torque() {
  const { fields, set } = useFields({
    pulls: '14 N\n15 N\n14.5 N',
    radius: '75 mm',
    step: '0.5',
    error: '0.5',
    low: '',
    high: '',
  })
  const [step, error_n, low, high] = [fields.step, fields.error, fields.low, fields.high].map(figureOf)
  const bad =
    Number.isNaN(step) || step === null
      ? 'step'
      : Number.isNaN(error_n)
        ? 'error'
        : Number.isNaN(low)
          ? 'low'
          : Number.isNaN(high)
            ? 'high'
            : ''
  const { data, error, fault } = useSum('torque', fields, (unit) =>
    answer(
      server.POST('/api/calc/pull', {
        body: {
          pulls: fields.pulls,
          radius: fields.radius,
          step_n: bad ? 1 : (step ?? 1),
          error_n: bad ? 0 : (error_n ?? 0),
          low_n_m: bad ? null : (low ?? null),
          high_n_m: bad ? null : (high ?? null),
          unit,
        },
      }),
    ),
  )
  const field = (name: keyof typeof fields, label: string, of: string = name, hint?: string) => (
    <Field
      label={label}
      value={fields[name]}
      onChange={set(name)}
      hint={hint}
      fault={bad === name ? 'A figure, such as 0.5.' : fault(of)}
    />
  )
  return (
    <Layout
      error={error}
      form={
        <>
          <Area
            label="Pulls, one a line"
            hint="Steady, once it turns. N, kgf or lbf; a bare figure is in newtons."
            rows={4}
            value={fields.pulls}
            onChange={set('pulls')}
            fault={fault('pulls')}
          />
          {field('radius', 'At a radius of')}
          <div className="grid grid-cols-2 gap-x-4">
            {field('step', 'Step of the scale, N', 'step_n')}
            {field('error', 'It reads off by up to ±, N', 'error_n')}
          </div>
          {field('low', 'Turning torque from, N·m', 'low_n_m')}
          {field('high', 'Turning torque to, N·m', 'high_n_m')}
        </>
      }
    >
      {data && !bad && (
        <>
          <Big figure={data.found.torque_n_m.toFixed(2)} id="torque">
            N·m{data.judged && `: ${callWords[data.found.call]}`}
          </Big>
          <ErrorLeftOut error={fields.error} />
          <table className="my-3" aria-label="The torque in every unit">
            <tbody>
              {data.torques.map((t) => (
                <tr key={t.unit}>
                  <td className="td figure text-right">{t.figure.toPrecision(4)}</td>
                  <td className="td">{torqueName[t.unit]}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Working lines={data.found.working} />
          <PutOnLog
            said={`Turning torque: ${fields.pulls.replaceAll('\n', ', ')} at ${fields.radius}: ${data.found.torque_n_m.toFixed(2)} N·m${data.judged ? `, ${callWords[data.found.call]}` : ''}.`}
          />
        </>
      )}
    </Layout>
  )
}
