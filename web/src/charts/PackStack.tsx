// A clutch pack in its drum, cut through: the piston at the left, every plate to scale by its thickness, the
// clearance left open before the snap ring.
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { clearance, showStated, unitName } from '../domain/units'
import { useWidth } from '../ui/width'
import { Named } from './Named'

type Kind = Schemas['PartKind']

const HIGH = 190
const TOP = 44
const EDGE = 34

export function PackStack({
  pack,
  faults = pack.faults,
}: {
  pack: Schemas['DrawnPack']
  faults?: Schemas['PackFault'][]
}) {
  const { unit } = useBench()
  const { ref, width } = useWidth<HTMLDivElement>(760, 280)
  const gap = Math.max(pack.clearance_nm, 0)
  const filled = pack.plates.at(-1)?.to_nm ?? 0
  const whole = Math.max(filled + gap, 1)
  // A gap is opened so that it can be seen, whatever its real size.
  const opening = Math.max((gap / whole) * (width - 2 * EDGE), 22)
  const scale = (width - 2 * EDGE - opening) / Math.max(filled, 1)
  // What holds the pack in stands at the drum's rim, the gap before it.
  const held = pack.plates.findIndex((p) => p.kind === 'snap_ring')
  const cut = held < 0 ? pack.plates.length : held
  const x = (nm: number, i: number) => EDGE + nm * scale + (i >= cut ? opening : 0)
  const gapAt = EDGE + (pack.plates[cut - 1]?.to_nm ?? 0) * scale
  const c = clearance(pack.clearance_nm, unit, true)
  const counted = `${many(pack.frictions, 'friction')}, ${many(pack.steels, 'steel')}`
  const words = `${pack.name || 'Pack'}: ${counted}; the stated sizes leave ${c.figure} ${unitName[unit]}`
  return (
    <div ref={ref}>
      <Named>
        <svg width={width} height={HIGH} role="img" aria-label={words} className="block max-w-full">
          <path
            d={`M${EDGE - 22} ${TOP - 12}H${width - EDGE + 14}V${TOP - 4}H${EDGE - 14}V${HIGH - TOP + 4}H${width - EDGE + 14}V${HIGH - TOP + 12}H${EDGE - 22}Z`}
            fill="var(--steel)"
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
          <rect x={gapAt} y={TOP} width={opening} height={HIGH - 2 * TOP} fill="var(--blue)" opacity="0.16" />
          <text
            x={gapAt + opening / 2}
            y={16}
            textAnchor="middle"
            fontSize="14"
            fontWeight="700"
            fill="var(--ink)"
          >
            {c.figure}
          </text>
          {pack.plates.map((p, i) => (
            <PlateShape
              key={i}
              kind={p.kind}
              name={`${p.name || plateName(p.kind)}, ${showStated(p.to_nm - p.from_nm, unit)} ${unitName[unit]}`}
              x={x(p.from_nm, i)}
              w={Math.max((p.to_nm - p.from_nm) * scale, 2)}
              faulty={faults.some((f) => f.plate === i)}
            />
          ))}
          <text x={EDGE - 20} y={HIGH - 8} fontSize="13" fill="var(--dim)">
            piston
          </text>
          <text x={width - EDGE + 12} y={HIGH - 8} textAnchor="end" fontSize="13" fill="var(--dim)">
            {counted} · groove
          </text>
        </svg>
      </Named>
    </div>
  )
}

const many = (n: number, of: string) => `${n} ${of}${n === 1 ? '' : 's'}`

const PLATES: Partial<Record<Kind, string>> = {
  friction: 'friction',
  steel: 'steel',
  wave_plate: 'wave plate',
  pressure_plate: 'pressure plate',
  snap_ring: 'snap ring',
  thrust_plate: 'thrust plate',
  spacer: 'spacer',
}

export const PLATE_KINDS = Object.entries(PLATES) as [Kind, string][]

export const plateName = (kind: Kind) => PLATES[kind] ?? kind

/** One plate, told apart by outline and hatching: linings dotted, steels bare, waves waved. */
function PlateShape({
  kind,
  name,
  x,
  w,
  faulty,
}: {
  kind: Kind
  name: string
  x: number
  w: number
  faulty: boolean
}) {
  const [top, bottom] = [TOP, HIGH - TOP]
  const line = { stroke: faulty ? 'var(--oxide)' : 'var(--ink)', strokeWidth: faulty ? 3 : 1.3 }
  if (kind === 'wave_plate') {
    // Bent between its two faces, as deep as it is thick.
    const bend = w * 0.28
    const step = (bottom - top) / 6
    const edge = (at: number, from: number, by: number) =>
      Array.from({ length: 6 }, (_, i) => {
        const out = i % 2 === (by > 0 ? 0 : 1) ? bend : -bend
        return `Q${at + out} ${from + by * (i + 0.5)} ${at} ${from + by * (i + 1)}`
      }).join('')
    const [left, right] = [x + bend, x + w - bend]
    return (
      <path
        d={`M${left} ${top}${edge(left, top, step)}H${right}${edge(right, bottom, -step)}Z`}
        fill="var(--steel)"
        {...line}
      >
        <title>{name}</title>
      </path>
    )
  }
  if (kind === 'snap_ring') {
    // A ring has only its rim, half in its groove.
    return (
      <g fill="var(--ink)" {...line}>
        <title>{name}</title>
        <rect x={x} y={top - 12} width={w} height={30} />
        <rect x={x} y={bottom - 18} width={w} height={30} />
      </g>
    )
  }
  const fill =
    kind === 'friction'
      ? 'var(--brass-soft)'
      : kind === 'pressure_plate' || kind === 'thrust_plate'
        ? 'var(--steel-line)'
        : 'var(--card)'
  return (
    <g>
      <title>{name}</title>
      <rect x={x} y={top} width={w} height={bottom - top} fill={fill} {...line} />
      {kind === 'friction' && (
        <path
          d={`M${x + w * 0.25} ${top + 4}V${bottom - 4}M${x + w * 0.75} ${top + 4}V${bottom - 4}`}
          stroke="var(--brass)"
          strokeWidth={Math.max(w * 0.2, 1.5)}
          strokeDasharray="3 4"
        />
      )}
      {faulty && (
        <path d={`M${x + w / 2} ${top - 3}l-6 -11h12z`} fill="var(--oxide)" transform="translate(0 -1)" />
      )}
    </g>
  )
}
