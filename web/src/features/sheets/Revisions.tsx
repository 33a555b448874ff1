// The revisions of a sheet, the newest first, each with what changed in it.
import { Link } from 'react-router'
import { useRevisions } from '../../api/queries'
import { whenText } from '../../domain/units'

export function Revisions({ sheet }: { sheet: string }) {
  const { data: revisions = [] } = useRevisions(sheet)
  const newest = revisions[0]?.revision
  return (
    <section className="relative overflow-x-auto py-4" aria-label="Revisions" tabIndex={0}>
      <h2 className="text-xl">Revisions</h2>
      <p className="text-dim">A job keeps the revision it was opened with until somebody moves it.</p>
      <table className="mt-2 w-full min-w-[36rem]">
        <thead>
          <tr>
            <th className="th">Revision</th>
            <th className="th">Came in</th>
            <th className="th">Open jobs on it</th>
            <th className="th" colSpan={2}>
              <span className="sr-only">What can be done</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {revisions.map((r) => (
            <tr key={r.revision}>
              <td className="td font-semibold">{r.revision}</td>
              <td className="td">
                {whenText(r.came_in)}
                {r.who && `, ${r.who}`}
              </td>
              <td className="td">{r.open_jobs}</td>
              <td className="td">
                {r.revision > 1 && (
                  <Link
                    className="link"
                    to={`/sheets/${sheet}/changes?from=${r.revision - 1}&to=${r.revision}`}
                  >
                    what changed
                  </Link>
                )}
              </td>
              <td className="td">
                {r.revision !== newest && (
                  <Link className="link" to={`/sheets/${sheet}/write?from=${r.revision}`}>
                    write on from this one
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
