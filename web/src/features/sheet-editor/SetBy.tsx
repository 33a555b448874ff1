import type { ReactNode } from 'react'
import { length, type Column } from './Cell'
import { Rows } from './Rows'
import { EFFECT, allParts, familyOptions, partOptions } from './names'
import type { Sheet } from './draft'
import { useWriting } from './writing'

/** What sets it. */
export function SetBy({
  sheet,
  check,
  of,
  faults,
  field,
  children,
}: {
  sheet: Sheet
  faults: Map<string, string>
  check: Sheet['checks'][number]
  of: string
  field: (column: Column, under?: string) => ReactNode
  children: ReactNode
}) {
  const { put } = useWriting()
  const families = familyOptions(sheet)
  const set = check.set_by
  return (
    <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
      <div>
        <label className="block text-sm font-semibold" htmlFor={`${of}/set_by/family`}>
          Set by
        </label>
        <select
          id={`${of}/set_by/family`}
          className="field px-1"
          value={set?.family ?? ''}
          onChange={(e) =>
            e.target.value === ''
              ? put(`${of}/set_by`, undefined)
              : put(`${of}/set_by`, {
                  effect: 1,
                  measured_with: 'nothing',
                  ...set,
                  family: e.target.value,
                })
          }
        >
          <option value="">nothing: measured only</option>
          {set && !families.some(([key]) => key === set.family) && (
            <option value={set.family}>{set.family} (not there)</option>
          )}
          {families.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {families.length === 0 && (
          <p className="mt-1 text-sm text-dim">Enter the pieces first, under Pieces.</p>
        )}
        {children}
      </div>
      {set && (
        <>
          {field(
            { field: 'effect', label: 'A thicker piece', as: 'choice', numeric: true, options: EFFECT },
            '/set_by',
          )}
          {field(
            {
              field: 'measured_with',
              label: 'First readings are taken with',
              as: 'choice',
              options: [
                ['nothing', 'no piece in'],
                ['as_found', 'what was found in the box'],
              ],
            },
            '/set_by',
          )}
          {field(
            {
              field: 'part',
              label: 'It is this part on the shaft',
              as: 'choice',
              optional: true,
              options: partOptions(sheet),
            },
            '/set_by',
          )}
          {field({ field: 'least_pieces', label: 'Fewest pieces', as: 'count', optional: true }, '/set_by')}
          {field({ field: 'most_pieces', label: 'Most pieces', as: 'count', optional: true }, '/set_by')}
          <div className="sm:col-span-2 lg:col-span-4">
            <p className="font-semibold">Or by swapping others that are in</p>
            <Rows
              of={`${of}/or_set_by`}
              rows={check.or_set_by}
              columns={[
                { field: 'family', label: 'Pieces', as: 'choice', options: families },
                length('fitted', 'One that is in measures'),
                { field: 'pieces', label: 'How many are in', as: 'count', optional: true },
                { field: 'part', label: 'They are', as: 'choice', optional: true, options: allParts(sheet) },
              ]}
              noun="family"
              faults={faults}
              optional
              fresh={() => ({ family: families.find(([key]) => key !== set.family)?.[0] ?? '', fitted: '' })}
            />
          </div>
        </>
      )}
    </div>
  )
}
