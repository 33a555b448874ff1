// Gaps of a selector with limits: what each has to spare now and moved, and the ways to lay the shims.
import type { ReactNode } from 'react'
import type { Schemas, Unit } from '../domain/schema'
import { useBench } from '../domain/session'
import { show, showStated, unitName, windowWords } from '../domain/units'
import { shimsWords } from './Forks'
import { SlotStrip } from './SlotGauge'

export const movesWords = (nm: number, unit: Unit) =>
  nm === 0 ? 'as now' : `${show(Math.abs(nm), unit)} ${unitName[unit]} to the ${nm > 0 ? 'left' : 'right'}`

/** Each gap now and then, with its limits. */
export function GapsThen({ gaps }: { gaps: Schemas['GapThen'][] }) {
  const { unit } = useBench()
  return (
    <div className="my-3 overflow-x-auto" tabIndex={0} role="group" aria-label="Wide table">
      <table className="w-full" aria-label="Gaps now and then">
        <thead>
          <tr>
            <th className="th">Gap</th>
            <th className="th text-right">Now</th>
            <th className="th text-right">Then, {unitName[unit]}</th>
            <th className="th">To spare</th>
          </tr>
        </thead>
        <tbody>
          {gaps.map((g) => (
            <tr key={g.name}>
              <td className="td font-semibold">
                {g.name}
                <span className="block text-sm font-normal text-dim">
                  {limits(g, unit)}
                  {g.weight > 1 && ` · weighs ${g.weight}`}
                </span>
              </td>
              <td className={`td figure text-right ${g.spare_now_nm < 0 ? 'text-oxide' : ''}`}>
                {show(g.now_nm, unit)}
              </td>
              <td className="td figure text-right font-semibold">{show(g.then_nm, unit)}</td>
              <td className="td">
                <span className="hidden sm:block">
                  <SlotStrip
                    window={{ low_nm: g.least_nm, high_nm: g.most_nm }}
                    pin={{ nm: g.then_nm, lands: g.lands }}
                  />
                </span>
                <span className={`block text-sm ${g.lands === 'in' ? '' : 'font-semibold text-oxide'}`}>
                  {show(Math.abs(g.spare_then_nm), unit)}
                  {g.lands === 'in' ? '' : ' beyond its limit'}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** The limits of a gap: teeth may stand off to either side. */
const limits = (g: Schemas['GapThen'], unit: Unit) =>
  g.least_nm != null && g.most_nm != null && g.least_nm === -g.most_nm
    ? `within ${showStated(g.most_nm, unit)} ${unitName[unit]}`
    : windowWords({ low_nm: g.least_nm, high_nm: g.most_nm }, unit)

/** The ways to lay the shims, the best first. */
export function WaysToLay({
  ways,
  more,
}: {
  ways: Schemas['PlacementWay'][]
  /** What can be done with one. */
  more?: (laid: Schemas['Laid'], best: boolean) => ReactNode
}) {
  const { unit } = useBench()
  const u = unitName[unit]
  const two = ways.some((w) => w.shafts.length > 1)
  return (
    <div className="my-3 overflow-x-auto" tabIndex={0} role="group" aria-label="Wide table">
      <table className="w-full" aria-label="Ways to lay the shims">
        <thead>
          <tr>
            {two && <th className="th">Shaft</th>}
            <th className="th">Left, {u}</th>
            <th className="th">Right, {u}</th>
            <th className="th">Moves</th>
            {more && (
              <th className="th">
                <span className="sr-only">Move them</span>
              </th>
            )}
          </tr>
        </thead>
        {ways.map((way, w) => (
          <tbody key={w} className={w === 0 ? 'font-bold' : ''}>
            {way.shafts.map((laid, s) => (
              <tr key={s}>
                {two && <td className="td">{s + 1}</td>}
                <td className="td figure">{shimsWords(laid.left_nm, unit)}</td>
                <td className="td figure">{shimsWords(laid.right_nm, unit)}</td>
                <td className="td">
                  {movesWords(laid.shift_nm, unit)}
                  {s === 0 && (
                    <span className="block text-sm">
                      {way.worst_nm < 0
                        ? `${show(-way.worst_nm, unit)} missing at the worst`
                        : `${show(way.worst_nm, unit)} to spare at the worst`}
                    </span>
                  )}
                  {laid.from_drawer > 0 && (
                    <span className="block text-sm font-normal text-dim">
                      {laid.from_drawer} out of the drawer
                    </span>
                  )}
                  {laid.tighter_nm !== 0 && (
                    <span className="block text-sm font-normal text-dim">
                      float {show(Math.abs(laid.tighter_nm), unit)} {laid.tighter_nm > 0 ? 'less' : 'more'}
                    </span>
                  )}
                </td>
                {more && <td className="td text-right">{more(laid, w === 0)}</td>}
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </div>
  )
}
