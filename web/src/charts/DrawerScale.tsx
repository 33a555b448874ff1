// A drawer along its range: every size at its true place, so that gaps can be seen.
import { scale } from './axis'
import type { Drawer, Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { showStated, unitName } from '../domain/units'
import { useWidth } from '../ui/width'

type Size = Schemas['DrawerSize']

const MOST = 9
const SLAB = 5
const MARGIN = 26

/** New pieces stand on the line, measured ones hang from it; a gap is a notch cut in the line. */
export function DrawerScale({ drawer }: { drawer: Drawer }) {
  const { unit } = useBench()
  const { ref, width } = useWidth<HTMLDivElement>(560, 280)
  const { sizes, range } = drawer
  const first = sizes[0]?.thickness_nm
  const last = sizes.at(-1)?.thickness_nm
  if (first === undefined || last === undefined || first === last) return null
  const span = width - 2 * MARGIN
  const x = scale(first, last, MARGIN, MARGIN + span)
  const step = range.step_nm ? (range.step_nm / (last - first)) * span : 14
  const slab = Math.max(2.5, Math.min(18, step * 0.72))
  const tallest = Math.max(3, ...sizes.map((s) => (s.grade === 'marked' ? s.on_hand + s.on_order : 0)))
  const base = Math.min(tallest, MOST) * SLAB + 8
  const measured = sizes.some((s) => s.grade !== 'marked' && s.on_hand > 0)
  const deepest = measured ? Math.max(...sizes.map((s) => (s.grade === 'marked' ? 0 : s.on_hand))) : 0
  const lettering = base + 16 + Math.min(deepest, 3) * SLAB
  const gapWords = range.gaps.map(
    (g) => `${showStated(g.from_nm, unit)} to ${showStated(g.to_nm, unit)} ${unitName[unit]}`,
  )
  return (
    <div ref={ref} className="mt-2">
      <svg
        role="img"
        aria-label={`${drawer.name} along their range. ${gapWords.length ? `Nothing free between ${gapWords.join('; ')}` : 'No gaps'}.`}
        width={width}
        height={lettering + 8}
        viewBox={`0 0 ${width} ${lettering + 8}`}
        className="block max-w-full"
      >
        <line x1={4} x2={width - 4} y1={base} y2={base} stroke="var(--ink)" strokeWidth="2" />
        {range.gaps.map((g) => (
          <Notch key={g.from_nm} from={x(g.from_nm)} to={x(g.to_nm)} half={slab / 2} base={base} />
        ))}
        {sizes.map((s) => (
          <Column
            key={`${s.thickness_nm} ${s.grade}`}
            size={s}
            x={x(s.thickness_nm)}
            slab={slab}
            base={base}
          />
        ))}
        {ticks(sizes, x).map((s) => (
          <text
            key={s.thickness_nm}
            x={x(s.thickness_nm)}
            y={lettering}
            fontSize="13"
            textAnchor="middle"
            fill="var(--dim)"
            className="figure"
          >
            {showStated(s.thickness_nm, unit)}
          </text>
        ))}
      </svg>
      <p className="text-sm text-dim">
        {range.step_nm != null && `Steps of ${showStated(range.step_nm, unit)} ${unitName[unit]}. `}
        {gapWords.length > 0 && `Nothing free: ${gapWords.join('; ')}.`}
      </p>
    </div>
  )
}

/** A stretch with nothing free in it. */
function Notch({ from, to, half, base }: { from: number; to: number; half: number; base: number }) {
  const left = from + half + 2
  const right = to - half - 2
  const [a, b] = left < right ? [left, right] : [from - half, to + half]
  return (
    <rect
      x={a}
      y={base - 6}
      width={b - a}
      height={12}
      fill="var(--brass-soft)"
      stroke="var(--brass-line)"
      strokeDasharray="3 2"
    />
  )
}

/** The pieces of one size, one slab each: solid free, hollow set aside, dashed on order. */
function Column({ size, x, slab, base }: { size: Size; x: number; slab: number; base: number }) {
  const up = size.grade === 'marked'
  const shown = Math.min(size.on_hand, up ? MOST - 1 : 3)
  const coming = up ? Math.min(size.on_order, MOST - 1 - shown) : 0
  const y = (i: number) => (up ? base - 3 - (i + 1) * SLAB : base + 3 + i * SLAB)
  const slabAt = (i: number, kind: 'free' | 'aside' | 'coming') => (
    <rect
      key={i}
      x={x - slab / 2}
      y={y(i)}
      width={slab}
      height={SLAB - 1.5}
      fill={kind === 'free' ? 'var(--ink)' : 'none'}
      stroke="var(--ink)"
      strokeWidth="0.9"
      strokeDasharray={kind === 'coming' ? '1.5 1.5' : undefined}
    />
  )
  const free = size.on_hand - size.reserved
  return (
    <g>
      {Array.from({ length: shown }, (_, i) => slabAt(i, i < free ? 'free' : 'aside'))}
      {Array.from({ length: coming }, (_, i) => slabAt(shown + i, 'coming'))}
      {size.on_hand > shown && (
        <text x={x} y={up ? y(MOST - 1) + 3 : y(4)} fontSize="11" textAnchor="middle" fill="var(--ink)">
          +
        </text>
      )}
    </g>
  )
}

/** As many sizes as there is room to write below the line. */
function ticks(sizes: Size[], x: (nm: number) => number) {
  const kept: Size[] = []
  const room = 52
  const last = sizes.at(-1)
  for (const s of sizes.filter((s) => s.grade === 'marked')) {
    const before = kept.at(-1)
    const clear = !before || x(s.thickness_nm) - x(before.thickness_nm) >= room
    if (clear && (s === last || !last || x(last.thickness_nm) - x(s.thickness_nm) >= room || s === sizes[0]))
      kept.push(s)
  }
  return kept
}
