// The selector's positions in a line or a ring: where it stands, where it is wanted, where it goes after.
import type { Schemas } from '../domain/schema'

export function SelectorDial({ of }: { of: Schemas['SelectorStands'] }) {
  const place = (name: string | null | undefined) => (name == null ? -1 : of.names.indexOf(name))
  const now = place(of.now)
  const wanted = place(of.wanted)
  const step = 76
  const width = (of.names.length - 1) * step + 80
  const x = (i: number) => 40 + i * step
  const says = [
    of.now ? `stands in ${of.now}` : 'not known where it stands',
    of.wanted && `wanted in ${of.wanted}`,
    of.then && `then in ${of.then}`,
  ].filter(Boolean)
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Selector, wide">
      <svg width={width} height="66" role="img" aria-label={`Selector: ${says.join(', ')}`}>
        <path d={`M40 24H${width - 40}`} stroke="var(--steel-line)" strokeWidth="4" />
        {now >= 0 && wanted >= 0 && now !== wanted && (
          <path d={`M${x(now)} 24H${x(wanted)}`} stroke="var(--blue)" strokeWidth="6" />
        )}
        {of.names.map((name, i) => (
          <g key={name}>
            <circle
              cx={x(i)}
              cy="24"
              r={i === wanted ? 14 : 9}
              fill={i === now ? 'var(--ink)' : 'var(--paper)'}
              stroke={i === wanted ? 'var(--blue)' : 'var(--ink)'}
              strokeWidth={i === wanted ? 5 : 2}
            />
            <text
              x={x(i)}
              y="60"
              textAnchor="middle"
              fontSize="14"
              fontWeight={i === wanted || i === now ? 700 : 400}
              fill="var(--ink)"
            >
              {name}
            </text>
          </g>
        ))}
      </svg>
    </div>
  )
}
