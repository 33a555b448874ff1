// What the leaves leave open, on one line with the window.
import { scale } from './axis'
import type { CheckView, Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { toFinal } from '../domain/trial'
import { show, showStated, unitName } from '../domain/units'

const W = 330

export function LeafTrack({
  check,
  detail,
}: {
  check: CheckView
  detail: Extract<Schemas['Detail'], { kind: 'leaves' }>
}) {
  const { unit } = useBench()
  const shift = toFinal(check)
  const low = check.window.low_nm == null ? null : check.window.low_nm - shift
  const high = check.window.high_nm == null ? null : check.window.high_nm - shift
  const goes = detail.goes_nm
  const refused = detail.refused_nm ?? null
  const far = Math.max(goes, refused ?? 0, high ?? 0, low ?? 0) * 1.25 || 100_000
  const x = scale(0, far, 8, W - 8).clamp(true)
  const end = refused ?? far
  const u = unitName[unit]
  const said = `The clearance is ${show(goes, unit)} ${refused == null ? `${u} or more` : `to below ${show(refused, unit)} ${u}`}`
  return (
    <svg viewBox={`0 0 ${W} 76`} width="100%" role="img" aria-label={said} className="mt-4 block max-w-md">
      <rect x={x(low ?? 0)} y="30" width={x(high ?? far) - x(low ?? 0)} height="16" fill="var(--blue-soft)" />
      {[low, high].map(
        (l, i) =>
          l != null && (
            <line key={i} x1={x(l)} x2={x(l)} y1="26" y2="50" stroke="var(--ink)" strokeWidth="2.5" />
          ),
      )}
      <line x1="8" x2={W - 8} y1="46" y2="46" stroke="var(--steel-line)" strokeWidth="2" />
      <rect
        x={x(goes)}
        y="33"
        width={Math.max(x(end) - x(goes), 3)}
        height="10"
        fill="var(--brass-line)"
        stroke="var(--ink)"
        strokeWidth="1.5"
        strokeDasharray={refused == null ? '4 3' : undefined}
      />
      <text x={x(goes)} y="22" textAnchor="middle" fontSize="13" fill="var(--ink)">
        {showStated(goes, unit)} goes
      </text>
      {refused != null && (
        <text x={Math.min(x(refused), W - 60)} y="66" textAnchor="middle" fontSize="13" fill="var(--ink)">
          {showStated(refused, unit)} does not
        </text>
      )}
    </svg>
  )
}
