// A ring gear seen on its teeth, with the backlash at each place where it was taken.
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, unitName } from '../domain/units'

const SIZE = 300
const C = SIZE / 2
const OUTER = 142
const INNER = 104
const TEETH = 40

const at = (radius: number, turn: number) => {
  const angle = 2 * Math.PI * turn - Math.PI / 2
  return [C + radius * Math.cos(angle), C + radius * Math.sin(angle)] as const
}

export function RingGear({ found }: { found: Schemas['BacklashFound'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const plays = found.each.map((e) => e.play_nm)
  const [least, most] = [Math.min(...plays), Math.max(...plays)]
  const places = Array.from({ length: found.places }, (_, i) => ({
    no: i + 1,
    turn: i / found.places,
    own: found.each.find((e) => e.place === i + 1),
  }))
  const extreme = (nm: number) =>
    least === most ? '' : nm === most ? 'widest' : nm === least ? 'narrowest' : ''
  const said = places.map(({ no, own }) =>
    own
      ? `place ${no} ${show(own.play_nm, unit)} ${u} ${extreme(own.play_nm)}`.trim()
      : `place ${no} not yet`,
  )
  const out = found.true_running !== 'in'
  return (
    <figure className="mt-4">
      <svg
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        className="mx-auto block w-full max-w-xs"
        role="img"
        aria-label={`Ring gear: ${said.join('; ')}`}
      >
        <circle cx={C} cy={C} r={OUTER} fill="var(--steel)" stroke="var(--ink)" strokeWidth="2" />
        {Array.from({ length: TEETH }, (_, i) => {
          // The teeth of a bevel gear run inwards at a slant.
          const [x1, y1] = at(OUTER, i / TEETH)
          const [x2, y2] = at(INNER, (i + 0.45) / TEETH)
          return <line key={i} {...{ x1, y1, x2, y2 }} stroke="var(--steel-line)" strokeWidth="3" />
        })}
        <circle cx={C} cy={C} r={INNER} fill="var(--paper)" stroke="var(--ink)" strokeWidth="2" />
        {places.map(({ no, turn, own }) => {
          const [x1, y1] = at(OUTER, turn)
          const [x2, y2] = at(INNER - 8, turn)
          const [x, y] = at(INNER - 48, turn)
          const word = own && extreme(own.play_nm)
          return (
            <g key={no}>
              <line
                {...{ x1, y1, x2, y2 }}
                stroke={word && out ? 'var(--oxide)' : 'var(--ink)'}
                strokeWidth="5"
                strokeDasharray={own ? undefined : '4 4'}
              />
              <text x={x} y={y - 11} textAnchor="middle" fontSize="13" fill="var(--dim)">
                {no}
              </text>
              <text
                x={x}
                y={y + 8}
                textAnchor="middle"
                fontSize={found.places > 8 ? 13 : 18}
                fontWeight="700"
                fill="var(--ink)"
                className="figure"
              >
                {own ? show(own.play_nm, unit) : '–'}
              </text>
              {word && found.places <= 8 && (
                <text x={x} y={y + 23} textAnchor="middle" fontSize="12" fill="var(--dim)">
                  {word}
                </text>
              )}
            </g>
          )
        })}
      </svg>
      <figcaption className={out ? 'font-semibold' : 'text-dim'}>
        Run-out {show(found.run_out_nm, unit)} {u}, up to {show(found.allowed_nm, unit)} {u}
        {found.true_running === 'failed' ? ': too much.' : out ? ': too close to call.' : '.'}
      </figcaption>
    </figure>
  )
}
