// What the readings of each way say: their picture, their working, how sure they are, and the ways
// side by side.
import { capital } from '../../../domain/words'
import { useState } from 'react'
import type { CheckView, Schemas } from '../../../domain/schema'
import { Working } from '../../../ui/Parts'
import { uncertaintySourceName } from '../../../domain/labels'
import { useBench } from '../../../domain/session'
import { clearance, percent, show, unitName } from '../../../domain/units'
import { markOf, markWords } from '../../../domain/labels'
import { DepthRing } from '../../../charts/DepthRing'
import { LeafTrack } from '../../../charts/LeafTrack'
import { SetUps } from '../../../charts/SetUps'
import { StackBars } from '../../../charts/StackBars'
import type { Acting } from '../acting'
import { torqueText, type Method } from '../../../domain/readings'
import { methodWords } from '../../../domain/labels'

type WayView = Schemas['MethodView']

export function Found({ check, act, way }: { check: CheckView; act: Acting; way: Method }) {
  const shown = check.ways.find((w) => w.way === way) ?? check.ways.find((w) => w.counts) ?? check.ways[0]
  return (
    <>
      {check.ways.length > 1 && <SideBySide check={check} act={act} />}
      {shown && <Picture check={check} view={shown} />}
      {shown && <NextTerms check={check} view={shown} />}
      {shown && <Said view={shown} />}
      {shown?.estimate && (
        <div className="mt-4">
          <Working lines={shown.estimate.working} kind={check.kind} />
        </div>
      )}
      {shown?.torque && (
        <div className="mt-4">
          <Working lines={shown.torque.working} />
        </div>
      )}
      {shown?.estimate && <HowSure view={shown} />}
    </>
  )
}

function Picture({ check, view }: { check: CheckView; view: WayView }) {
  switch (view.detail.kind) {
    case 'ring':
      return (
        <DepthRing
          ring={view.detail.ring}
          called={view.tilt_called}
          rock={view.way !== 'depth_from_bar'}
          proud={check.readings.some((r) => r.taken.kind === 'depth' && r.taken.bar_on === 'part')}
        />
      )
    case 'sum':
      // A fit is drawn as one, beside.
      return check.fit ? null : <StackBars check={check} view={view} sum={view.detail.sum} />
    case 'set_ups':
      return view.detail.set_ups.length > 0 ? <SetUps setUps={view.detail.set_ups} /> : null
    case 'leaves':
      return <LeafTrack check={check} detail={view.detail} />
    // Drawn beside, where there is room for them.
    case 'pinions':
    case 'backlash':
    case 'centring':
    case 'limits':
    case 'plain':
      return null
  }
}

/** Where the limits of parts leave it open: what measuring each would do. */
function NextTerms({ check, view }: { check: CheckView; view: WayView }) {
  const { unit } = useBench()
  const { detail, verdict } = view
  if (detail.kind !== 'sum' || verdict?.call !== 'too_close' || detail.next.length === 0) return null
  return (
    <table className="mt-4 w-full" data-testid="next-terms">
      <caption className="pb-1 text-left font-semibold">What measuring would do</caption>
      <thead>
        <tr>
          <th className="th">Measure</th>
          <th className="th text-right">settles it</th>
          <th className="th text-right">in the window</th>
          <th className="th text-right">±, {unitName[unit]}</th>
        </tr>
      </thead>
      <tbody>
        {detail.next.map((n) => (
          <tr key={n.term}>
            <td className="td">{check.terms[n.term - 1]?.what}</td>
            <td className="td figure text-right">{percent(n.settled)}</td>
            <td className="td figure text-right">{percent(n.inside)}</td>
            <td className="td figure text-right">{show(n.expanded_nm, unit)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** What was noticed: why there is no figure, a tilt, a stray, a float that follows the pull. */
function Said({ view }: { view: WayView }) {
  const { unit } = useBench()
  const notes = view.estimate?.notes ?? []
  const words = (line: Schemas['Token'][]) =>
    line
      .map((t) =>
        t.kind === 'length' ? `${show(t.nm, unit, 1)} ${unitName[unit]}` : t.kind === 'text' ? t.text : '',
      )
      .join('')
  const list = [
    view.no_estimate && view.readings > 0 && !view.counts ? view.no_estimate : '',
    view.tilt_called ? 'The tilt is larger than the window is wide: the bar or the part is not seated.' : '',
    ...notes.map(words),
  ].filter(Boolean)
  return list.map((text) => (
    <p key={text} role="status" className="mt-3 border-l-4 border-brass bg-brass-soft px-3 py-2">
      {capital(text)}
    </p>
  ))
}

/** The parts of the uncertainty, each with its share, and where the scatter comes from. */
function HowSure({ view }: { view: WayView }) {
  const { unit } = useBench()
  const [open, setOpen] = useState(false)
  const estimate = view.estimate
  if (!estimate) return null
  const total = estimate.parts.reduce((sum, p) => sum + p.u_nm ** 2, 0)
  return (
    <details className="mt-3" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="min-h-11 py-2 font-semibold">
        How sure: ± {show(view.verdict?.expanded_nm ?? 0, unit)} {unitName[unit]}
        {view.verdict && `, ${percent(view.verdict.chance)} in the window`}
      </summary>
      <table className="w-full">
        <caption className="sr-only">What the uncertainty is made of</caption>
        <thead>
          <tr>
            <th className="th">From</th>
            <th className="th text-right">u, {unitName[unit]}</th>
            <th className="th text-right">Freedom</th>
            <th className="th text-right">Share</th>
          </tr>
        </thead>
        <tbody>
          {estimate.parts.map((p, i) => (
            <tr key={i}>
              <td className="td">{uncertaintySourceName[p.from]}</td>
              <td className="td figure text-right">{show(p.u_nm, unit, 1)}</td>
              <td className="td figure text-right">{p.dof == null ? '∞' : p.dof.toFixed(0)}</td>
              <td className="td figure text-right">{Math.round((p.u_nm ** 2 / total) * 100)} %</td>
            </tr>
          ))}
          <tr className="font-semibold">
            <td className="td">together</td>
            <td className="td figure text-right">{show(estimate.u_nm, unit, 1)}</td>
            <td className="td figure text-right">{estimate.dof == null ? '∞' : estimate.dof.toFixed(1)}</td>
            <td className="td figure text-right" />
          </tr>
        </tbody>
      </table>
      <p className="mt-2 text-sm text-dim">
        <ScatterWords from={view.scatter_from} />
      </p>
    </details>
  )
}

function ScatterWords({ from }: { from: Schemas['ScatterFrom'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  switch (from.kind) {
    case 'unknown':
      return <>Nothing is known of this gauge’s scatter: the readings’ own counts.</>
    case 'register':
      return (
        <>
          The register gives this gauge a scatter of {show(from.s_nm, unit, 1)} {u}.
        </>
      )
    case 'history':
      return (
        <>
          This shop’s signed checks give this gauge, used this way, a scatter of {show(from.s_nm, unit, 1)}{' '}
          {u} ({from.dof.toFixed(0)} degrees of freedom).
        </>
      )
  }
}

/** Two ways and more on one check, compared with the one that counts. */
function SideBySide({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  return (
    <table className="mt-4 w-full" data-testid="side-by-side">
      <caption className="pb-1 text-left font-semibold">Ways side by side</caption>
      <tbody>
        {check.ways.map((w) => {
          const c = w.estimate && clearance(w.estimate.clearance_nm, unit, false, check.kind)
          return (
            <tr key={w.way}>
              <td className="td">
                {methodWords(w.way, check.kind)}
                <span className="block text-sm text-dim">{w.gauges.join(', ')}</span>
              </td>
              <td className="td figure text-right whitespace-nowrap">
                {w.torque
                  ? torqueText(w.torque.torque_n_m)
                  : c
                    ? `${c.figure} ± ${show(w.verdict?.expanded_nm ?? 0, unit)}`
                    : 'none yet'}
                <span className="block font-sans text-sm text-dim">
                  {w.torque
                    ? markWords[markOf(w.torque.call)]
                    : w.against
                      ? w.against.agree
                        ? 'agrees'
                        : `${show(Math.abs(w.against.off_nm), unit)} off, ± ${show(w.against.explained_nm, unit)} explained`
                      : ''}
                </span>
              </td>
              <td className="td text-right">
                {w.counts ? (
                  <strong>counts</strong>
                ) : (
                  check.allowed.count.includes(w.way) && (
                    <button
                      className="link min-h-11 whitespace-nowrap"
                      onClick={() => act.mutate({ act: 'way', way: w.way })}
                    >
                      let it count
                    </button>
                  )
                )}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
