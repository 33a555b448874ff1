// A size against its wear limit: the limit in words, the size as a mark between new and worn out, and what it says.
import type { Schemas } from '../../domain/schema'
import type { Unit } from '../../domain/schema'
import { show, unitName } from '../../domain/units'
import { useBench } from '../../domain/session'

type Card = Schemas['WearCard']
type Worn = Schemas['Worn']

/** The limit in words: `thickness of the pads: new 5.94, at least 5.68 mm`. */
export function wearWords(card: Card, unit: Unit) {
  const parts = [
    card.new_nm != null && `new ${show(card.new_nm, unit)}`,
    card.low_nm != null && `at least ${show(card.low_nm, unit)}`,
    card.high_nm != null && `at most ${show(card.high_nm, unit)}`,
  ].filter(Boolean)
  return `${card.what}: ${parts.join(', ')} ${unitName[unit]}`
}

/** What a size says, in words. */
export function wornWords(worn: Worn, card: Card, unit: Unit) {
  const size = `${show(worn.size_nm, unit)} ${unitName[unit]}`
  const limit = worn.call === 'loose' ? card.high_nm : card.low_nm
  const past = limit == null ? '' : ` by ${show(Math.abs(worn.size_nm - limit), unit)}`
  switch (worn.call) {
    case 'in':
      return worn.used == null
        ? `${size}: not worn out`
        : `${size}: ${Math.round(worn.used * 100)} % of its wear used`
    case 'tight':
    case 'loose':
      return `${size}: worn out${past}`
    default:
      return `${size}: too close to call`
  }
}

const WIDTH = 300
const LEFT = 40

/** A bar from new to worn out with the size as a pin on it, as wide as its doubt. */
export function WearBar({ worn, card }: { worn: Worn; card: Card }) {
  const { unit } = useBench()
  const limit = card.high_nm == null || worn.call === 'tight' ? (card.low_nm ?? card.high_nm) : card.high_nm
  if (card.new_nm == null || limit == null || limit === card.new_nm) return null
  const { new_nm } = card
  const at = (nm: number) => LEFT + ((nm - new_nm) / (limit - new_nm)) * (WIDTH - 2 * LEFT)
  const inside = (x: number) => Math.min(Math.max(x, 3), WIDTH - 3)
  const half = Math.max(Math.abs(at(worn.size_nm + worn.expanded_nm) - at(worn.size_nm)), 2)
  const x = inside(at(worn.size_nm))
  return (
    <svg
      viewBox={`0 0 ${WIDTH} 48`}
      className="mt-1 block w-full max-w-80"
      role="img"
      aria-label={wornWords(worn, card, unit)}
    >
      <path d={`M3 30H${LEFT}M${WIDTH - LEFT} 30H${WIDTH - 3}`} stroke="var(--dim)" strokeDasharray="3 3" />
      <rect
        x={LEFT}
        y="26"
        width={WIDTH - 2 * LEFT}
        height="8"
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      <rect x={WIDTH - LEFT} y="20" width="4" height="20" fill="var(--oxide)" />
      <rect x={x - half} y="18" width={half * 2} height="20" fill="var(--blue)" opacity="0.35" />
      <path d={`M${x} 16V40`} stroke="var(--blue)" strokeWidth="3" />
      <text x={LEFT} y="11" fontSize="12" fill="var(--dim)" textAnchor="middle">
        new
      </text>
      <text x={WIDTH - LEFT} y="11" fontSize="12" fill="var(--dim)" textAnchor="middle">
        worn out
      </text>
    </svg>
  )
}
