// What is to be known of a part where it goes in: which one, which way round, in what relation.
import { FacePicture } from '../../charts/FacePicture'
import type { Schemas } from '../../domain/schema'
import { inSentence } from '../../domain/words'
import { faceName } from '../../domain/labels'

export function PartFacts({ part, named = true }: { part: Schemas['PartCard']; named?: boolean }) {
  const facing = part.facing && `${faceName[part.facing.face]} ${part.towards ?? ''}`
  return (
    <div className="flex min-w-0 items-center gap-x-3">
      {part.facing && (
        <FacePicture
          face={part.facing.face}
          arrow={part.arrow ?? null}
          says={`${part.name}: ${facing ?? ''}`}
        />
      )}
      <div className="min-w-0">
        {named && (
          <p className="text-lg font-bold">
            {part.count > 1 && <span className="figure">{part.count} × </span>}
            {part.name}
            {part.always_new && <span className="font-semibold text-brass"> · new</span>}
          </p>
        )}
        {facing && <p className="font-semibold">{`The ${facing}`}</p>}
        {part.marks && <p>Marks: {part.marks}</p>}
        {part.which && (
          <p>
            {part.which}
            {part.twin && <span className="text-dim">; not {inSentence(part.twin)}</span>}
          </p>
        )}
        {part.kept_with && part.kept_with.length > 0 && (
          <p className="text-dim">Stays with {part.kept_with.map(inSentence).join(', ')}</p>
        )}
        {part.note && <p className="text-dim">{part.note}</p>}
      </div>
    </div>
  )
}
