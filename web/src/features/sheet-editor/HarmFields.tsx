// On which side missing the window is worse.
import type { ReactNode } from 'react'
import type { Column } from './Cell'
import type { Sheet } from './draft'
import { useWriting } from './writing'

type Harm = Sheet['checks'][number]['harm']

const SIDES = [
  ['', 'alike on both sides'],
  ['tight', 'worse tight'],
  ['loose', 'worse loose'],
] as const

export function HarmFields({
  harm,
  of,
  field,
  own,
}: {
  harm: Harm
  of: string
  field: (column: Column, under?: string) => ReactNode
  own: (place: string) => ReactNode
}) {
  const { put } = useWriting()
  return (
    <>
      <div>
        <label className="block text-sm font-semibold" htmlFor={of}>
          Missing it is
        </label>
        <select
          id={of}
          className="field px-1"
          value={harm?.worse ?? ''}
          onChange={(e) =>
            put(of, e.target.value === '' ? undefined : { worse: e.target.value, times: harm?.times ?? 3 })
          }
        >
          {SIDES.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {own('/harm')}
      </div>
      {harm && field({ field: 'times', label: 'So many times as bad', as: 'number' }, '/harm')}
    </>
  )
}
