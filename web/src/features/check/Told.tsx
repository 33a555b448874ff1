// What another's choice has taken from a job, said until somebody has seen it.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useBox } from '../../api/queries'
import type { Box, Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { piecesText, unitName, whenText } from '../../domain/units'
import { Trouble } from '../../ui/Parts'
import { inSentence } from '../../domain/words'

/** Of one check of a job. */
export function ToldOf({ jobNo, checkKey }: { jobNo: number; checkKey: string }) {
  const { data: box } = useBox(jobNo)
  return box && <Told box={box} only={checkKey} />
}

export function Told({ box, only }: { box: Box; only?: string }) {
  const told = box.told.filter((t) => only === undefined || t.check_key === only)
  return told.map((t) => <Line key={`${t.act_key} ${t.check_key}`} told={t} box={box} />)
}

function Line({ told, box }: { told: Schemas['ChoiceTold']; box: Box }) {
  const { unit, who } = useBench()
  const client = useQueryClient()
  const params = () => ({ header: { 'Idempotency-Key': writeKey() } })
  const done = { onSuccess: () => void client.invalidateQueries() }
  const undo = useMutation<unknown, Refused>({
    mutationFn: () =>
      answer(server.POST('/api/share/undo', { params: params(), body: { act_key: told.act_key, who } })),
    ...done,
  })
  const see = useMutation<unknown, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/share/seen', {
          params: params(),
          body: { act_key: told.act_key, job_no: box.job_no, check_key: told.check_key, who },
        }),
      ),
    ...done,
  })
  const u = unitName[unit]
  const name = box.checks.find((c) => c.check_key === told.check_key)?.name ?? told.check_key
  return (
    <div role="status" className="mx-3 my-3 border-l-4 border-brass bg-brass-soft px-4 py-3 sm:mx-6">
      <p>
        <strong>
          {told.who} took {piecesText(told.was, unit)} {u} from {inSentence(name)}
        </strong>
        {told.other_jobs.length > 0 && (
          <>
            {' '}
            for{' '}
            {told.other_jobs.map((job, i) => (
              <span key={job}>
                {i > 0 && ', '}
                <Link className="link" to={`/jobs/${job}`}>
                  job {job}
                </Link>
              </span>
            ))}
          </>
        )}
        , {whenText(told.at)}.{' '}
        {told.now.length > 0
          ? `${piecesText(told.now, unit)} ${u} is chosen here instead.`
          : 'Nothing is chosen here now.'}
      </p>
      <p className="mt-2 flex flex-wrap gap-2">
        <button className="press-quiet" disabled={see.isPending} onClick={() => see.mutate()}>
          Seen
        </button>
        <button className="press-quiet" disabled={undo.isPending} onClick={() => undo.mutate()}>
          Put it back as it was
        </button>
      </p>
      <Trouble error={undo.error ?? see.error} />
    </div>
  )
}
