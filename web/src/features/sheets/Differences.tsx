// What differs between two revisions, line by line: what it was, what it is.
import type { Schemas } from '../../domain/schema'

export function Differences({ of }: { of: Schemas['Difference'][] }) {
  if (of.length === 0) return <p className="py-4 text-lg">Nothing differs.</p>
  return (
    <ul className="ruled border-t border-line" aria-label="Differences">
      {of.map((d, i) => (
        <li key={i} className="py-3">
          <p className="font-semibold first-letter:uppercase">{d.place}</p>
          {d.was != null && (
            <p className="text-dim">
              <span aria-hidden="true" className="figure">
                −{' '}
              </span>
              <span className="sr-only">was </span>
              <del>{d.was || 'nothing'}</del>
            </p>
          )}
          {d.now != null && (
            <p>
              <span aria-hidden="true" className="figure">
                +{' '}
              </span>
              <span className="sr-only">is </span>
              <ins className="no-underline">{d.now || 'there'}</ins>
            </p>
          )}
        </li>
      ))}
    </ul>
  )
}
