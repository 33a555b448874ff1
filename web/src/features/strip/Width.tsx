// A part of another width: what its stack sums would come to, before anything is bought.
import { useDeferredValue, useState } from 'react'
import type { Refused } from '../../api/client'
import { useWidth } from '../../api/queries'
import { StateMark } from '../../charts/StateMark'
import { markOf } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { clearance, show, unitName, windowWords } from '../../domain/units'
import { Field } from '../../ui/Field'

export function Width({ job, part }: { job: number; part: string }) {
  const { unit } = useBench()
  const [width, setWidth] = useState('')
  const typed = useDeferredValue(width.trim())
  const { data, error } = useWidth(job, part, typed, unit)
  return (
    <details className="mt-3">
      <summary className="flex min-h-12 items-center font-semibold">▸ One of another width?</summary>
      <div className="max-w-sm">
        <Field
          label={`Its width, ${unitName[unit]}`}
          value={width}
          onChange={setWidth}
          fault={(typed && (error as Refused | null)?.problem.title) || undefined}
        />
      </div>
      {typed && data && (
        <ul className="ruled" aria-label="With that width">
          {data.map((at) => {
            const was = clearance(at.was_nm, unit, false, at.kind)
            const now = clearance(at.now_nm, unit, false, at.kind)
            const leaves = at.call === 'tight' || at.call === 'loose'
            return (
              <li key={at.check_key} className="flex flex-wrap items-center gap-x-3 py-2">
                <StateMark state={markOf(at.call)} open size={24} />
                <span className="mr-auto">
                  <strong>{at.name}</strong>: {now.word} {now.figure} ± {show(at.expanded_nm, unit)}{' '}
                  {unitName[unit]} by its sum, {was.figure} before
                  <span className="block text-sm text-dim">
                    window {windowWords(at.window, unit, at.kind)}
                  </span>
                </span>
                <span className={leaves ? 'font-semibold text-oxide' : ''}>
                  {leaves
                    ? `leaves its window: too ${at.call}`
                    : at.call === 'in'
                      ? 'stays in its window'
                      : 'too close to call'}
                </span>
              </li>
            )
          })}
        </ul>
      )}
    </details>
  )
}
