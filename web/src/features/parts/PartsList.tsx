// The parts of a box as a list: what a press on the rail does, by keyboard.
import type { Schemas } from '../../domain/schema'

export function PartsList({
  parts,
  onPart,
}: {
  parts: readonly Schemas['PartCard'][]
  onPart: (part: string) => void
}) {
  const rails = parts.filter((p) => p.on_rail)
  const off = parts.filter((p) => !p.on_rail)
  const list = (of: typeof rails) => (
    <ul className="mb-3 flex flex-wrap gap-2">
      {of.map((p) => (
        <li key={p.key}>
          <button
            className="min-h-11 border-[1.5px] border-line px-2 text-left hover:border-ink"
            onClick={() => onPart(p.key)}
          >
            {p.count > 1 && `${p.count} × `}
            {p.name}
          </button>
        </li>
      ))}
    </ul>
  )
  return (
    <details className="no-print border-y border-line" data-testid="parts">
      <summary className="min-h-11 py-2 font-semibold">
        {rails.length} parts on the rails, {off.length} off them
      </summary>
      {list(rails)}
      {off.length > 0 && <h3 className="mb-2 font-semibold">Off the rails</h3>}
      {off.length > 0 && list(off)}
    </details>
  )
}
