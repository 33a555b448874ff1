// How hot a bore, or how cold a part, for one to drop into the other; both drawn against temperature.
import { scale } from '../../charts/axis'
import { answer, server } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Cautions, Trouble, Working } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { useWidth } from '../../ui/width'
import { Choice, Field } from '../../ui/Field'
import { PutOnLog } from './PutOnLog'
import { figureOf, useFields, useSum } from './fields'

type Material = Schemas['Material']
type Fitted = Schemas['Fitted']

const materials: [Material, string][] = [
  ['aluminium', 'Aluminium, 23'],
  ['magnesium', 'Magnesium, 26'],
  ['cast_iron', 'Cast iron, 10.8'],
  ['steel', 'Steel, 11.7'],
  ['bronze', 'Bronze, 18'],
]

export function HeatFit() {
  const { unit } = useBench()
  const { fields, set } = useFields({
    bore: '61.97 mm',
    bore_of: 'aluminium',
    part: '62.00 mm',
    part_of: 'steel',
    clearance: '0.05 mm',
    part_c: '20',
    limit_c: '120',
  })
  const degrees = (text: string) => figureOf(text) ?? NaN
  const part_c = degrees(fields.part_c)
  const limit_c = degrees(fields.limit_c)
  const bad = Number.isNaN(part_c) ? 'part_c' : Number.isNaN(limit_c) ? 'limit_c' : ''
  const { data, error, fault } = useSum('heat-fit', fields, (unit) =>
    answer(
      server.POST('/api/calc/heat-fit', {
        body: {
          bore: fields.bore,
          part: fields.part,
          clearance: fields.clearance,
          bore_of: fields.bore_of as Material,
          part_of: fields.part_of as Material,
          part_c: part_c || 0,
          limit_c: limit_c || 0,
          unit,
        },
      }),
    ),
  )
  const wrong = (field: string) => (bad === field ? 'Degrees, such as −18 or 120.' : fault(field))
  const fit = bad ? undefined : data
  return (
    <div className="grid gap-x-10 lg:grid-cols-[22rem_1fr]">
      <form onSubmit={(e) => e.preventDefault()}>
        <Field label="Bore at 20 °C" value={fields.bore} onChange={set('bore')} fault={wrong('bore')} />
        <Choice
          label="Round the bore (10⁻⁶/K)"
          value={fields.bore_of}
          onChange={set('bore_of')}
          options={materials}
        />
        <Field label="Part at 20 °C" value={fields.part} onChange={set('part')} fault={wrong('part')} />
        <Choice
          label="The part (10⁻⁶/K)"
          value={fields.part_of}
          onChange={set('part_of')}
          options={materials}
        />
        <Field
          label="Clearance to drop in"
          hint="On the diameter."
          value={fields.clearance}
          onChange={set('clearance')}
          fault={wrong('clearance')}
        />
        <Field
          label="The part is at, °C"
          value={fields.part_c}
          onChange={set('part_c')}
          fault={wrong('part_c')}
        />
        <Field
          label="Never hotter than, °C"
          hint="120 keeps bearings and seals."
          value={fields.limit_c}
          onChange={set('limit_c')}
          fault={wrong('limit_c')}
        />
      </form>
      <section aria-label="Answer">
        {error && !error.problem.field && <Trouble error={error} />}
        {fit && (
          <>
            <p className="text-2xl" aria-live="polite" data-testid="bore-at">
              {fit.bore_c == null ? (
                'It drops in as it is.'
              ) : (
                <>
                  Bore at <strong className="figure text-[3.2rem] leading-none">{fit.bore_c}</strong> °C
                </>
              )}
            </p>
            {fit.too_hot && (
              <p className="mt-1 text-lg font-bold text-oxide">
                △ Hotter than {fields.limit_c} °C: chill the part as well, or be content with less clearance.
              </p>
            )}
            <p className="mt-1 text-dim">
              {fit.interference_nm > 0 ? 'Tight' : 'Loose'} by {show(Math.abs(fit.interference_nm), unit)}{' '}
              {unitName[unit]} at 20 °C.{' '}
              {fit.bore_alone_c != null && `The bore alone: ${fit.bore_alone_c} °C. `}
              {fit.part_alone_c != null && `The part alone: ${fit.part_alone_c} °C. `}
              {fit.bore_c != null && 'Whole degrees, to the side that lets it drop in.'}
            </p>
            <Plot fit={fit} partAt={part_c} limit={limit_c} />
            <Working lines={fit.working} />
            <Cautions of={fit.cautions} />
            <PutOnLog
              said={`Heat fit: bore ${fields.bore}, part ${fields.part} at ${fields.part_c} °C, ${fields.clearance} to drop in: ${fit.bore_c == null ? 'drops in as it is' : `bore at ${fit.bore_c} °C`}.`}
            />
          </>
        )}
      </section>
    </div>
  )
}

const HIGH = 260
const LEFT = 70

/** Bore and part as they grow; where the bore is so much above the part, it drops in. */
function Plot({ fit, partAt, limit }: { fit: Fitted; partAt: number; limit: number }) {
  const { unit } = useBench()
  const { ref, width } = useWidth<HTMLDivElement>(720, 280)
  const boreAt = fit.bore_c ?? 20
  const cold = Math.min(partAt, 20, -20)
  const hot = Math.max(boreAt, limit, partAt, 100) + 10
  // Both as grown beyond the bore at 20 °C.
  const bore = (c: number) => fit.bore_per_k_nm * (c - 20)
  const part = (c: number) => fit.interference_nm + fit.part_per_k_nm * (c - 20)
  const all = [bore(cold), bore(hot), part(cold), part(hot)]
  const [least, most] = [Math.min(...all), Math.max(...all)]
  const x = scale(cold, hot, LEFT, width - 16)
  const y = scale(most, least, 24, HIGH - 40)
  const line = (of: (c: number) => number) => ({
    x1: x(cold),
    y1: y(of(cold)),
    x2: x(hot),
    y2: y(of(hot)),
  })
  const ticks = x.ticks(8)
  return (
    <div ref={ref} className="my-3">
      <svg
        width={width}
        height={HIGH}
        role="img"
        className="block max-w-full"
        aria-label={`Diameter against temperature: the bore at ${boreAt} °C, the part at ${partAt} °C`}
      >
        {limit < hot && (
          <>
            <rect x={x(limit)} y={16} width={x(hot) - x(limit)} height={HIGH - 56} fill="var(--brass-soft)" />
            <text x={x(limit) + 4} y={HIGH - 46} fontSize="13" fill="var(--brass)">
              too hot
            </text>
          </>
        )}
        {ticks.map((c) => (
          <g key={c}>
            <line x1={x(c)} x2={x(c)} y1={HIGH - 40} y2={HIGH - 34} stroke="var(--dim)" />
            <text
              x={x(c)}
              y={HIGH - 18}
              textAnchor="middle"
              fontSize="13"
              fill="var(--dim)"
              className="figure"
            >
              {c}
            </text>
          </g>
        ))}
        {[least, 0, most].map((nm) => (
          <text
            key={nm}
            x={LEFT - 8}
            y={y(nm) + 5}
            textAnchor="end"
            fontSize="13"
            fill="var(--dim)"
            className="figure"
          >
            {nm > 0 ? '+' : ''}
            {show(nm, unit)}
          </text>
        ))}
        <line x1={LEFT} x2={width - 16} y1={y(0)} y2={y(0)} stroke="var(--line)" />
        <line {...line(bore)} stroke="var(--blue)" strokeWidth="3.5" />
        <line {...line(part)} stroke="var(--ink)" strokeWidth="3" strokeDasharray="9 6" />
        <line
          x1={x(boreAt)}
          x2={x(boreAt)}
          y1={y(bore(boreAt))}
          y2={y(part(partAt))}
          stroke="var(--oxide)"
          strokeWidth="2"
        />
        <circle cx={x(boreAt)} cy={y(bore(boreAt))} r="6" fill="var(--blue)" />
        <circle cx={x(partAt)} cy={y(part(partAt))} r="6" fill="var(--ink)" />
        <line
          x1={x(partAt)}
          x2={x(boreAt)}
          y1={y(part(partAt))}
          y2={y(part(partAt))}
          stroke="var(--oxide)"
          strokeDasharray="2 4"
        />
        <text x={LEFT} y={14} fontSize="13" fill="var(--dim)">
          {unitName[unit]} beyond the bore at 20 °C: bore solid, part dashed; °C along
        </text>
      </svg>
    </div>
  )
}
