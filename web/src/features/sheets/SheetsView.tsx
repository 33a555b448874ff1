import { useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useSheets } from '../../api/queries'
import { ImportFile } from '../../ui/ImportFile'
import { readFile } from '../../ui/files'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { dayText } from '../../domain/units'
import { boxName } from '../../domain/labels'

/** What the shop knows about each model of box. */
export function SheetsView() {
  useTitle('Sheets')
  const { data: sheets, error } = useSheets()
  const { who } = useBench()
  const client = useQueryClient()
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">Spec sheets</h1>
          <p className="text-dim">
            What the shop knows about each model of box: written here, or as files that go in and out.
          </p>
        </div>
        <Link className="press" to="/sheets/new">
          Write a sheet
        </Link>
        <ImportFile
          label="Take in a sheet"
          accept=".json,application/json"
          done={(r: { key: string; revision: number }) =>
            `Sheet ${r.key} is now at revision ${r.revision}. Jobs opened before keep the revision they have. Where it says otherwise of pieces than their drawer, its page asks.`
          }
          send={async (file) =>
            answer(
              server.POST('/api/sheets', {
                params: { header: { 'Idempotency-Key': writeKey() } },
                body: { text: await readFile(file), who },
              }),
            )
          }
          onDone={() => void client.invalidateQueries()}
        />
      </div>
      <Trouble error={error as Refused | null} />
      {!sheets && !error && <Loading what="the sheets" />}
      {sheets?.length === 0 && (
        <p className="py-6 text-lg">There is no sheet yet. Write one, or take one in as a file.</p>
      )}
      <ul className="ruled border-t border-line">
        {sheets?.map((s) => (
          <li key={s.key}>
            <Link
              to={`/sheets/${s.key}`}
              className="grid items-center gap-x-6 py-4 hover:bg-card sm:grid-cols-[1fr_auto]"
            >
              <span>
                <span className="block text-xl font-bold">{s.name}</span>
                <span className="text-dim">
                  {boxName[s.kind]} · {s.shafts} shafts, {s.checks} checks
                </span>
              </span>
              <span className="text-dim">
                revision {s.revision}, {dayText(s.came_in)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </main>
  )
}
