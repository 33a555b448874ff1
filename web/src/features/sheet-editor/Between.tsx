import type { CheckProps } from './check-props'
import { useWriting } from './writing'

/** Where the check is cut: two parts of one shaft. */
export function Between({ sheet, faults, check, of }: CheckProps) {
  const { put, showAll } = useWriting()
  const [left = '', right = ''] = check.between ?? []
  const shaftOf = (part: string) => sheet.shafts.find((s) => s.parts.some((p) => p.key === part))
  const give = (side: 0 | 1, part: string) => {
    if (part === '' && (side === 0 ? right : left) === '') {
      put(`${of}/between`, undefined)
      return
    }
    if (side === 0) {
      const parts = shaftOf(part)?.parts ?? []
      const next = parts[parts.findIndex((p) => p.key === part) + 1]?.key ?? ''
      // The part to the right is most often the next one.
      const keeps = right !== '' && shaftOf(right) === shaftOf(part)
      put(`${of}/between`, part === '' ? undefined : [part, keeps ? right : next])
    } else put(`${of}/between`, [left, part])
  }
  const fault = [`${of}/between`, `${of}/between/0`, `${of}/between/1`]
    .map((place) => faults.get(place))
    .find(Boolean)
  const told = showAll || (left && right) ? fault : undefined
  return (['Cut in after', 'and before'] as const).map((label, side) => (
    <div key={label}>
      <label className="block text-sm font-semibold" htmlFor={`${of}/between/${side}`}>
        {label}
      </label>
      <select
        id={`${of}/between/${side}`}
        className="field px-1"
        value={side === 0 ? left : right}
        onChange={(e) => give(side === 0 ? 0 : 1, e.target.value)}
      >
        <option value="">nowhere on a shaft</option>
        {sheet.shafts.map((s) => (
          <optgroup key={s.key} label={s.name || 'shaft without a name'}>
            {s.parts.map((p) => (
              <option key={p.key} value={p.key}>
                {p.name || '(no name yet)'}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
      {side === 0 && !told && (
        <p className="mt-1 text-sm text-dim">
          The gap lies between these two: the drawing is cut open there.
        </p>
      )}
      {side === 0 && told && <p className="mt-1 text-sm font-semibold text-oxide">{told}</p>}
    </div>
  ))
}
