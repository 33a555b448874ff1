// Depths round a circle, drawn where they were taken, with the tilt that was fitted to them.
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, unitName } from '../domain/units'

const C = 140
const R = 78

export function DepthRing({
  ring,
  called,
  proud,
  rock,
}: {
  ring: Schemas['Ring']
  called: boolean
  /** The bar lay on the part, and outward it stands the prouder. */
  proud?: boolean
  /** Travels over the quarters that a shaft was turned by. */
  rock?: boolean
}) {
  const { unit } = useBench()
  const u = unitName[unit]
  // Place 1 at the top, going round with the clock.
  const at = (deg: number, r: number) => {
    const t = ((deg - 90) * Math.PI) / 180
    return [C + r * Math.cos(t), C + r * Math.sin(t)] as const
  }
  // Outward is deeper; the largest departure drawn takes up the room there is.
  const most = Math.max(
    ring.rise_nm / 2,
    ...ring.places.map((p) => Math.abs(p.depth_nm - ring.mean_nm)),
    1_000,
  )
  const off = (nm: number) => ((nm - ring.mean_nm) / most) * 26
  const tilt = (deg: number) => (ring.rise_nm / 2) * Math.cos(((deg - ring.deepest_deg) * Math.PI) / 180)
  const plane = Array.from({ length: 73 }, (_, i) => at(i * 5, R + (tilt(i * 5) / most) * 26))
  const [dx, dy] = at(ring.deepest_deg, R - 40)
  const [ux, uy] = at(ring.deepest_deg + 180, R - 40)
  const stray = ring.places.filter((p) => p.stray).length
  const said = `${ring.places.length} ${rock ? 'travels over the quarters' : 'depths round a circle'}, mean ${show(ring.mean_nm, unit)} ${u}, rising ${show(ring.rise_nm, unit)} across it${stray ? `, ${stray} that does not belong` : ''}`
  return (
    <figure className="mt-4">
      <svg
        viewBox="-26 0 332 280"
        width="332"
        height="280"
        role="img"
        aria-label={said}
        className="mx-auto block h-auto max-w-full"
      >
        <circle cx={C} cy={C} r={R} fill="none" stroke="var(--line)" strokeWidth="1.5" />
        <path
          d={`M${plane.map((p) => p.map((v) => v.toFixed(1)).join(' ')).join('L')}Z`}
          fill="none"
          stroke={called ? 'var(--oxide)' : 'var(--blue)'}
          strokeWidth="2.5"
          strokeDasharray={called ? '6 4' : undefined}
        />
        {ring.rise_nm > 0 && (
          <>
            <line x1={ux} y1={uy} x2={dx} y2={dy} stroke="var(--dim)" strokeWidth="1.5" />
            <circle cx={dx} cy={dy} r="4" fill="var(--dim)" />
            <text
              x={C}
              y={C + 22}
              textAnchor="middle"
              fontSize="16"
              fill="var(--ink)"
              fontWeight="700"
              stroke="var(--paper)"
              strokeWidth="4"
              paintOrder="stroke"
            >
              {show(ring.rise_nm, unit)}
            </text>
            <text
              x={C}
              y={C + 38}
              textAnchor="middle"
              fontSize="13"
              fill="var(--dim)"
              stroke="var(--paper)"
              strokeWidth="4"
              paintOrder="stroke"
            >
              {u} of {rock ? 'rock, both ways' : 'tilt'}
            </text>
          </>
        )}
        {ring.places.map((p, i) => {
          const [x, y] = at(p.angle_deg, R + off(p.depth_nm))
          const [tx, ty] = at(p.angle_deg, R + 50)
          return (
            <g key={i}>
              {p.stray ? (
                <path
                  d={`M${x - 7} ${y - 7}L${x + 7} ${y + 7}M${x + 7} ${y - 7}L${x - 7} ${y + 7}`}
                  stroke="var(--oxide)"
                  strokeWidth="3.5"
                />
              ) : (
                <circle cx={x} cy={y} r="5" fill="var(--brass-line)" stroke="var(--ink)" strokeWidth="1.5" />
              )}
              <text
                x={tx}
                y={ty + 4}
                textAnchor="middle"
                fontSize="12.5"
                fill="var(--ink)"
                fontFamily="var(--font-mono)"
              >
                {show(p.depth_nm, unit)}
              </text>
            </g>
          )
        })}
        {ring.missing.map((place) => {
          const of = ring.places.length + ring.missing.length
          const [x, y] = at(((place - 1) * 360) / of, R)
          return (
            <circle key={place} cx={x} cy={y} r="5" fill="none" stroke="var(--dim)" strokeDasharray="2 2" />
          )
        })}
      </svg>
      <figcaption className="text-center text-sm text-dim">
        {rock
          ? 'Outward is more travel. Most'
          : proud
            ? 'Outward is prouder. Proudest'
            : 'Outward is deeper. Deepest'}{' '}
        at {ring.deepest_deg.toFixed(0)}° from {rock ? 'the first' : 'place 1'}.
      </figcaption>
    </figure>
  )
}
