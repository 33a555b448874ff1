// The box coming apart: one part at a time along the rails, what was found of it, and what has to be got.
import { useEffect, useMemo, useRef, useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useBox, useParts } from '../../api/queries'
import { ShaftRail } from '../../charts/ShaftRail'
import { actWords } from '../../domain/act-words'
import { givenPartName, partStateName, supplyName } from '../../domain/labels'
import type { Box } from '../../domain/schema'
import { useAnyPartAct, useKept } from '../../ui/acts'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import { Shelve } from '../donors/Shelve'
import { LookFirst } from './LookFirst'
import { OnePart } from './OnePart'
import { StateShape } from './StateShape'
import type { OnJob, Parts } from './acts'

export function StripView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data: parts, error } = useParts(jobNo)
  useTitle(box ? `Strip, job ${jobNo}, ${box.title}` : undefined)
  const trouble = error ?? noBox
  if (trouble && !parts) return <Trouble error={trouble as unknown as Refused} />
  if (!box || !parts) return <Loading what="the parts" />
  if (parts.parts.length === 0)
    return (
      <main className="mx-auto max-w-3xl px-3 py-6 sm:px-6">
        <h1 className="text-2xl">Strip</h1>
        <p className="mt-2">
          The sheet of this box has no parts.{' '}
          <Link className="link" to={`/sheets/${box.sheet_key}/write`}>
            Write them on the sheet
          </Link>
        </p>
      </main>
    )
  return <Stripping box={box} of={parts} />
}

/** Whether somebody has looked at it. */
const seen = (part: OnJob) => part.found != null

function Stripping({ box, of }: { box: Box; of: Parts }) {
  const { parts } = of
  const doing = useAnyPartAct()
  const kept = useKeptParts(box.job_no)
  /** The first that nobody has looked at: what the complaints ask for, then from a place on and round again. */
  const nextFrom = (from: number, but = -1) => {
    const asked = of.look_first.flatMap((look) =>
      look.parts.map((p) => parts.findIndex((on) => on.key === p.part)),
    )
    const rest = [...parts.keys()].map((i) => (from + i) % parts.length)
    // What is new at every overhaul is no use to another box.
    const asks = (p: OnJob) => !seen(p) && !kept.has(p.key) && !(box.for_parts && p.always_new)
    return [...asked, ...rest].find((i) => i >= 0 && i !== but && asks(parts[i] as OnJob))
  }
  // The code on a label leads to its part.
  const [asked] = useSearchParams()
  const labelled = parts.findIndex((p) => p.key === asked.get('part'))
  const [at, setAt] = useState(() => (labelled >= 0 ? labelled : (nextFrom(0) ?? 0)))
  // With the last of them it ends: the next key is no word of a part that was decided already.
  const [isThrough, setThrough] = useState(false)
  const part = parts[Math.min(at, parts.length - 1)]
  const open = box.allowed.work
  const lit = useMemo(() => new Set(part ? [part.key] : []), [part])
  const go = (to: number) => {
    doing.reset()
    setThrough(false)
    setAt((to + parts.length) % parts.length)
  }
  const pick = useMemo(
    () => (key: string) => {
      setThrough(false)
      setAt(parts.findIndex((p) => p.key === key))
    },
    [parts],
  )
  const onwards = () => {
    const next = nextFrom(at + 1, at)
    if (next === undefined) setThrough(true)
    else go(next)
  }
  if (!part) return null
  const shaft = box.rail.shafts.find((s) => s.blocks.some((b) => b.part === part.key))?.key
  return (
    <main className="grid lg:grid-cols-[minmax(0,1fr)_25rem] print:block">
      <div className="min-w-0 border-line lg:sticky lg:top-0 lg:self-start lg:border-r print:hidden">
        {isThrough ? (
          <Through box={box} of={of} onBack={() => go(at)} />
        ) : (
          <OnePart
            key={part.key}
            job={box.job_no}
            part={part}
            place={`${at + 1} of ${parts.length}`}
            doing={doing}
            open={open}
            given={box.for_parts}
            onGo={(by) => go(at + by)}
            onSaid={onwards}
          />
        )}
        <section aria-label="Shafts" className="px-3 pb-6 sm:px-6">
          <ShaftRail
            rail={box.rail}
            checks={box.checks}
            to={(key) => `/jobs/${box.job_no}/checks/${key}`}
            lit={lit}
            only={shaft}
            onPart={pick}
          />
        </section>
      </div>
      <aside className="px-3 py-5 sm:px-6">
        <LookFirst of={of.look_first} parts={parts} onPart={pick} />
        {box.for_parts ? <Shelve box={box} /> : <ToGet of={of} job={box} />}
        <h2 className="mt-6 text-lg print:hidden">
          {of.looked_at} of {parts.length} looked at
        </h2>
        <ol className="ruled mt-1 print:hidden" aria-label="Parts">
          {parts.map((p, i) => (
            <li key={p.key}>
              <button
                className={`grid min-h-11 w-full grid-cols-[2rem_1fr] items-center gap-x-2 py-1 text-left ${i === at ? 'bg-card font-bold' : ''}`}
                aria-current={i === at ? 'true' : undefined}
                onClick={() => go(i)}
              >
                <StateShape
                  state={p.found?.state ?? (p.always_new && !box.for_parts ? 'renewed' : null)}
                  given={box.for_parts}
                />
                <span>
                  {p.count > 1 && `${p.count} × `}
                  {p.name}
                  <span className="block text-sm font-normal text-dim">
                    {kept.has(p.key) ? `${kept.get(p.key)}, waits for the server` : lineOf(p, box.for_parts)}
                  </span>
                </span>
              </button>
            </li>
          ))}
        </ol>
      </aside>
    </main>
  )
}

/** What was said of parts and waits for the server, in words. */
function useKeptParts(job: number): ReadonlyMap<string, string> {
  const kept = useKept(job)
  return useMemo(
    () => new Map(kept.flatMap((act) => (act.of === 'part' ? [[act.did.part, actWords(act.did)]] : []))),
    [kept],
  )
}

/** Every part has been looked at: what comes of it, and where the work goes on. */
function Through({ box, of, onBack }: { box: Box; of: Parts; onBack: () => void }) {
  const head = useRef<HTMLHeadingElement>(null)
  useEffect(() => head.current?.focus(), [])
  const toOrder = of.to_get.filter((one) => one.supply.state !== 'come').length
  const [to, words] = box.for_parts
    ? [`/jobs/${box.job_no}`, 'To the box']
    : toOrder > 0
      ? [`/jobs/${box.job_no}/order`, `To order: ${toOrder} to get`]
      : [`/jobs/${box.job_no}/build`, 'To the build']
  return (
    <section aria-label="Part" className="px-3 py-5 sm:px-6">
      <h1 ref={head} tabIndex={-1} className="mb-3 text-[1.9rem] leading-tight outline-none sm:text-[2.6rem]">
        All {of.parts.length} parts are decided
      </h1>
      <p className="text-dim">Each can be looked at again in the list.</p>
      <div className="mt-4 flex flex-wrap gap-3">
        <Link className="press" to={to}>
          {words}
        </Link>
        <button className="press-quiet" onClick={onBack}>
          Back to the last
        </button>
      </div>
    </section>
  )
}

/** What stands of a part, in a line. */
function lineOf(part: OnJob, given: boolean) {
  const { found } = part
  if (!found)
    return part.always_new ? (given ? 'no use again' : 'new at every overhaul') : 'not looked at yet'
  const names = given ? givenPartName : partStateName
  return [names[found.state].toLowerCase(), ...(found.conditions ?? []), found.why, found.who]
    .filter(Boolean)
    .join(' · ')
}

/** What has to be got, to be read out at the counter. */
function ToGet({ of, job }: { of: Parts; job: Box }) {
  return (
    <section aria-label="To get">
      <div className="flex items-center justify-between gap-2">
        <h2 className="text-lg">
          To get: {of.to_get.filter((one) => one.supply.state !== 'come').length}
          <span className="hidden print:inline">
            , job {job.job_no}, {job.title}
          </span>
        </h2>
        <span className="no-print flex flex-wrap justify-end gap-2">
          <Link className="press-quiet" to={`/jobs/${job.job_no}/donors`}>
            Donors
          </Link>
          <Link className="press-quiet" to={`/jobs/${job.job_no}/order`}>
            Order
          </Link>
          <button className="press-quiet" onClick={() => print()}>
            Print
          </button>
        </span>
      </div>
      {of.to_get.length === 0 ? (
        <p className="text-dim">Nothing yet: all that was looked at goes back in.</p>
      ) : (
        <ul className="ruled mt-1">
          {of.to_get.map((one) => (
            <li key={one.part} className="py-1.5">
              <span className="figure">{one.count} × </span>
              {one.name}
              {one.number && <span className="figure"> · {one.number}</span>}
              <span className="block text-sm text-dim">
                {one.why}
                {one.supply.who && ` · ${supplyName[one.supply.state].toLowerCase()}`}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
