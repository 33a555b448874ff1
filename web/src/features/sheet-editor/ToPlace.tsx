import type { Schemas } from '../../domain/schema'
import type { Sheet } from './draft'
import { placeWords } from './place'

interface Props {
  of: Schemas['Fault']
  draft: Sheet
  onPress: () => void
}

/** What is said of a place on the sheet, as the way there. */
export function ToPlace({ of, draft, onPress }: Props) {
  return (
    <button className="min-h-12 w-full py-2 text-left hover:bg-card" onClick={onPress}>
      <span className="font-semibold">{placeWords(draft, of.place)}</span>
      <span className="block text-dim">{of.message}</span>
    </button>
  )
}
