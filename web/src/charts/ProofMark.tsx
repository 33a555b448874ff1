// A proof as a picture: the question's slot with the pin home in it, or standing out of it.
import { answerName, markWords } from '../domain/labels'
import type { Schemas } from '../domain/schema'
import { MarkShape } from './StateMark'

export function ProofMark({ proof }: { proof: Schemas['ProofView'] }) {
  const { found } = proof
  const said = found
    ? `${answerName[found.answer]}: ${markWords[found.call]}`
    : `not answered yet; wanted is ${answerName[proof.wanted].toLowerCase()}`
  return (
    <figure className="flex items-center gap-6 py-8">
      <svg viewBox="0 0 26 24" width="130" height="120" role="img" aria-label={said} className="shrink-0">
        <MarkShape state={found?.call ?? 'none'} />
      </svg>
      <figcaption>
        <p className="text-lg font-semibold">{proof.question}</p>
        <p className="text-dim">Wanted: {answerName[proof.wanted].toLowerCase()}.</p>
      </figcaption>
    </figure>
  )
}
