// Dismantled boxes side by side, and the best box that can be made of them.
import { useEffect, useEffectEvent, useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useBox, useDonors } from '../../api/queries'
import { useSearch, type Search } from '../../api/search'
import { SlotStrip } from '../../charts/SlotGauge'
import type { Box, Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { clearance, percent, piecesText, show, unitName, windowWords } from '../../domain/units'
import { allInSentence } from '../../domain/words'
import { useDonorAct } from '../../ui/acts'
import { Loading, Trouble } from '../../ui/Parts'
import { Searching } from '../../ui/Searching'
import { useTitle } from '../../ui/title'
import { Side } from './Side'
import type { Pins } from './acts'

type View = Schemas['DonorsView']
type Best = Schemas['BestView']
type Found = Search<Schemas['DonorProgress'], Best>

/** How long a person waits who asks for more. */
const LONGER_S = 30

export function DonorsView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data, error } = useDonors(jobNo)
  useTitle(box && `Donors, job ${jobNo}, ${box.title}`)
  const trouble = error ?? noBox
  if (trouble && !data) return <Trouble error={trouble as unknown as Refused} />
  if (!box || !data) return <Loading what="the boxes" />
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <h1 className="pt-5 text-3xl">Donors</h1>
      <p className="text-dim">
        <Link className="link" to={`/jobs/${jobNo}`}>
          Job {jobNo}, {box.title}
        </Link>
        : the best box from this one and those that give their parts
      </p>
      {data.boxes.length < 2 ? <NoDonors box={box} /> : <Choosing box={box} of={data} />}
    </main>
  )
}

function NoDonors({ box }: { box: Box }) {
  return (
    <div className="py-4 text-lg">
      <p>
        No dismantled {box.sheet} is here, and nothing of one lies on the shelf. Open a job for a box that is
        for parts, say of its parts which are sound, and they stand here beside this one’s.
      </p>
      <Link className="press mt-4" to={`/?new=${box.sheet_key}`}>
        Open a job for such a box
      </Link>
    </div>
  )
}

function Choosing({ box, of }: { box: Box; of: View }) {
  const [pins, setPins] = useState<Pins>({})
  const [without, setWithout] = useState<number[]>([])
  const best = useSearch<Schemas['DonorProgress'], Best>(
    `/api/jobs/${box.job_no}/donors/best`,
    { pinned: Object.entries(pins).map(([part, from]) => ({ part, from })), without },
    'best',
  )
  const { view } = best
  // What is in has changed since it was searched for.
  const searched = useRef(of)
  const again = useEffectEvent(() => best.again())
  useEffect(() => {
    if (searched.current !== of) again()
    searched.current = of
  }, [of])
  const open = box.allowed.work
  return (
    <>
      <Boxes of={of} without={without} onWithout={setWithout} />
      <Trouble error={best.error} />
      {best.running && (
        <Searching of={best} doing="Looking for the best box …">
          {best.progress &&
            `${partsOf(best.progress.tally.new)} new so far, at least ${best.progress.bound.new}`}
        </Searching>
      )}
      {!best.running && !view && !best.error && (
        <p className="py-6">
          The search was stopped before it found anything.{' '}
          <button className="link min-h-11" onClick={() => best.again()}>
            Search again
          </button>
        </p>
      )}
      {view && (
        <div aria-busy={best.running}>
          <Result view={view} best={best} />
          {open && <Take box={box} view={view} best={best} onTaken={() => setPins({})} />}
          <Checks view={view} />
          <GivenUp view={view} boxes={of.boxes} own={box.job_no} />
          <Side of={of} view={view} pins={pins} without={without} onPins={setPins} open={open} />
        </div>
      )}
    </>
  )
}

/** The boxes, each with what can be had of it. */
function Boxes({
  of,
  without,
  onWithout,
}: {
  of: View
  without: number[]
  onWithout: (without: number[]) => void
}) {
  return (
    <ul className="mt-3 flex flex-wrap gap-3" aria-label="Boxes">
      {of.boxes.map((one, i) => {
        const out = without.includes(one.job_no)
        return (
          <li
            key={one.job_no}
            className={`border-[1.5px] px-3 py-2 ${out ? 'border-line text-dim' : 'border-dim'}`}
          >
            <p>
              <strong>{i === 0 ? 'This box' : `Job ${one.job_no}`}</strong>
              {i > 0 && `, ${one.title}`}
              {one.build_of && <span className="block text-sm text-dim">{one.build_of}</span>}
            </p>
            <p className="text-sm text-dim">
              {one.on_shelf && 'on the shelf · '}
              {one.usable} can be used
              {one.not_looked_at > 0 && !one.on_shelf && (
                <>
                  {' · '}
                  <Link className="link" to={`/jobs/${one.job_no}/strip`}>
                    {one.not_looked_at} not looked at
                  </Link>
                </>
              )}
            </p>
            {i > 0 && (
              <label className="flex min-h-11 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-6"
                  checked={!out}
                  onChange={() =>
                    onWithout(out ? without.filter((w) => w !== one.job_no) : [...without, one.job_no])
                  }
                />
                may give
              </label>
            )}
          </li>
        )
      })}
    </ul>
  )
}

const partsOf = (n: number) => `${n} ${n === 1 ? 'part' : 'parts'}`

/** The answer in one line, and how far it can be relied on. */
function Result({ view, best }: { view: Best; best: Found }) {
  const { tally, bound, part_by_part: alone, proven } = view
  const sums = view.checks.length
  const worse = tally.set - alone.set
  return (
    <section aria-label="Result" className="py-4">
      <p className="text-2xl" data-testid="best">
        <strong className="figure text-[2.6rem] leading-none">{tally.new}</strong> new,{' '}
        <strong className="figure">{tally.worn}</strong> worn
        {sums > 0 && (
          <>
            ;{' '}
            <strong className="figure">
              {view.sure} of {sums}
            </strong>{' '}
            {sums === 1 ? 'sum' : 'sums'} can be set as surely as the shop asks
            {tally.set > view.sure && `, ${tally.set - view.sure} more with less`};{' '}
            {percent(view.all_at_once)} that {sums === 1 ? 'it lands' : 'all land at once'}
          </>
        )}
        .
      </p>
      <p className="mt-1 text-dim">
        {proven
          ? 'No other box from these is better: every one has been ruled out.'
          : `The search was stopped: at best ${bound.set} could be set, with ${bound.new} new and ${bound.worn} worn.`}{' '}
        {sums > 0 &&
          worse > 0 &&
          `With the best of each part by itself ${alone.set === 0 ? 'none' : alone.set} could be set.`}{' '}
        New are also the parts that are new at every overhaul.
      </p>
      {!proven && !best.running && (
        <button className="press-quiet mt-3" onClick={() => best.again(LONGER_S)}>
          Search {LONGER_S} seconds more
        </button>
      )}
    </section>
  )
}

/** What of the best box is not so yet, put on record in one press. */
function Take({ box, view, best, onTaken }: { box: Box; view: Best; best: Found; onTaken: () => void }) {
  const taking = useDonorAct()
  const wanted = view.picks.filter((pick) => !pick.is_so)
  const donors = new Set(wanted.map((p) => p.from).filter((from) => from != null && from !== box.job_no))
  if (wanted.length === 0) return <p className="font-semibold">✓ This box is just that already.</p>
  return (
    <div className="flex flex-wrap items-center gap-4">
      <button
        className="press"
        disabled={taking.isPending || best.running}
        onClick={() =>
          taking.mutate(
            {
              job: box.job_no,
              did: { act: 'take', parts: wanted.map(({ part, from }) => ({ part, from })) },
            },
            { onSuccess: onTaken },
          )
        }
      >
        Make it so: {partsOf(wanted.length)}
      </button>
      <p className="text-dim">
        {donors.size > 0 &&
          `Taken from ${donors.size === 1 ? 'one other box' : `${donors.size} other boxes`}; `}
        what is new goes on the parts list.
      </p>
      <Trouble error={taking.error} />
    </div>
  )
}

function Checks({ view }: { view: Best }) {
  const { unit } = useBench()
  if (view.checks.length === 0 && view.left_out.length === 0) return null
  return (
    <section aria-label="Checks" className="mt-5">
      <h2 className="text-lg">What can be set</h2>
      {view.checks.length === 0 && (
        <p className="text-dim">
          No check of this sheet is a sum of its parts: the parts do not say beforehand.
        </p>
      )}
      <ul className="ruled mt-1">
        {view.checks.map((c) => (
          <li key={c.check_key} className="grid items-center gap-x-6 gap-y-1 py-3 sm:grid-cols-[1fr_8rem]">
            <div>
              <p>
                <strong>{c.name}</strong>:{' '}
                {c.is_set ? '' : <strong className="text-oxide">△ cannot be set. </strong>}
                <span className="text-dim">window {windowWords(c.window, unit, c.kind)}</span>
              </p>
              <p className="figure">
                leaves {show(c.left_nm, unit)}
                {c.pieces.length > 0 &&
                  ` → ${piecesText(c.pieces, unit)} gives ${clearance(c.predicted_nm, unit, false, c.kind).figure}`}{' '}
                ± {show(c.expanded_nm, unit)} {unitName[unit]}, {percent(c.chance)} sure
                {!c.reaches_floor && ', less than the shop asks'}
              </p>
            </div>
            {c.is_set && <SlotStrip window={c.window} pin={{ nm: c.predicted_nm, lands: 'in' }} />}
          </li>
        ))}
      </ul>
      {view.left_out.length > 0 && (
        <details className="mt-2">
          <summary className="flex min-h-11 cursor-pointer items-center text-dim">
            {view.left_out.length} others are measured once it is together
          </summary>
          <ul className="text-dim">
            {view.left_out.map((l) => (
              <li key={l.name}>
                {l.name}: {l.why}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

/** Where another part is better by itself. */
function GivenUp({ view, boxes, own }: { view: Best; boxes: Schemas['DonorBox'][]; own: number }) {
  if (view.given_up.length === 0) return null
  const named = (from: number | null | undefined) =>
    from == null ? 'new' : from === own ? 'of this box' : `of job ${from}${shelf(from)}`
  const shelf = (from: number) => (boxes.find((b) => b.job_no === from)?.on_shelf ? ', on the shelf' : '')
  return (
    <section aria-label="Given up" className="mt-5">
      <h2 className="text-lg">What that gives up</h2>
      <ul className="ruled mt-1">
        {view.given_up.map((g) => (
          <li key={g.parts.join()} className="py-2">
            <strong>{g.parts.join(', ')}</strong>: {named(g.from)}. The one that is better by itself,{' '}
            {named(g.better)},
            {g.checks.length > 0
              ? ` would leave ${allInSentence(g.checks)} without pieces that set it.`
              : ' would leave fewer checks that can be set, with the others as they are.'}
          </li>
        ))}
      </ul>
    </section>
  )
}
