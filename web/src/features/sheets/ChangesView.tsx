// What changed from one revision of a sheet to another.
import { Link, useParams, useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useChanges, useRevisions, useSheet } from '../../api/queries'
import { Choice } from '../../ui/Field'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import { Differences } from './Differences'

export function ChangesView() {
  const { sheetKey = '' } = useParams()
  const [search, setSearch] = useSearchParams()
  const { data: sheet } = useSheet(sheetKey)
  const { data: revisions = [] } = useRevisions(sheetKey)
  const newest = sheet?.revision ?? 0
  const to = Number(search.get('to')) || newest
  const from = Number(search.get('from')) || Math.max(1, to - 1)
  const { data, error } = useChanges(sheetKey, from, to)
  useTitle(sheet && `${sheet.name}, what changed`)
  const options = revisions.map((r) => [String(r.revision), `revision ${r.revision}`] as const)
  return (
    <main className="mx-auto max-w-[70rem] px-3 pb-16 sm:px-6">
      <h1 className="py-5 text-3xl">What changed</h1>
      <p className="text-dim">
        <Link className="link" to={`/sheets/${sheetKey}`}>
          {sheet?.name ?? sheetKey}
        </Link>
      </p>
      <div className="mt-3 grid max-w-md grid-cols-2 gap-4">
        <Choice
          label="From"
          value={String(from)}
          options={options}
          onChange={(v) => setSearch({ from: v, to: String(to) })}
        />
        <Choice
          label="To"
          value={String(to)}
          options={options}
          onChange={(v) => setSearch({ from: String(from), to: v })}
        />
      </div>
      <Trouble error={error as Refused | null} />
      {data ? <Differences of={data} /> : !error && <Loading what="the differences" />}
    </main>
  )
}
