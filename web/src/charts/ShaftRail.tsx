// The box drawn as its shafts lying in a row of rails: every part a block to scale by its width,
// every check a cut between two parts, opened up so that it can be seen and pressed.
import { memo, useId } from 'react'
import { useNavigate } from 'react-router'
import type { Schemas, Unit } from '../domain/schema'
import { useBench } from '../domain/session'
import { Named } from './Named'
import { MarkShape } from './StateMark'
import { markOf, markWords } from '../domain/labels'
import { clearance, showStated, unitName } from '../domain/units'
import { useWidth } from '../ui/width'
import { phaseName } from '../domain/labels'

type Shaft = Schemas['RailShaft']
type Block = Schemas['Block']
export type RailCheck = Pick<Schemas['BoxCheck'], 'check_key' | 'name' | 'phase' | 'call' | 'shown_nm'> & {
  /** What its tag says in place of its state. */
  label?: string
  kind?: Schemas['CheckKind']
}

interface Props {
  rail: Schemas['Rail']
  checks: RailCheck[]
  next?: string | null
  /** Where a press on a cut leads; without, the cuts are only shown. */
  to?: (checkKey: string) => string
  /** The one shaft to draw, to the scale of all. */
  only?: string
  /** What a press on a part does; without, parts are only shown. Each stays the same function. */
  onPart?: (part: string) => void
  /** What a press on a cut does, where it leads nowhere: beside the lists of a writer, which name the parts. */
  onCut?: (checkKey: string) => void
  /** What is in the box: the rest is drawn hollow. */
  built?: ReadonlySet<string>
  /** What goes in or comes out next. */
  lit?: ReadonlySet<string>
}

/** Nothing narrower is drawn over the whole width. */
const NARROWEST_NM = 60e6

const TAG_W = 134
const TAG_H = 44
const TALLEST = 118
const PAD = 22

export const ShaftRail = memo(function ShaftRail({
  rail,
  checks,
  next,
  to,
  only,
  onPart,
  onCut,
  built,
  lit,
}: Props) {
  const { ref: ground, width } = useWidth<HTMLDivElement>(860, 560)
  const id = useId()
  const across = (width - 2 * PAD) / roundly(Math.max(rail.longest_nm, NARROWEST_NM))
  const tallest = Math.max(...rail.shafts.map((s) => s.largest_nm))
  // Widths are to one scale; diameters to another, the same for every shaft, so that all fit.
  const up = Math.min(across, TALLEST / tallest)
  return (
    <div ref={ground} className="overflow-x-auto" data-testid="rail" tabIndex={to ? undefined : 0}>
      <svg width="0" height="0" className="absolute" aria-hidden="true">
        <Hatches id={id} />
      </svg>
      <Named>
        {rail.shafts
          .filter((shaft) => only === undefined || shaft.key === only)
          .map((shaft) => (
            <ShaftLine
              key={shaft.key}
              {...{ shaft, checks, next, to, onPart, onCut, built, lit, width, across, up, id }}
            />
          ))}
      </Named>
    </div>
  )
})

/** What a part is called, with its teeth where it has any, and how wide it is. */
const nameOf = (block: Block, unit: Unit) =>
  [
    block.name,
    block.teeth && `${block.teeth} teeth`,
    !block.unread && `${showStated(block.to_nm - block.from_nm, unit)} ${unitName[unit]} wide`,
  ]
    .filter(Boolean)
    .join(', ')

/** A length a little above, in steps of 4 %: a width that is typed seldom changes the scale, so the other parts
 *  need not be drawn anew. */
const roundly = (nm: number) => 1.04 ** Math.ceil(Math.log(nm) / Math.log(1.04) - 1e-9)

interface LineProps extends Omit<Props, 'rail' | 'only'> {
  shaft: Shaft
  width: number
  across: number
  up: number
  id: string
}

/** The row each tag goes in, so that none lies over another. */
function tagRows(shaft: Shaft, across: number, width: number) {
  const ends: number[] = []
  return shaft.cuts.map((cut) => {
    const middle = PAD + ((cut.from_nm + cut.to_nm) / 2) * across
    const left = Math.min(Math.max(middle - TAG_W / 2, 2), width - TAG_W - 2)
    let row = ends.findIndex((end) => end + 8 <= left)
    if (row < 0) row = ends.length
    ends[row] = left + TAG_W
    return { cut, middle, left, row }
  })
}

// Drawn again only where it changed: a sheet being typed has hundreds of parts.
const ShaftLine = memo(function ShaftLine({
  shaft,
  checks,
  next,
  to,
  onPart,
  onCut,
  built,
  lit,
  width,
  across,
  up,
  id,
}: LineProps) {
  const { unit } = useBench()
  const navigate = useNavigate()
  const tags = tagRows(shaft, across, width)
  const rows = Math.max(0, ...tags.map((t) => t.row + 1))
  const half = (shaft.largest_nm * up) / 2
  const head = 26 + rows * (TAG_H + 6) + 10
  const axis = head + half
  const height = axis + half + 18
  const end = PAD + shaft.length_nm * across
  const bar = shaft.diameter_nm * up
  return (
    <svg
      width={width}
      height={height}
      className="block [content-visibility:auto]"
      role="group"
      aria-label={shaft.name}
    >
      <text x="2" y="18" fontSize="17" fontWeight="700" fill="var(--ink)">
        {shaft.name}
      </text>
      <rect
        x={PAD - 8}
        y={axis - bar / 2}
        width={end - PAD + 16}
        height={bar}
        fill={`url(#${id}bar)`}
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      {shaft.blocks.map((block) => (
        <g
          key={block.part}
          role={onCut ? undefined : 'img'}
          aria-label={
            onCut
              ? undefined
              : nameOf(block, unit) + (built ? (built.has(block.part) ? ', in' : ', not in yet') : '')
          }
          onClick={onPart && (() => onPart(block.part))}
          className={[
            onPart && 'cursor-pointer',
            built && !built.has(block.part) && 'part-hollow',
            lit?.has(block.part) && 'part-lit',
          ]
            .filter(Boolean)
            .join(' ')}
          strokeDasharray={block.unread ? '4 4' : undefined}
          opacity={block.unread ? 0.6 : undefined}
          transform={`translate(${PAD + block.from_nm * across} ${axis})`}
        >
          <PartShape
            kind={block.kind}
            name={nameOf(block, unit)}
            w={Math.max((block.to_nm - block.from_nm) * across, 2)}
            h={block.diameter_nm * up}
            id={id}
          />
          {block.faces != null && (
            <FaceArrow
              to={block.faces}
              at={((block.to_nm - block.from_nm) * across) / 2}
              y={(-block.diameter_nm * up) / 2 - 7}
            />
          )}
        </g>
      ))}
      <line
        x1={4}
        x2={end + 20}
        y1={axis}
        y2={axis}
        stroke="var(--dim)"
        strokeDasharray="18 5 4 5"
        pointerEvents="none"
      />
      {tags.map(({ cut, middle, left, row }) => {
        const check = checks.find((c) => c.check_key === cut.check)
        if (!check) return null
        const state = markOf(check.call)
        const isNext = next === cut.check
        const at = 26 + row * (TAG_H + 6)
        const c = check.shown_nm == null ? null : clearance(check.shown_nm, unit, false, check.kind)
        const text = c
          ? `${c.figure}${c.word === 'preload' ? '\u202fp' : c.word === 'pinch' ? '\u202fpinch' : ''}`
          : (check.label ?? phaseName[check.phase] ?? '')
        const say = `${check.name}: ${c ? `${c.figure} ${unitName[unit]} ${c.word}, ${markWords[state]}, ` : ''}${phaseName[check.phase] ?? ''}`
        const ink = isNext ? 'var(--on-blue)' : 'var(--ink)'
        const open = (event: React.SyntheticEvent) => {
          event.preventDefault()
          if (to) void navigate(to(cut.check))
        }
        const tag = (
          <>
            <line
              x1={middle}
              x2={middle}
              y1={at + TAG_H}
              y2={axis + half + 8}
              stroke="var(--blue)"
              strokeWidth="2"
              strokeDasharray="3 3"
            />
            <rect
              x={PAD + cut.from_nm * across}
              width={(cut.to_nm - cut.from_nm) * across}
              y={axis - half - 6}
              height={2 * half + 12}
              fill="var(--blue)"
              opacity="0.16"
            />
            <rect
              x={left}
              y={at}
              width={TAG_W}
              height={TAG_H}
              fill={isNext ? 'var(--blue)' : 'var(--card)'}
              stroke="var(--blue)"
              strokeWidth={check.phase === 'signed' ? 3.5 : 1.8}
            />
            <g transform={`translate(${left + 9} ${at + 10})`} color={ink}>
              <MarkShape state={state} open={check.phase !== 'signed'} />
            </g>
            <text
              x={left + 43}
              y={at + 28}
              fontSize={c ? (text.length > 8 ? 13 : 17) : text.length > 13 ? 12 : 14}
              fontWeight="650"
              fill={ink}
              fontFamily={c ? 'var(--font-mono)' : undefined}
            >
              {text}
            </text>
          </>
        )
        return to ? (
          <a key={cut.check} href={to(cut.check)} onClick={open} aria-label={say}>
            <title>{say}</title>
            {tag}
          </a>
        ) : (
          <g
            key={cut.check}
            role="img"
            aria-label={check.name}
            onClick={onCut && (() => onCut(cut.check))}
            className={onCut && 'cursor-pointer'}
          >
            <title>{check.name}</title>
            {tag}
          </g>
        )
      })}
    </svg>
  )
})

/** Which way a part's telling face looks, over it. */
const FaceArrow = ({ to, at, y }: { to: number; at: number; y: number }) => (
  <path
    d="M-6 0H5M1 -3.5L6 0L1 3.5"
    className="face-arrow"
    transform={`translate(${at} ${y})${to < 0 ? ' scale(-1 1)' : ''}`}
    fill="none"
    stroke="var(--blue)"
    strokeWidth="2"
  />
)

/** Parts told apart by outline and hatching, as on a workshop drawing: from its left end, about the axis. */
const PartShape = memo(function PartShape({
  kind,
  name: says,
  w,
  h,
  id,
}: {
  kind: Block['kind']
  name: string
  w: number
  h: number
  id: string
}) {
  const top = -h / 2
  const line = { stroke: 'var(--ink)', strokeWidth: 1.8 }
  const name = <title>{says}</title>
  switch (kind) {
    case 'bearing':
    case 'needle_bearing':
    case 'taper_bearing': {
      const ring = h * 0.3
      const slope = kind === 'taper_bearing' ? ring * 0.35 : 0
      const half = (y: number, sign: number) => (
        <g>
          <path d={`M0 ${y + (sign > 0 ? 0 : slope)}H${w}V${y + ring}H0Z`} fill="var(--card)" {...line} />
          {kind === 'taper_bearing' ? (
            <path
              d={`M2 ${y + ring * 0.75}L${w - 2} ${y + ring * 0.25}`}
              stroke="var(--ink)"
              strokeWidth="5"
            />
          ) : (
            <path d={`M0 ${y}L${w} ${y + ring}M${w} ${y}L0 ${y + ring}`} stroke="var(--ink)" fill="none" />
          )}
        </g>
      )
      return (
        <g>
          {name}
          {half(top, 1)}
          {half(h / 2 - ring, 1)}
        </g>
      )
    }
    case 'shim':
    case 'washer':
    case 'snap_ring':
    case 'thrust_plate':
      return (
        <rect y={top} width={Math.max(w, 4)} height={h} fill="var(--ink)">
          {name}
        </rect>
      )
    case 'gear':
      return (
        <g>
          {name}
          <rect y={top} width={w} height={h} fill={`url(#${id}gear)`} {...line} />
          <path d={`M0 ${top + 7}H${w}M0 ${top + h - 7}H${w}`} stroke="var(--ink)" strokeDasharray="6 4" />
        </g>
      )
    case 'hub':
    case 'sleeve':
    case 'drum':
    case 'planet':
    case 'diff_case':
      return (
        <g>
          {name}
          <rect y={top} width={w} height={h} fill={`url(#${id}hub)`} {...line} />
        </g>
      )
    case 'housing':
    case 'retainer':
      return (
        <g>
          {name}
          <rect y={top} width={w} height={h} fill={`url(#${id}case)`} {...line} />
        </g>
      )
    default:
      return (
        <g>
          {name}
          <rect y={top} width={w} height={h} fill="var(--card)" {...line} />
        </g>
      )
  }
})

function Hatches({ id }: { id: string }) {
  const pattern = (name: string, ground: string, ink: string, turn: number, gap: number) => (
    <pattern
      id={id + name}
      width={gap}
      height={gap}
      patternUnits="userSpaceOnUse"
      patternTransform={`rotate(${turn})`}
    >
      <rect width={gap} height={gap} fill={ground} />
      <line x1="0" x2="0" y1="0" y2={gap} stroke={ink} strokeWidth="1.6" />
    </pattern>
  )
  return (
    <defs>
      <linearGradient id={`${id}bar`} x1="0" x2="0" y1="0" y2="1">
        <stop offset="0" stopColor="var(--steel)" />
        <stop offset="0.35" stopColor="var(--card)" />
        <stop offset="1" stopColor="var(--steel-line)" />
      </linearGradient>
      {pattern('gear', 'var(--steel)', 'var(--steel-line)', 45, 8)}
      {pattern('hub', 'var(--brass-soft)', 'var(--brass-line)', -45, 9)}
      {pattern('case', 'var(--paper)', 'var(--steel-line)', 20, 6)}
    </defs>
  )
}
