// One picture for every clearance: a bar with a slot cut in it (the window), a notch where the
// target is, a pin for the clearance, as wide as its uncertainty. Outline before fitting, solid after.
import { lengthTicks, scale } from './axis'
import { useId } from 'react'
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { clearance, kindWords, nmOf, show, showStated, unitName, windowWords } from '../domain/units'
import { useWidth } from '../ui/width'
import type { Unit } from '../domain/schema'

export interface Pin {
  nm: number
  expanded_nm: number
  call: Schemas['Call']
  label: string
}

interface Props {
  window: Schemas['Ends']
  aim: Schemas['TargetRange']
  measured?: Pin | null
  predicted?: Pin | null
  /** Another edge that matters, with what it is called. */
  edge?: { nm: number; label: string } | null
  /** What it is measured of, where that has words of its own. */
  kind?: Schemas['CheckKind']
}

const TOP = 150
const DEEP = 54
const FOOT = 18
const EDGE = 26

/** The range drawn: the window with room each side, stretched to what is near, not to what is far. */
function range({ window: w, aim, measured, predicted, edge, kind }: Props) {
  const low = w.low_nm ?? null
  const high = w.high_nm ?? null
  const width =
    low !== null && high !== null
      ? Math.max(high - low, 4_000)
      : Math.abs((low ?? high ?? 0) - aim.from_nm) * 2 || 100_000
  const left = low ?? (high ?? 0) - width
  const right = high ?? (low ?? 0) + width
  let from = left - width * 0.9
  let to = right + width * 0.9
  for (const pin of [measured, predicted, edge]) {
    if (!pin) continue
    from = Math.max(Math.min(from, pin.nm - width * 0.4), left - width * 3.2)
    to = Math.min(Math.max(to, pin.nm + width * 0.4), right + width * 3.2)
  }
  // Nothing is less than not off the middle at all.
  return { from: kind === 'selector_centring' ? -width * 0.25 : from, to }
}

export function SlotGauge(props: Props) {
  const { window: w, aim, measured, predicted, edge, kind } = props
  const centring = kind === 'selector_centring'
  const said = kindWords(kind)
  const { unit } = useBench()
  const hatch = useId()
  const { ref, width: W } = useWidth<HTMLDivElement>(800, 280)
  const { from, to } = range(props)
  const x = scale(from, to, EDGE, W - EDGE)
  const a = w.low_nm == null ? EDGE : x(w.low_nm)
  const b = w.high_nm == null ? W - EDGE : x(w.high_nm)
  const floor = TOP + DEEP
  const base = floor + FOOT
  const { list, smalls, places } = lengthTicks(from, to, unit, W)
  const words = (pin: Pin) => {
    const c = clearance(pin.nm, unit, false, kind)
    return `${pin.label} ${c.figure} ${unitName[unit]} ${c.word}`
  }
  const title = [
    `Window ${windowWords(w, unit, kind)}`,
    measured && words(measured),
    predicted && words(predicted),
    edge && `${edge.label} at ${clearance(edge.nm, unit, true, kind).figure} ${unitName[unit]}`,
  ]
    .filter(Boolean)
    .join('; ')
  const clash = measured && predicted && Math.abs(x(measured.nm) - x(predicted.nm)) < 190
  return (
    <div ref={ref}>
      <svg width={W} height="296" role="img" aria-label={title} className="block">
        <defs>
          <pattern
            id={hatch}
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="9" height="9" fill="var(--steel)" />
            <line x1="0" x2="0" y1="0" y2="9" stroke="var(--steel-line)" strokeWidth="2" />
          </pattern>
        </defs>
        <path
          d={`M${EDGE} ${w.low_nm == null ? floor : TOP}H${a}V${floor}H${b}V${w.high_nm == null ? floor : TOP}H${W - EDGE}V${base}H${EDGE}Z`}
          fill={`url(#${hatch})`}
          stroke="var(--ink)"
          strokeWidth="2.5"
        />
        {w.low_nm != null && a - EDGE > 60 && <Side x={a - 10} anchor="end" text={said.tight} />}
        {w.high_nm != null && W - EDGE - b > 60 && <Side x={b + 10} anchor="start" text={said.loose} />}
        <path
          d={`M${x(aim.from_nm) - 8} ${floor - 1}H${x(aim.to_nm) + 8}L${x(aim.to_nm)} ${floor + 10}H${x(aim.from_nm)}Z`}
          fill="var(--blue)"
        />
        {smalls.map((t) => (
          <line key={t} x1={x(t)} x2={x(t)} y1={base + 6} y2={base + 12} stroke="var(--dim)" />
        ))}
        {list.map((t) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={base + 6} y2={base + 20} stroke="var(--ink)" strokeWidth="2" />
            <text
              x={x(t)}
              y={base + 40}
              textAnchor="middle"
              fontSize="17"
              fill="var(--ink)"
              fontFamily="var(--font-mono)"
            >
              {Math.abs(t / nmOf[unit]).toFixed(places)}
            </text>
          </g>
        ))}
        {from < 0 && to > 0 && (
          <text x={x(0)} y={base + 62} textAnchor="middle" fontSize="15" fill="var(--dim)">
            {centring ? 'middle' : x(0) > 130 ? `← ${said.below} · ${said.nil} · ${said.above} →` : said.nil}
          </text>
        )}
        {edge && (
          <g>
            <path
              d={`M${x(edge.nm)} ${TOP - 26}V${base}`}
              stroke="var(--oxide)"
              strokeWidth="2.5"
              strokeDasharray="7 5"
            />
            <text
              x={x(edge.nm)}
              y={TOP - 34}
              textAnchor="middle"
              fontSize="15"
              fontWeight="700"
              fill="var(--ink)"
            >
              {edge.label}
            </text>
          </g>
        )}
        {predicted && (
          <PinShape
            pin={predicted}
            x={x}
            // Over the other's label, so that its pin does not cover this one.
            label={clash ? Math.min(headOf(measured, floor), headOf(predicted, floor)) - 36 : undefined}
            unit={unit}
            outline
            {...{ floor, from, to, W }}
          />
        )}
        {measured && <PinShape pin={measured} x={x} unit={unit} {...{ floor, from, to, W }} />}
      </svg>
    </div>
  )
}

function Side({ x, anchor, text }: { x: number; anchor: 'start' | 'end'; text: string }) {
  return (
    <text
      x={x}
      y={TOP + 34}
      textAnchor={anchor}
      fontWeight="700"
      fontSize="17"
      fill="var(--ink)"
      stroke="var(--steel)"
      strokeWidth="5"
      paintOrder="stroke"
    >
      {text}
    </text>
  )
}

interface PinProps {
  pin: Pin
  x: (nm: number) => number
  /** Where its label stands, where not over its head. */
  label?: number
  unit: Unit
  outline?: boolean
  floor: number
  from: number
  to: number
  W: number
}

/** The upper end of a pin: in the slot, or up on its side. */
const headOf = (pin: Pin, floor: number) => (pin.call === 'in' ? floor : TOP) - 92

function PinShape({ pin, x, label, unit, outline, floor, from, to, W }: PinProps) {
  const off = pin.nm < from ? 'left' : pin.nm > to ? 'right' : null
  const at = off === 'left' ? EDGE + 14 : off === 'right' ? W - EDGE - 14 : x(pin.nm)
  const half = off ? 7 : Math.min(Math.max(7, x(pin.expanded_nm) - x(0)), 60)
  const dropped = pin.call === 'in'
  const foot = dropped ? floor : TOP
  const head = headOf(pin, floor)
  const tip = Math.min(half, 13)
  const body = `M${at - half} ${head + 7}q0 -7 7 -7h${2 * half - 14}q7 0 7 7V${foot - tip}L${at} ${foot}L${at - half} ${foot - tip}Z`
  const canted = pin.call === 'too_close' && !off
  const labelAt = Math.min(Math.max(at, 90), W - 90)
  return (
    <g>
      <g transform={canted ? `rotate(9 ${at} ${foot})` : undefined}>
        <path
          d={body}
          fill={outline ? 'none' : 'var(--brass-line)'}
          stroke="var(--ink)"
          strokeWidth="2.5"
          strokeDasharray={outline ? '7 5' : undefined}
          strokeLinejoin="round"
        />
      </g>
      {off && (
        <text
          x={at + (off === 'left' ? 16 : -16)}
          y={head + 60}
          textAnchor={off === 'left' ? 'start' : 'end'}
          fontSize="26"
          fontWeight="700"
          fill="var(--ink)"
        >
          {off === 'left' ? '← further' : 'further →'}
        </text>
      )}
      <text
        x={labelAt}
        y={label ?? head - 12}
        textAnchor="middle"
        fontSize="17"
        fontWeight="700"
        fill="var(--ink)"
      >
        {pin.label} {show(Math.abs(pin.nm), unit)}
      </text>
    </g>
  )
}

/** The slot gauge in a line: where a choice lands. */
export function SlotStrip({
  window: w,
  pin,
}: {
  window: Schemas['Ends']
  pin: { nm: number; lands: Schemas['Call'] }
}) {
  const { unit } = useBench()
  const low = w.low_nm ?? null
  const high = w.high_nm ?? null
  const width = low !== null && high !== null ? Math.max(high - low, 4_000) : 200_000
  const left = low ?? (high ?? 0) - width
  const x = (nm: number) => 50 + ((nm - left) / width) * 50
  const at = Math.min(Math.max(x(pin.nm), 6), 144)
  const a = low === null ? 0 : 50
  const b = high === null ? 150 : 100
  const inside = pin.lands === 'in'
  const word = inside ? 'lands inside' : `lands ${pin.lands}`
  return (
    <svg
      viewBox="0 0 150 26"
      width="118"
      height="22"
      role="img"
      aria-label={`${word}, ${showStated(Math.abs(pin.nm), unit)} ${unitName[unit]}`}
    >
      {a > 0 && <rect x="0" y="12" width={a} height="11" fill="var(--steel-line)" />}
      {b < 150 && <rect x={b} y="12" width={150 - b} height="11" fill="var(--steel-line)" />}
      <line x1="0" x2="150" y1="23.5" y2="23.5" stroke="var(--steel-line)" strokeWidth="3" />
      <rect
        x={at - 3.5}
        y={inside ? 7 : 1}
        width="7"
        height={inside ? 15 : 10}
        fill="var(--paper)"
        stroke="var(--ink)"
        strokeWidth="1.8"
      />
    </svg>
  )
}
