// A part in its bore, looked at from the end: what is between them drawn as wide as can be seen, true in its kind.
import { useId } from 'react'
import { useBench } from '../domain/session'
import { clearance, show, unitName } from '../domain/units'

const C = 120
const R = 84
/** A difference is drawn as wide as this, whatever it is. */
const SEEN = 9

export function BoreAndPart({ bore_nm, part_nm }: { bore_nm: number; part_nm: number }) {
  const { unit } = useBench()
  const hatch = useId()
  const apart = bore_nm - part_nm
  const c = clearance(apart, unit, false, 'fit')
  const inner = apart === 0 ? R : R - Math.sign(apart) * SEEN
  const [low, high] = [Math.min(R, inner), Math.max(R, inner)]
  const u = unitName[unit]
  return (
    <svg
      viewBox="0 0 420 240"
      role="img"
      aria-label={`Bore ${show(bore_nm, unit)} ${u}, part ${show(part_nm, unit)} ${u}: ${c.figure} ${u} ${c.word}`}
      className="block w-full max-w-md"
    >
      <defs>
        <pattern id={hatch} width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="8" stroke="var(--steel-line)" strokeWidth="2" />
        </pattern>
      </defs>
      <rect x="6" y="6" width="228" height="228" fill="var(--steel)" stroke="var(--ink)" strokeWidth="2.5" />
      <rect x="6" y="6" width="228" height="228" fill={`url(#${hatch})`} />
      <circle cx={C} cy={C} r={R} fill="var(--paper)" stroke="var(--ink)" strokeWidth="2.5" />
      <circle cx={C} cy={C} r={inner} fill="var(--card)" stroke="var(--ink)" strokeWidth="2.5" />
      {apart < 0 && (
        <>
          <circle
            cx={C}
            cy={C}
            r={(low + high) / 2}
            fill="none"
            stroke="var(--oxide)"
            strokeWidth={high - low}
            opacity="0.45"
          />
          <circle cx={C} cy={C} r={R} fill="none" stroke="var(--ink)" strokeWidth="2" strokeDasharray="6 4" />
        </>
      )}
      <path d={`M${C - 8} ${C}h16M${C} ${C - 8}v16`} stroke="var(--dim)" strokeWidth="1.5" />
      <g stroke="var(--ink)" strokeWidth="1.5" fill="none">
        <path d={`M${C + R * Math.cos(0.75)} ${C - R * Math.sin(0.75)}L252 52`} />
        <path d={`M${C + inner * Math.cos(0.5)} ${C + inner * Math.sin(0.5)}L252 178`} />
      </g>
      <Label y={40} name="bore" text={`${show(bore_nm, unit)} ${u}`} />
      <Label y={112} name={c.word} text={`${c.figure} ${u}`} loud />
      <Label y={184} name="part" text={`${show(part_nm, unit)} ${u}`} />
    </svg>
  )
}

function Label({ y, name, text, loud }: { y: number; name: string; text: string; loud?: boolean }) {
  return (
    <>
      <text x="258" y={y} fontSize="15" fill="var(--dim)">
        {name}
      </text>
      <text
        x="258"
        y={y + 22}
        fontSize={loud ? 22 : 18}
        fontWeight={loud ? 700 : 500}
        fontFamily="var(--font-mono)"
        fill="var(--ink)"
      >
        {text}
      </text>
    </>
  )
}
