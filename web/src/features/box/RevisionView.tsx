// Moving a job to another revision of its sheet, another build or another sheet: what would change, before it does.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Box } from '../../domain/schema'
import { useBox, useRevising, useRevisions } from '../../api/queries'
import { Differences } from '../sheets/Differences'
import { Choice } from '../../ui/Field'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { dayText } from '../../domain/units'

export function RevisionView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error } = useBox(jobNo)
  useTitle(box && `Job ${jobNo}, revision of its sheet`)
  if (!box && error) return <Trouble error={error as unknown as Refused} />
  if (!box) return <Loading what="the box" />
  return <Revise box={box} />
}

function Revise({ box }: { box: Box }) {
  const { data: revisions = [] } = useRevisions(box.sheet_key)
  const [asked] = useSearchParams()
  // Another build or another sheet is asked for by the address, a revision is chosen here.
  const variant = asked.get('variant') ?? undefined
  const sheet = asked.get('sheet') ?? undefined
  const elsewhere = variant !== undefined || sheet !== undefined
  const [chosen, setChosen] = useState(elsewhere ? box.revision : box.newest_revision)
  const { who } = useBench()
  const to = elsewhere ? { variant, sheet, to: sheet ? undefined : box.revision } : { to: chosen }
  const { data, error } = useRevising(box.job_no, to)
  const navigate = useNavigate()
  const client = useQueryClient()
  const move = useMutation<Box, Refused>({
    mutationFn: () =>
      answer(
        server.PUT('/api/jobs/{job_no}/revision', {
          params: {
            path: { job_no: box.job_no },
            header: { 'Idempotency-Key': writeKey(), 'If-Match': `"${box.version}"` },
          },
          body: { revision: to.to, variant, sheet_key: sheet, who },
        }),
      ),
    onSuccess: (fresh) => {
      void client.invalidateQueries()
      client.setQueryData(['job', box.job_no], fresh)
      void navigate(`/jobs/${box.job_no}`)
    },
  })
  return (
    <main className="mx-auto max-w-[70rem] px-3 pb-16 sm:px-6">
      <h1 className="pt-5 text-3xl">
        {sheet ? 'Another sheet' : elsewhere ? 'Another build of the box' : 'Another revision of the sheet'}
      </h1>
      <p className="text-dim">
        Job {box.job_no}, {box.title}, is on revision {box.revision} of {box.sheet}
        {box.build_of && `, ${box.build_known ? '' : 'taken for '}${box.build_of.name}`}. What was measured
        stays as it was measured.
      </p>
      {elsewhere && data && <p className="mt-3 text-lg">It would be on {data.to_words}.</p>}
      <div className="mt-4 max-w-xs" hidden={elsewhere}>
        <Choice
          label="Move it to"
          value={String(chosen)}
          onChange={(v) => setChosen(Number(v))}
          options={revisions.map(
            (r) =>
              [
                String(r.revision),
                `revision ${r.revision}, ${dayText(r.came_in)}${r.revision === box.revision ? ' (now)' : ''}`,
              ] as const,
          )}
        />
      </div>
      <Trouble error={(error as Refused | null) ?? move.error} />
      {!elsewhere && chosen === box.revision ? (
        <p className="py-3 text-lg">It is on this revision. Choose another to see what would change.</p>
      ) : data ? (
        <>
          <Effect title="Comes to the job" names={data.added} />
          <Effect title="Leaves the job; nothing is recorded of it" names={data.gone} />
          <Effect title="Signed off, judged otherwise there: reopened" names={data.reopened} />
          {data.hindered.length > 0 ? (
            <div role="alert" className="my-3 border-l-4 border-oxide bg-card px-4 py-3">
              <p className="font-semibold">The job cannot be moved as it stands.</p>
              {data.hindered.map((h) => (
                <p key={h}>{h}</p>
              ))}
            </div>
          ) : (
            <div className="my-4 flex flex-wrap items-center gap-3">
              <button className="press" disabled={move.isPending} onClick={() => move.mutate()}>
                Move job {box.job_no} to {data.to_words}
              </button>
              <Link className="press-quiet" to={`/jobs/${box.job_no}`}>
                Leave it
              </Link>
              <span className="text-dim">It can be moved back the same way.</span>
            </div>
          )}
          <h2 className="text-xl">What differs</h2>
          <Differences of={data.differences} />
        </>
      ) : (
        !error && <Loading what="what would change" />
      )}
    </main>
  )
}

function Effect({ title, names }: { title: string; names: string[] }) {
  if (names.length === 0) return null
  return (
    <p className="py-1">
      <span className="font-semibold">{title}:</span> {names.join(', ')}
    </p>
  )
}
