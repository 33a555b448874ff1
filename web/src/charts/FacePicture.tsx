// Which way round a part goes: the part in section, the face that tells, and what it looks towards.
import type { Schemas } from '../domain/schema'

const W = 116
const H = 74

/** The part's outline above the axis, with its telling face at the right. */
const OUTLINE: Partial<Record<Schemas['Face'], string>> = {
  chamfer: 'M30 37V8H78L90 20V37Z',
  bevel: 'M30 37V8H70L90 26V37Z',
  taper: 'M30 37V6H56L90 24V37Z',
  recess: 'M30 37V8H90V24H76V37Z',
  open_side: 'M30 37V8H90V14H42V37Z',
  ridge: 'M30 37V12H72V5H82V12H90V37Z',
  shoulder: 'M30 37V8H66V20H90V37Z',
  groove: 'M30 37V8H68V18H80V8H90V37Z',
  dogs: 'M30 37V10H76V16H90V24H76V37Z',
  lip: 'M30 37V8H90V12H64L88 24L62 30V37Z',
  sharp_edge: 'M30 37V16Q30 8 38 8H90V37Z',
}
const PLAIN = 'M30 37V8H90V37Z'

export function FacePicture({
  face,
  arrow,
  says,
}: {
  face: Schemas['Face']
  arrow: number | null
  says: string
}) {
  // Drawn looking right; turned where it looks left. Where it looks neither way, it stands on end.
  const turn =
    arrow === -1
      ? `matrix(-1 0 0 1 ${W} 0)`
      : arrow === 1
        ? ''
        : `translate(${W / 2} ${H / 2}) scale(0.62) rotate(-90) translate(${-W / 2} ${-H / 2})`
  const path = OUTLINE[face] ?? PLAIN
  return (
    <svg width={W} height={H} viewBox={`0 0 ${W} ${H}`} role="img" aria-label={says} className="shrink-0">
      <g transform={turn}>
        <path d={path} fill="var(--steel)" stroke="var(--ink)" strokeWidth="1.8" />
        <path
          d={path}
          fill="var(--steel)"
          stroke="var(--ink)"
          strokeWidth="1.8"
          transform={`matrix(1 0 0 -1 0 ${H})`}
        />
        <path d="M22 37H112" stroke="var(--dim)" strokeDasharray="10 4 3 4" />
        {face === 'lettering' && <path d="M90 14V22M90 26V31" stroke="var(--oxide)" strokeWidth="4" />}
        {face === 'dimples' && (
          <g fill="var(--oxide)">
            <circle cx="88" cy="15" r="3" />
            <circle cx="88" cy="26" r="3" />
          </g>
        )}
        <path d="M96 37H108M101 29L110 37L101 45" fill="none" stroke="var(--blue)" strokeWidth="4" />
      </g>
    </svg>
  )
}
