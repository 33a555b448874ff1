// Loose needle rollers round a shaft: how many, and the gap they leave, with the row drawn.
import { answer, server } from '../../api/client'
import { RollerRing } from '../../charts/RollerRing'
import { Trouble, Working } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { Field } from '../../ui/Field'
import { PutOnLog } from './PutOnLog'
import { useFields, useSum } from './fields'

export function Rollers() {
  const { unit } = useBench()
  const { fields, set } = useFields({ shaft: '22.4 mm', roller: '3.5 mm', rows: '2', count: '' })
  const whole = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text) : NaN)
  const rows = whole(fields.rows)
  const count = fields.count.trim() === '' ? null : whole(fields.count)
  const bad = Number.isNaN(rows) ? 'rows' : Number.isNaN(count) ? 'count' : ''
  const { data, error, fault } = useSum('rollers', fields, (unit) =>
    answer(
      server.POST('/api/calc/rollers', {
        body: { shaft: fields.shaft, roller: fields.roller, rows: rows || 0, count, unit },
      }),
    ),
  )
  const wrong = (field: string) => (bad === field ? 'Whole pieces, such as 2.' : fault(field))
  const row = bad ? undefined : data
  return (
    <div className="grid gap-x-10 lg:grid-cols-[22rem_1fr]">
      <form onSubmit={(e) => e.preventDefault()}>
        <Field label="Shaft diameter" value={fields.shaft} onChange={set('shaft')} fault={wrong('shaft')} />
        <Field
          label="Roller diameter"
          value={fields.roller}
          onChange={set('roller')}
          fault={wrong('roller')}
        />
        <Field label="Rows" numeric value={fields.rows} onChange={set('rows')} fault={wrong('rows')} />
        <Field
          label="Rollers counted in a row"
          hint="Empty for as many as fit."
          numeric
          value={fields.count}
          onChange={set('count')}
          fault={wrong('count')}
        />
      </form>
      <section aria-label="Answer">
        {error && !error.problem.field && <Trouble error={error} />}
        {row && (
          <>
            <p className="text-2xl" aria-live="polite">
              <strong className="figure text-[3.2rem] leading-none" data-testid="most">
                {row.most}
              </strong>{' '}
              in a row; <strong className="figure">{row.in_all}</strong> to lay out in all.
            </p>
            <p className={`mt-1 text-lg ${row.one_missing ? 'font-bold text-oxide' : ''}`}>
              {row.one_missing
                ? `△ With ${row.count} in, there is room for ${row.most - row.count} more: one is missing.`
                : `They leave ${show(row.gap_nm, unit)} ${unitName[unit]} straight across.`}
            </p>
            <RollerRing row={row} />
            <Working lines={row.working} />
            <PutOnLog
              said={`Needle rows: ${fields.roller} rollers on ${fields.shaft}: ${row.most} fit; ${row.count} in a row, ${row.in_all} in all, none to be left over.`}
            />
          </>
        )}
      </section>
    </div>
  )
}
