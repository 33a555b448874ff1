// A planet carrier with its pinions: the end play of each where it sits, and all of them beside one another.
import type { CheckView, Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, unitName } from '../domain/units'

const SIZE = 300
const R = 96
const PINION = 44

export function Carrier({ check, found }: { check: CheckView; found: Schemas['PinionsFound'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const { low_nm, high_nm } = check.window
  const places = Array.from({ length: found.count }, (_, i) => {
    const angle = (2 * Math.PI * i) / found.count - Math.PI / 2
    return {
      no: i + 1,
      x: SIZE / 2 + R * Math.cos(angle),
      y: SIZE / 2 + R * Math.sin(angle),
      own: found.each.find((e) => e.pinion === i + 1),
    }
  })
  const stateOf = (nm: number) =>
    low_nm != null && nm < low_nm ? 'tight' : high_nm != null && nm > high_nm ? 'loose' : 'in'
  const said = places.map(({ no, own }) =>
    own ? `pinion ${no} ${show(own.play_nm, unit)} ${u}, ${stateOf(own.play_nm)}` : `pinion ${no} not yet`,
  )
  const radius = Math.min(PINION, (Math.PI * R) / found.count - 3)
  return (
    <figure className="mt-4">
      <svg
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        className="mx-auto block w-full max-w-xs"
        role="img"
        aria-label={`Carrier: ${said.join('; ')}`}
      >
        <circle
          cx={SIZE / 2}
          cy={SIZE / 2}
          r={R + radius + 6}
          fill="var(--steel)"
          stroke="var(--ink)"
          strokeWidth="2"
        />
        <circle cx={SIZE / 2} cy={SIZE / 2} r={26} fill="var(--paper)" stroke="var(--ink)" strokeWidth="2" />
        {places.map(({ no, x, y, own }) => {
          const state = own && stateOf(own.play_nm)
          const odd = found.odd === no
          return (
            <g key={no}>
              <circle
                cx={x}
                cy={y}
                r={radius}
                fill={own ? 'var(--paper)' : 'none'}
                stroke={odd || (state && state !== 'in') ? 'var(--oxide)' : 'var(--ink)'}
                strokeWidth={odd ? 5 : 2.5}
                strokeDasharray={own ? undefined : '5 5'}
              />
              <text x={x} y={y - 9} textAnchor="middle" fontSize="14" fill="var(--dim)">
                {no}
              </text>
              <text
                x={x}
                y={y + 12}
                textAnchor="middle"
                fontSize={radius > 34 ? 19 : 14}
                fontWeight="700"
                fill="var(--ink)"
                className="figure"
              >
                {own ? show(own.play_nm, unit) : '–'}
              </text>
              {(odd || (state && state !== 'in')) && (
                <text x={x} y={y + 28} textAnchor="middle" fontSize="12" fontWeight="700" fill="var(--oxide)">
                  {state !== 'in' ? `△ ${state ?? ''}` : '△ odd'}
                </text>
              )}
            </g>
          )
        })}
      </svg>
      <figcaption className={found.alike === 'in' ? 'text-dim' : 'font-semibold'}>
        Loosest less tightest {show(found.spread_nm, unit)} {u}; alike up to {show(found.alike_nm, unit)} {u}.
      </figcaption>
    </figure>
  )
}
