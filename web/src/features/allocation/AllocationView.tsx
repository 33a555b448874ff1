// Pieces for all open checks of a box, or of the whole bench, shared out from the same drawers.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { sizeCounts } from '../../domain/pieces'
import type { Schemas } from '../../domain/schema'
import { Trouble } from '../../ui/Parts'
import { Searching } from '../../ui/Searching'
import { SlotStrip } from '../../charts/SlotGauge'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { percent, piecesText, show, unitName } from '../../domain/units'
import { useShare, type Share } from './allocate'
import { Beyond, LeftOut } from './LeftOut'
import { why } from './why'
import { allInSentence } from '../../domain/words'

type Line = Schemas['AllocationLine']
type View = Schemas['AllocationView']

const keyOf = (line: { job_no: number; check_key: string }) => `${line.job_no}/${line.check_key}`
/** How long a person waits who asks for more. */
const LONGER_S = 30

export function AllocationView() {
  const { jobNo } = useParams()
  const job = jobNo === undefined ? undefined : Number(jobNo)
  useTitle(job === undefined ? 'Choose for the whole bench' : `Choose together, job ${job}`)
  return <Together key={job ?? 'bench'} job={job} />
}

function Together({ job }: { job: number | undefined }) {
  const [pins, setPins] = useState<Record<string, Schemas['Pin']>>({})
  const share = useShare(job, Object.values(pins))
  const { view } = share
  const pin = (line: Line, choice: Schemas['LineChoice'] | null | undefined) => {
    const together = view?.lines.filter((o) => o === line || o.coupled_with.includes(line.name)) ?? []
    setPins((was) => {
      const next = { ...was }
      for (const one of together.filter((o) => o.job_no === line.job_no && o.family_name)) {
        const pieces = one === line ? choice?.pieces : one.together?.pieces
        if (choice && pieces)
          next[keyOf(one)] = { job_no: one.job_no, check_key: one.check_key, pieces: sizeCounts(pieces) }
        else delete next[keyOf(one)]
      }
      return next
    })
  }
  const title = view?.lines[0]?.title ?? view?.left_out[0]?.title
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <header className="flex flex-wrap items-end gap-x-6 gap-y-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">Choose together</h1>
          <p className="text-dim">
            {job === undefined ? (
              'Every open check of the bench, from the same drawers'
            ) : (
              <>
                <Link className="link" to={`/jobs/${job}`}>
                  Job {job}
                </Link>
                {title && `, ${title}`}: every open check, from the same drawers ·{' '}
                <Link className="link" to="/together">
                  the whole bench
                </Link>
              </>
            )}
          </p>
        </div>
        <Link className="press-quiet" to={job === undefined ? '/order' : `/jobs/${job}/order`}>
          What to order
        </Link>
        {view && <SetAside view={view} job={job} share={share} />}
      </header>
      <Trouble error={share.error} />
      {share.running && (
        <Searching of={share} doing="Sharing the drawers out …">
          {share.progress &&
            `${share.progress.tally.inside} in their windows so far, at most ${share.progress.bound.inside}`}
        </Searching>
      )}
      {!share.running && !view && !share.error && (
        <p className="py-6">
          The search was stopped before it found anything.{' '}
          <button className="link min-h-11" onClick={() => share.again()}>
            Search again
          </button>
        </p>
      )}
      {view && (
        <div aria-busy={share.running}>
          <Beyond of={view.beyond} />
          <Result view={view} share={share} />
          <Lines view={view} pins={pins} onPin={pin} one={job !== undefined} />
          <LeftOut title="Not chosen for" of={view.left_out} one={job !== undefined} />
        </div>
      )}
    </main>
  )
}

const checks = (n: number) => `${n} ${n === 1 ? 'check' : 'checks'}`

/** The answer in one line, and how far it can be relied on. */
function Result({ view, share }: { view: View; share: Share }) {
  const { unit } = useBench()
  const { tally, bound, one_by_one: alone, asked, proven } = view
  if (asked === 0) {
    return (
      <p className="py-6 text-lg font-semibold">
        No check waits for a piece just now
        {view.left_out.length > 0 ? '; those below are not ready for one.' : '.'}
      </p>
    )
  }
  const off = (nm: number) => `${show(nm, unit)} ${unitName[unit]}`
  const gained = tally.inside - alone.inside
  return (
    <section aria-label="Result" className="border-b border-line py-4">
      <p className="text-2xl" data-testid="together">
        <strong className="figure text-[2.6rem] leading-none">
          {tally.inside} of {asked}
        </strong>{' '}
        land in their windows, {tally.sure === tally.inside ? 'all' : tally.sure} of them with{' '}
        {percent(view.floor)} or better; off target by{' '}
        <span className="figure">{off(tally.distance_nm)}</span> in all.
      </p>
      <p className="mt-2 text-dim">
        {proven
          ? 'No other way to share these drawers out is better: every one has been ruled out.'
          : `The search was stopped: ${
              bound.inside > tally.inside
                ? `at most ${bound.inside} could be in`
                : bound.sure > tally.sure
                  ? `no more could be in, and at most ${bound.sure} of them surely`
                  : `no more could be in, and at best they are off by ${off(bound.distance_nm)}`
            }.`}{' '}
        One by one, {checks(alone.inside)} would be in
        {gained > 0
          ? `: ${gained} fewer.`
          : alone.sure < tally.sure
            ? `, ${tally.sure - alone.sure} fewer of them surely.`
            : alone.distance_nm - tally.distance_nm > 1
              ? `, off by ${off(alone.distance_nm)}.`
              : ', and no worse.'}
      </p>
      {!proven && !share.running && (
        <button className="press-quiet mt-3" onClick={() => share.again(LONGER_S)}>
          Search {LONGER_S} seconds more
        </button>
      )}
    </section>
  )
}

function SetAside({ view, job, share }: { view: View; job: number | undefined; share: Share }) {
  const { who } = useBench()
  const client = useQueryClient()
  const choices = view.lines.flatMap((line) =>
    line.together && line.family_name ? [{ line, pieces: sizeCounts(line.together.pieces) }] : [],
  )
  const asideAlready = ({ line, pieces }: (typeof choices)[number]) =>
    JSON.stringify(pieces) === JSON.stringify(sizeCounts(line.set_aside ?? []))
  const wanted = choices.filter((choice) => !asideAlready(choice))
  const act = useMutation<unknown, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/share/choose', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: {
            who,
            from_job: job,
            choices: choices.map(({ line: { job_no, check_key, version }, pieces }) => ({
              job_no,
              check_key,
              version,
              pieces,
            })),
          },
        }),
      ),
    onSettled: () => {
      void client.invalidateQueries()
      share.again()
    },
  })
  const settled = view.lines.length > 0 && wanted.length === 0
  return (
    <div className="text-right">
      {settled ? (
        <p className="font-bold" role="status">
          ✓ All set aside{' '}
          <Link className="press ml-2" to={job === undefined ? '/' : `/jobs/${job}`}>
            {job === undefined ? 'To the bench' : 'To the box'}
          </Link>
        </p>
      ) : (
        wanted.length > 0 && (
          <button className="press" disabled={act.isPending || share.running} onClick={() => act.mutate()}>
            Set these aside
          </button>
        )
      )}
      <Trouble error={act.error} />
    </div>
  )
}

interface LinesProps {
  view: View
  pins: Record<string, Schemas['Pin']>
  onPin: (line: Line, choice: Schemas['LineChoice'] | null | undefined) => void
  one: boolean
}

function Lines({ view, pins, onPin, one }: LinesProps) {
  const { unit } = useBench()
  if (view.lines.length === 0) return null
  return (
    <table className="mt-2 w-full max-sm:[&_td]:px-1 max-sm:[&_td]:text-sm max-sm:[&_th]:px-1">
      <caption className="sr-only">What each check gets</caption>
      <thead>
        <tr>
          <th className="th">Check</th>
          <th className="th">Gets, {unitName[unit]}</th>
          <th className="th text-right">Gives</th>
          <th className="th hidden sm:table-cell">Lands</th>
          <th className="th text-right">Chance</th>
          <th className="th hidden md:table-cell">One by one</th>
          <th className="th text-right">Pin</th>
        </tr>
      </thead>
      {view.lines.map((line, i) => (
        <tbody key={keyOf(line)} className={line.why ? 'bg-blue-soft' : ''}>
          {!one && view.lines[i - 1]?.job_no !== line.job_no && (
            <tr className="bg-paper">
              <th colSpan={7} className="px-2 pt-5 pb-1 text-left text-base">
                <Link className="link" to={`/jobs/${line.job_no}`}>
                  Job {line.job_no}
                </Link>
                , {line.title}
              </th>
            </tr>
          )}
          <LineRow line={line} pinned={keyOf(line) in pins} onPin={onPin} />
          {(line.why ?? line.coupled_with.length > 0) && (
            <tr>
              <td colSpan={7} className="px-2 pb-3 text-sm">
                {line.coupled_with.length > 0 &&
                  `The same pieces also move ${allInSentence(line.coupled_with)}: they are chosen as one. `}
                {why(line, view.lines, unit)}
              </td>
            </tr>
          )}
        </tbody>
      ))}
    </table>
  )
}

function LineRow({ line, pinned, onPin }: { line: Line; pinned: boolean; onPin: LinesProps['onPin'] }) {
  const { unit } = useBench()
  const { together: got, alone } = line
  const gives = (choice: Schemas['LineChoice']) => (
    <>
      {show(Math.abs(choice.outcome.predicted_nm), unit)}
      {choice.outcome.predicted_nm < 0 && <span className="block font-sans text-sm text-dim">preload</span>}
    </>
  )
  const text = got && (got.pieces.length > 0 ? piecesText(got.pieces, unit) : '—')
  return (
    <tr>
      <td className="td">
        <Link className="link" to={`/jobs/${line.job_no}/checks/${line.check_key}`}>
          {line.name}
        </Link>
        {line.set_aside && (
          <span className="block text-sm text-dim">set aside: {piecesText(line.set_aside, unit)}</span>
        )}
      </td>
      {got ? (
        <>
          <td className="td figure text-lg font-semibold sm:text-xl">{text}</td>
          <td className="td figure text-right text-lg">{gives(got)}</td>
          <td className="td hidden sm:table-cell">
            <SlotStrip
              window={line.window}
              pin={{ nm: got.outcome.predicted_nm, lands: got.outcome.lands }}
            />
          </td>
          <td
            className={`td figure text-right max-sm:text-sm ${got.outcome.reaches_floor ? 'font-bold' : ''}`}
          >
            {percent(got.outcome.chance)}
          </td>
        </>
      ) : (
        <td className="td" colSpan={4}>
          <strong>
            {pinned ? 'What was pinned is not in the drawer any more' : 'Nothing left in the drawer fits'}
          </strong>{' '}
          ·{' '}
          <Link className="link" to={`/jobs/${line.job_no}/checks/${line.check_key}`}>
            ways out
          </Link>
        </td>
      )}
      <td className="td hidden text-dim md:table-cell">
        {line.why || !got ? (
          alone ? (
            <>
              <span className="figure">{piecesText(alone.pieces, unit)}</span>, gives {gives(alone)}
            </>
          ) : (
            'nothing'
          )
        ) : (
          'the same'
        )}
      </td>
      <td className="td text-right">
        {line.family_name && (got ?? pinned) && (
          <label className="inline-flex min-h-12 min-w-12 items-center justify-end">
            <input
              type="checkbox"
              className="size-6 accent-[var(--blue)]"
              checked={pinned}
              aria-label={`Pin ${text ?? 'the pieces'} for ${line.name}`}
              onChange={() => onPin(line, pinned ? null : got)}
            />
          </label>
        )}
      </td>
    </tr>
  )
}
