// What was found of the parts, as the customer reads it.
import { partStateName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { wornWords } from './Wear'

export function Findings({ of }: { of: readonly Schemas['OnJob'][] }) {
  const { unit } = useBench()
  if (of.length === 0) return null
  return (
    <section aria-label="What was found" className="mt-6">
      <h2 className="border-b-2 border-ink text-xl">What was found</h2>
      <table className="mt-2 w-full">
        <thead>
          <tr>
            <th className="th">Part</th>
            <th className="th">Condition</th>
            <th className="th">What becomes of it</th>
          </tr>
        </thead>
        <tbody>
          {of.map(({ found, worn, ...part }) => (
            <tr key={part.key}>
              <td className="td font-semibold">
                {part.count > 1 && `${part.count} × `}
                {part.name}
              </td>
              <td className="td">
                {[
                  ...(found?.conditions ?? []),
                  found?.counted != null &&
                    found.counted !== part.count &&
                    `${found.counted} of ${part.count} were there`,
                  worn && part.wear && `${part.wear.what} ${wornWords(worn, part.wear, unit)}`,
                  found?.as_found && `lay so: ${found.as_found}`,
                ]
                  .filter(Boolean)
                  .join(', ')}
              </td>
              <td className="td">
                {[found && partStateName[found.state], found?.why].filter(Boolean).join(': ')}
                <span className="text-dim"> · {found?.who}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
