// What to look at first for each complaint: why, and what was found there.
import type { Schemas } from '../../domain/schema'
import { StateShape } from './StateShape'
import type { OnJob } from './acts'

interface Props {
  of: readonly Schemas['LookFirst'][]
  parts: readonly OnJob[]
  onPart: (key: string) => void
}

export function LookFirst({ of, parts, onPart }: Props) {
  if (of.length === 0) return null
  return (
    <section aria-label="Look at first" className="mb-6 print:hidden">
      {of.map((look) => (
        <div key={look.complaint} className="mb-4">
          <h2 className="text-lg first-letter:uppercase">{look.complaint}</h2>
          <p className="text-sm text-dim">{earlierWords(look.earlier)}</p>
          {look.parts.length === 0 ? (
            <p className="text-dim">The sheet names no part for it: note on Box where it was found.</p>
          ) : (
            <ol className="ruled">
              {look.parts.map((p) => (
                <li key={p.part}>
                  <button
                    className="grid min-h-11 w-full grid-cols-[2rem_1fr] items-center gap-x-2 py-1 text-left"
                    onClick={() => onPart(p.part)}
                  >
                    <StateShape state={parts.find((on) => on.key === p.part)?.found?.state ?? null} />
                    <span>
                      <span className={p.found ? '' : 'font-bold'}>{p.name}</span>
                      <span className="block text-sm text-dim">
                        {p.found ? `${p.explains ? 'found: ' : 'looked at: '}${p.found}` : p.why.join('; ')}
                      </span>
                    </span>
                  </button>
                </li>
              ))}
            </ol>
          )}
        </div>
      ))}
    </section>
  )
}

const earlierWords = (boxes: number) =>
  boxes === 0
    ? 'No earlier box of this sheet came in with it.'
    : `${boxes} earlier ${boxes === 1 ? 'box' : 'boxes'} of this sheet came in with it.`
