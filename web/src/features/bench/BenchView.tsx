// Every job, each with the one thing it waits for.
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query'
import { Suspense, lazy, useDeferredValue, useEffect, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { answer, asItIs, server, writeKey, type Refused } from '../../api/client'
import type { JobRow, Schemas } from '../../domain/schema'
import { useShop } from '../../api/queries'
import { ImportFile } from '../../ui/ImportFile'
import { upTo } from '../../ui/files'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useWaits } from '../../ui/awaited'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { dayText } from '../../domain/units'
import { phaseName, phaseWords } from '../../domain/labels'
import { Promised } from '../intake/Promised'
import { WaitsFor } from '../intake/WaitsFor'
import { BackupNotice } from './BackupNotice'
import { inSentence } from '../../domain/words'

// Fetched when the first job is opened.
const NewJob = lazy(async () => ({ default: (await import('./NewJob')).NewJob }))

function useJobs(search: string, finished: boolean, putAway: boolean, phase: Schemas['JobWait'] | '') {
  return useInfiniteQuery({
    queryKey: ['jobs', search, finished, putAway, phase],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      answer(
        server.GET('/api/jobs', {
          params: {
            query: {
              finished: finished || undefined,
              put_away: putAway || undefined,
              search: search || undefined,
              phase: phase || undefined,
              before: pageParam,
            },
          },
        }),
      ),
    getNextPageParam: (page) => (page.more ? page.jobs.at(-1)?.job_no : undefined),
    placeholderData: (before) => before,
  })
}

/** What a job waits for, in a line. */
function Waits({ job }: { job: JobRow }) {
  const waits = useWaits(job.job_no, job.next_check)
  if (job.put_away_at) return <span className="text-dim">put away {dayText(job.put_away_at)}</span>
  if (job.finished_at) return <span className="text-dim">handed over {dayText(job.finished_at)}</span>
  if (job.next_step)
    return (
      <span>
        <strong>build:</strong> {inSentence(job.next_step)}
      </span>
    )
  if (job.for_parts) return <strong>for parts</strong>
  if (job.next_phase === 'hand_over') return <strong>every check signed: hand over</strong>
  const name = inSentence(job.next_name ?? '')
  if (job.next_phase === 'await_part' && (waits.toOrder || waits.onOrder)) {
    return (
      <span>
        {waits.toOrder && <strong>{waits.toOrder} to order</strong>}
        {waits.toOrder && waits.onOrder && ', '}
        {waits.onOrder} for {name}
      </span>
    )
  }
  return (
    <span>
      <strong>{job.next_phase && phaseWords[job.next_phase]}</strong> {name}
    </span>
  )
}

/** What has to be got for it still. */
function PartsWait({ job }: { job: JobRow }) {
  const words = [
    job.parts_to_order != null && job.parts_to_order > 0 && `${job.parts_to_order} to order`,
    job.parts_on_order != null && job.parts_on_order > 0 && `${job.parts_on_order} on order`,
  ].filter(Boolean)
  if (words.length === 0) return null
  return <span className="block text-base">parts: {words.join(', ')}</span>
}

/** What is typed is in the address once the keys rest. */
const ADDRESS_LATER_MS = 300

export function BenchView() {
  useTitle('Bench')
  const { data: shop, error: shopError } = useShop()
  const [params, setParams] = useSearchParams()
  const finished = params.get('show') === 'finished'
  const putAway = params.get('show') === 'put-away'
  const phase = (params.get('phase') ?? '') as Schemas['JobWait'] | ''
  // Kept in the address as well: what was searched for is there again on the way back.
  const [search, setSearch] = useState(params.get('q') ?? '')
  useEffect(() => {
    // Past the router: it would take this for a step of its own, and break off one that is on its way.
    const later = setTimeout(() => {
      const address = new URL(location.href)
      if (address.pathname !== '/') return
      if (search) address.searchParams.set('q', search)
      else address.searchParams.delete('q')
      history.replaceState(history.state, '', address)
    }, ADDRESS_LATER_MS)
    return () => clearTimeout(later)
  }, [search])
  // Led here from a sheet, a job is opened on it.
  const asked = params.get('new') ?? ''
  const [opening, setOpening] = useState(asked !== '')
  const {
    data: fetched,
    error,
    fetchNextPage,
    hasNextPage,
    isFetchingNextPage,
  } = useJobs(useDeferredValue(search), finished, putAway, phase)
  const data = useSoon(fetched)
  const jobs = data?.pages.flatMap((p) => p.jobs)
  const waiting = data?.pages[0]?.waiting ?? []
  const filter = (key: string, label: string, on: boolean) => (
    <Link
      key={key}
      to={`/?${[key, search && `q=${encodeURIComponent(search)}`].filter(Boolean).join('&')}`}
      aria-current={on ? 'true' : undefined}
      className={`inline-flex min-h-12 items-center border-b-4 px-3 ${on ? 'border-blue font-bold' : 'border-transparent text-dim'}`}
    >
      {label}
    </Link>
  )
  const open = waiting.reduce((n, w) => n + w.jobs, 0)
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">{shop?.name ?? 'Bench'}</h1>
          <p className="text-dim">
            {shop?.place}{' '}
            <Link className="link inline-flex min-h-11 items-center" to="/shop">
              People and shop
            </Link>
          </p>
        </div>
        <input
          type="search"
          className="field sm:max-w-80"
          placeholder="Search these jobs"
          aria-label="Search jobs by number, box, customer or sheet"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <Link className="press-quiet" to="/together">
          Choose together
        </Link>
        <button className="press" onClick={() => setOpening(true)}>
          New job
        </button>
      </div>
      <nav aria-label="Which jobs" className="flex flex-wrap border-b border-line">
        {filter('', `Open ${open}`, !finished && !putAway && !phase)}
        {waiting.map((w) => filter(`phase=${w.phase}`, `${phaseName[w.phase]} ${w.jobs}`, phase === w.phase))}
        {filter('show=finished', 'Finished', finished)}
        {filter('show=put-away', 'Put away', putAway)}
      </nav>
      <BackupNotice />
      <Trouble error={(shopError ?? error) as Refused | null} />
      {!jobs ? (
        !error && <Loading what="the jobs" />
      ) : jobs.length === 0 ? (
        <div className="py-10">
          <p className="text-lg font-semibold">
            {search ? `No job has “${search}” in it.` : 'There is no such job on the bench.'}
          </p>
          <p className="mt-1 text-dim">
            {search ? (
              <button className="link min-h-12" onClick={() => setSearch('')}>
                Clear the search
              </button>
            ) : phase || finished || putAway ? (
              <button className="link min-h-12" onClick={() => setParams({})}>
                Show all open jobs
              </button>
            ) : (
              'Open one with New job: choose the spec sheet of the box, and say whose it is.'
            )}
          </p>
        </div>
      ) : (
        <ol className="ruled" aria-label={finished ? 'Finished jobs' : 'Open jobs'}>
          {jobs.map((job) => (
            <li key={job.job_no} className="far-row">
              <Link
                to={`/jobs/${job.job_no}`}
                className="grid grid-cols-[3rem_1fr_auto] items-center gap-x-4 gap-y-1 py-3 hover:bg-card md:grid-cols-[3.5rem_minmax(0,1.1fr)_minmax(0,1.6fr)_9rem]"
              >
                <span className="figure text-2xl font-semibold">{job.job_no}</span>
                <span className="min-w-0">
                  <span className="block text-lg font-bold">{job.title}</span>
                  <span className="block text-dim">
                    {job.customer} · {job.sheet}
                  </span>
                </span>
                <span className="col-start-2 text-lg md:col-start-auto">
                  <Waits job={job} />
                  {job.standing === 'on_bench' && <PartsWait job={job} />}
                  {job.standing === 'on_bench' && job.waits_for && (
                    <span className="block text-base">
                      <WaitsFor of={job.waits_for} />
                    </span>
                  )}
                  {job.standing === 'on_bench' && job.promised && (
                    <span className="block text-base text-dim">
                      <Promised day={job.promised} done={false} />
                    </span>
                  )}
                </span>
                <Progress job={job} />
              </Link>
            </li>
          ))}
        </ol>
      )}
      {hasNextPage && (
        <button
          className="press-quiet mt-5"
          disabled={isFetchingNextPage}
          onClick={() => void fetchNextPage()}
        >
          Show older jobs
        </button>
      )}
      {jobs && (
        <div className="mt-8 flex flex-wrap items-center gap-4 border-t border-line pt-4">
          <TakeInJob />
          <p className="text-dim">A job that another shop has handed on, saved from its report there.</p>
        </div>
      )}
      {opening && (
        <Suspense fallback={null}>
          <NewJob sheet={asked} onClose={() => setOpening(false)} />
        </Suspense>
      )}
    </main>
  )
}

/** A job from its file, under a number of this shop's. */
function TakeInJob() {
  const { who } = useBench()
  const client = useQueryClient()
  return (
    <ImportFile
      label="Take in a job’s file"
      accept=".zip,application/zip,.json,application/json"
      done={({ job_no }: { job_no: number }) => `It is job ${job_no} here.`}
      send={async (file) =>
        answer(
          server.POST('/api/job-file', {
            params: { query: { who }, header: { 'Idempotency-Key': writeKey() } },
            ...asItIs(upTo(200, file)),
          }),
        )
      }
      onDone={() => void client.invalidateQueries()}
    />
  )
}

/** One stroke for each check; the signed ones stand. */
function Progress({ job }: { job: JobRow }) {
  // A box that gives its parts is not measured.
  if (job.for_parts) return null
  return (
    <span className="col-start-3 row-start-1 flex flex-col items-end md:col-start-auto md:row-start-auto">
      <svg width={job.check_count * 11} height="24" aria-hidden="true">
        {Array.from({ length: job.check_count }, (_, i) => (
          <rect
            key={i}
            x={i * 11 + 1}
            y={i < job.signed_count ? 1 : 15}
            width="7"
            height={i < job.signed_count ? 22 : 8}
            fill={i < job.signed_count ? 'var(--ink)' : 'none'}
            stroke="var(--ink)"
            strokeWidth="1.4"
          />
        ))}
      </svg>
      <span className="text-right text-sm text-dim">
        {job.signed_count} of {job.check_count} signed
        {job.step_count != null && `, ${job.steps_done ?? 0} of ${job.step_count} steps`}
      </span>
    </span>
  )
}
