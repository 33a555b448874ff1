// Loose needle rollers round a shaft: how many, and the gap they leave, with the row drawn.
import { answer, server } from '../../api/client'
import type { Schemas } from '../../domain/schema'
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
            <Ring row={row} />
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

/** The row as it lies round the shaft, the gap at the top. */
function Ring({ row }: { row: Schemas['NeedleRow'] }) {
  const { unit } = useBench()
  const size = 300
  const pitch = row.pitch_nm / 2
  // A roller's radius from the step: the pitch circle's chord from one to the next is its diameter.
  const roller = pitch * Math.sin(row.step_rad / 2)
  const scale = (size / 2 - 12) / (pitch + roller)
  const open = 2 * Math.PI - (row.count - 1) * row.step_rad
  const at = (i: number) => {
    const angle = -Math.PI / 2 + open / 2 + i * row.step_rad
    return [size / 2 + pitch * scale * Math.cos(angle), size / 2 + pitch * scale * Math.sin(angle)] as const
  }
  return (
    <svg
      width={size}
      height={size}
      role="img"
      className="my-3 max-w-full"
      aria-label={`${row.count} rollers round the shaft, ${show(row.gap_nm, unit)} ${unitName[unit]} left between the first and the last`}
    >
      <circle
        cx={size / 2}
        cy={size / 2}
        r={(pitch - roller) * scale}
        fill="var(--steel)"
        stroke="var(--ink)"
        strokeWidth="2"
      />
      {Array.from({ length: Math.min(row.count, 400) }, (_, i) => {
        const [x, y] = at(i)
        const end = i === 0 || i === row.count - 1
        return (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={roller * scale}
            fill={end ? 'var(--blue-soft)' : 'var(--card)'}
            stroke="var(--ink)"
            strokeWidth={end ? 2.5 : 1.2}
          />
        )
      })}
      <text
        x={size / 2}
        y={size / 2 + 6}
        textAnchor="middle"
        fontSize="18"
        fontWeight="700"
        fill="var(--ink)"
      >
        shaft
      </text>
    </svg>
  )
}
