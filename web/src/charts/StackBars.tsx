// A stack sum: what opens the gap above, what fills it below, to one scale; each term's share in the
// uncertainty as a bar; and what another part in its place would give.
import { scale } from './axis'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, type Refused } from '../api/client'
import type { CheckView, Schemas } from '../domain/schema'
import { Trouble } from '../ui/Parts'
import { useBench } from '../domain/session'
import { clearance, show, unitName } from '../domain/units'

const W = 330

export function StackBars({
  check,
  view,
  sum,
}: {
  check: CheckView
  view: Schemas['MethodView']
  sum: Schemas['Sum']
}) {
  return (
    <div className="mt-4">
      <Bars sum={sum} />
      <WhatIf check={check} view={view} />
    </div>
  )
}

/** The terms of a sum, drawn and listed with their shares. */
export function Bars({ sum }: { sum: Schemas['Sum'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const length = (opens: boolean) =>
    sum.terms.filter((t) => t.opens === opens).reduce((s, t) => s + t.length_nm, 0)
  const whole = Math.max(length(true), length(false)) || 1
  const row = (opens: boolean) => {
    let at = 0
    return sum.terms.flatMap((t, i) => {
      if (t.opens !== opens) return []
      const block = { i, what: t.what, from: at, to: at + t.length_nm, measured: t.measured }
      at += t.length_nm
      return [block]
    })
  }
  const x = scale(0, whole, 4, W - 4)
  const c = (nm: number) => {
    const words = clearance(nm, unit)
    return words.word === 'preload' ? `${words.figure} preload` : words.figure
  }
  return (
    <figure>
      <svg
        viewBox={`0 0 ${W} 66`}
        width="100%"
        role="img"
        aria-label={`Stack of ${sum.terms.length} terms`}
        className="block max-w-md"
      >
        {[true, false].map((opens) =>
          row(opens).map((b) => (
            <g key={b.i}>
              <rect
                x={x(b.from)}
                y={opens ? 4 : 36}
                width={Math.max(x(b.to) - x(b.from), 1.5)}
                height="26"
                fill={b.measured ? 'var(--blue-soft)' : 'var(--steel)'}
                stroke="var(--ink)"
                strokeWidth="1.2"
              />
              {x(b.to) - x(b.from) > 16 && (
                <text
                  x={(x(b.from) + x(b.to)) / 2}
                  y={(opens ? 4 : 36) + 18}
                  textAnchor="middle"
                  fontSize="12"
                  fill="var(--ink)"
                >
                  {b.i + 1}
                </text>
              )}
            </g>
          )),
        )}
      </svg>
      <table className="mt-2 w-full">
        <caption className="sr-only">Terms of the sum, with each one’s share in the uncertainty</caption>
        <thead>
          <tr>
            <th className="th">Term</th>
            <th className="th text-right">{u}</th>
            <th className="th">Share</th>
          </tr>
        </thead>
        <tbody>
          {sum.terms.map((t, i) => (
            <tr key={i}>
              <td className="td">
                {i + 1}. {t.what}
                <span className="block text-sm text-dim">{t.measured ? 'measured' : 'as stated'}</span>
              </td>
              <td className="td figure text-right whitespace-nowrap">
                {t.opens ? '' : '− '}
                {show(t.length_nm, unit)}
                <span className="block text-sm text-dim">± {show(t.limits_nm, unit)}</span>
              </td>
              <td className="td w-20">
                <span className="block h-3 border border-steel-line">
                  <span
                    className="block h-full bg-blue"
                    style={{ width: `${Math.round(t.share * 100)}%` }}
                    role="img"
                    aria-label={`${Math.round(t.share * 100)} per cent of the uncertainty`}
                  />
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2">
        Worst case <span className="figure">{c(sum.worst_low_nm)}</span> to{' '}
        <span className="figure">{c(sum.worst_high_nm)}</span>; by root-sum-square ±{' '}
        <span className="figure">{show(sum.expanded_nm, unit)}</span> {u}.
      </p>
    </figure>
  )
}

/** “What if I fit the other part”: the same sum with one term changed, beside the one above. */
function WhatIf({ check, view }: { check: CheckView; view: Schemas['MethodView'] }) {
  const { unit } = useBench()
  const [term, setTerm] = useState(0)
  const [typed, setTyped] = useState('')
  const other = useMutation<Schemas['MeasuredOut'], Refused>({
    mutationFn: async () => {
      const { nm } = await answer(
        server.POST('/api/calc/parse', { body: { text: typed, unit, may_be_negative: false } }),
      )
      const detail = view.detail.kind === 'sum' ? view.detail.sum.terms : []
      const terms = check.terms.map((t, i) => ({
        ...t,
        length_nm: i === term ? nm : Math.round(detail[i]?.length_nm ?? t.length_nm),
        measured_nm: [],
        tolerance_nm: t.tolerance_nm ?? (Math.round(detail[i]?.limits_nm ?? 0) || null),
      }))
      return answer(
        server.POST('/api/calc/measure', {
          body: {
            way: 'stack_sum',
            entries: [],
            unit,
            gauge: view.figures ?? null,
            terms,
            shim_tolerance_nm: 0,
          },
        }),
      )
    },
  })
  const now = view.estimate?.clearance_nm
  const then = other.data?.estimate?.clearance_nm
  return (
    <form
      className="mt-3"
      onSubmit={(e) => {
        e.preventDefault()
        other.mutate()
      }}
    >
      <p className="font-semibold">What if the other part is fitted?</p>
      <div className="mt-1 flex gap-2">
        <select
          aria-label="Which part"
          className="field"
          value={term}
          onChange={(e) => setTerm(Number(e.target.value))}
        >
          {check.terms.map((t, i) => (
            <option key={i} value={i}>
              {i + 1}. {t.what}
            </option>
          ))}
        </select>
        <input
          aria-label="Its width"
          className="field figure"
          value={typed}
          placeholder={`in ${unitName[unit]}`}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button className="press-quiet shrink-0" disabled={!typed.trim() || other.isPending}>
          Try
        </button>
      </div>
      <Trouble error={other.error} />
      {other.data?.no_estimate && <p className="mt-2">{other.data.no_estimate}</p>}
      {then != null && now != null && (
        <p className="mt-2" role="status">
          It would come to <strong className="figure">{clearanceText(then, unit)}</strong> in place of{' '}
          <span className="figure">{clearanceText(now, unit)}</span> {unitName[unit]}.
        </p>
      )}
    </form>
  )
}

const clearanceText = (nm: number, unit: 'thou' | 'mm' | 'um') => {
  const c = clearance(nm, unit)
  return c.word === 'nil' ? c.figure : `${c.figure} ${c.word}`
}
