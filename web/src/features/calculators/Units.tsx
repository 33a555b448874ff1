// A length and a torque in every unit of the bench.
import { answer, server } from '../../api/client'
import { Trouble } from '../../ui/Parts'
import { show } from '../../domain/units'
import { Choice, Field } from '../../ui/Field'
import { PutOnLog } from './PutOnLog'
import { torques, type TorqueUnit } from './torque-units'
import { figureOf, useFields, useSum } from './fields'

export function Units() {
  const { fields, set } = useFields({ length: '25/32 in', torque: '30', torque_unit: 'pound_foot' })
  const torque = figureOf(fields.torque)
  const bad = Number.isNaN(torque)
  const { data, error, fault } = useSum('units', fields, (unit) =>
    answer(
      server.POST('/api/calc/units', {
        body: {
          length: fields.length,
          unit,
          torque: bad ? null : torque,
          torque_unit: fields.torque_unit as TorqueUnit,
        },
      }),
    ),
  )
  const nm = data?.length_nm
  const lengths =
    nm == null
      ? []
      : ([
          ['millimetres', show(nm, 'mm', 3)],
          ['thou (1/1000 inch)', show(nm, 'thou', 2)],
          ['micrometres', show(nm, 'um', 1)],
          ['inches', (nm / 25.4e6).toFixed(5)],
        ] as const)
  const f = data?.fraction
  return (
    <div className="grid gap-x-10 lg:grid-cols-[22rem_1fr]">
      <form onSubmit={(e) => e.preventDefault()}>
        <Field
          label="Length"
          hint="Any way you write it: 25/32 in, 6 1/2 thou, 0,15 mm."
          value={fields.length}
          onChange={set('length')}
          fault={fault('length')}
        />
        <Field
          label="Torque"
          value={fields.torque}
          onChange={set('torque')}
          fault={bad ? 'A torque is a figure, such as 42.5.' : fault('torque')}
        />
        <Choice label="In" value={fields.torque_unit} onChange={set('torque_unit')} options={torques} />
      </form>
      <section aria-label="Answer">
        {error && !error.problem.field && <Trouble error={error} />}
        {lengths.length > 0 && (
          <table className="w-full max-w-xl">
            <caption className="sr-only">The length in every unit</caption>
            <tbody>
              {lengths.map(([name, figure]) => (
                <tr key={name}>
                  <td className="td">{name}</td>
                  <td className="td figure text-right text-xl font-semibold">{figure}</td>
                </tr>
              ))}
              {f && (
                <tr>
                  <td className="td">nearest 1/64 inch</td>
                  <td className="td figure text-right text-xl font-semibold">
                    {[f.whole > 0 || f.parts === 0 ? f.whole : '', f.parts > 0 ? `${f.parts}/${f.of}` : '']
                      .filter((part) => part !== '')
                      .join(' ')}
                    {f.over_nm !== 0 && (
                      <span className="block text-base font-normal text-dim">
                        {f.over_nm > 0 ? 'and' : 'less'} {show(Math.abs(f.over_nm), 'thou', 1)} thou
                      </span>
                    )}
                  </td>
                </tr>
              )}
            </tbody>
          </table>
        )}
        {data && data.torques.length > 0 && (
          <table className="mt-6 w-full max-w-xl">
            <caption className="sr-only">The torque in every unit</caption>
            <tbody>
              {data.torques.map((t) => (
                <tr key={t.unit}>
                  <td className="td">{torques.find(([key]) => key === t.unit)?.[1]}</td>
                  <td className="td figure text-right text-xl font-semibold">{t.figure.toFixed(3)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {data && (
          <PutOnLog
            said={`Units: ${[
              nm != null && `${fields.length} is ${show(nm, 'mm', 1)} mm`,
              data.torques[0] &&
                `${fields.torque} ${torques.find(([key]) => key === fields.torque_unit)?.[1] ?? ''} is ${data.torques[0].figure.toFixed(2)} N·m`,
            ]
              .filter(Boolean)
              .join('; ')}.`}
          />
        )}
      </section>
    </div>
  )
}
