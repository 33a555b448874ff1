// The card of a part that was pressed on a rail.
import type { Schemas } from '../../domain/schema'
import { Ask } from '../../ui/Parts'
import { PartFacts } from './PartFacts'

export function PartSheet({
  part,
  onClose,
  children,
}: {
  part: Schemas['PartCard']
  onClose: () => void
  children?: React.ReactNode
}) {
  const bare =
    !part.facing && !part.marks && !part.which && !part.note && !part.always_new && !part.kept_with?.length
  return (
    <Ask open onClose={onClose} title={part.count > 1 ? `${part.count} × ${part.name}` : part.name}>
      {part.always_new && <p className="font-semibold text-brass">New at every overhaul</p>}
      {bare ? (
        <p className="text-dim">
          The sheet says nothing more of it: not which way round, nor what it stays with.
        </p>
      ) : (
        <PartFacts part={part} named={false} />
      )}
      {children}
    </Ask>
  )
}
