// The build of a job: the one next thing, the rail filling up, all steps.
import { memo, useMemo, useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useBox, useBuild } from '../../api/queries'
import { ShaftRail } from '../../charts/ShaftRail'
import type { Box } from '../../domain/schema'
import { Loading, Trouble } from '../../ui/Parts'
import { usePrinting } from '../../ui/printing'
import { useTitle } from '../../ui/title'
import { PartSheet } from '../parts/PartSheet'
import { NextThing, Timer } from './NextThing'
import { PrintList } from './PrintList'
import { ShiftTest } from './ShiftTest'
import { StepList } from './StepList'
import { TearBackSheet, type Wanted } from './TearBackSheet'
import { minutesWords, secondsLeft, useBuildAct, useKeptSteps, useNow, type Build } from './acts'

export function BuildView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data: build, error } = useBuild(jobNo)
  useTitle(box ? `Build, job ${jobNo}, ${box.title}` : undefined)
  const trouble = error ?? noBox
  if (trouble && !build)
    return (
      <main className="mx-auto max-w-3xl px-3 py-6 sm:px-6">
        <h1 className="text-2xl">Build</h1>
        <Trouble error={trouble as unknown as Refused} />
        {box && (
          <Link className="link" to={`/sheets/${box.sheet_key}/write`}>
            Write the steps on the sheet
          </Link>
        )}
      </main>
    )
  if (!box || !build) return <Loading what="the build" />
  return <Building box={box} build={build} />
}

function Building({ box, build }: { box: Box; build: Build }) {
  const doing = useBuildAct(box.job_no)
  const kept = useKeptSteps(box.job_no)
  const printing = usePrinting()
  const [taken, setTaken] = useState<number | null>(null)
  // From a check whose pieces change: what comes out for it is asked at once.
  const [params, setParams] = useSearchParams()
  const asked = params.get('back')
  const [back, setBack] = useState<Wanted | null>(asked ? { check: asked } : null)
  const [part, setPart] = useState<string | null>(null)
  const [path, setPath] = useState<string[] | null>(null)
  const open = box.allowed.work
  const at = taken ?? ('step' in build.next ? build.next.step : -1)
  const built = useMemo(() => new Set(build.parts.filter((p) => p.is_in).map((p) => p.key)), [build.parts])
  const puts = build.steps[at]?.step.puts
  const lit = useMemo(() => new Set(path ?? puts ?? []), [path, puts])
  const goBack = (step: string) => {
    doing.reset()
    setBack({ step })
  }
  const shown = build.parts.find((p) => p.key === part)
  const to = (key: string) => `/jobs/${box.job_no}/checks/${key}`
  return (
    <main>
      <div className="no-print">
        <Waits build={build} at={at} onTake={setTaken} />
      </div>
      {printing && <PrintList build={build} title={`Build of job ${box.job_no}, ${box.title}`} />}
      <div className="grid lg:grid-cols-[minmax(0,1fr)_25rem] print:hidden">
        <div className="no-print min-w-0 border-line lg:border-r">
          {open ? (
            <NextThing
              job={box.job_no}
              build={build}
              doing={doing}
              kept={kept}
              taken={taken}
              onTaken={setTaken}
              onBack={goBack}
            />
          ) : (
            <h1 className="px-3 py-5 text-2xl sm:px-6">The build of job {box.job_no}</h1>
          )}
          <section aria-label="Shafts" className="px-3 pb-6 sm:px-6">
            <ShaftRail rail={box.rail} checks={box.checks} to={to} built={built} lit={lit} onPart={setPart} />
            {build.shift && <ShiftTest of={build.shift} doing={doing} open={open} onLook={setPath} />}
            <OffTheRails build={build} lit={lit} onPart={setPart} />
          </section>
        </div>
        <aside className="px-3 py-5 sm:px-6">
          <div className="mb-2 flex items-center justify-between gap-2">
            <div>
              <h2 className="text-lg">
                {build.done} of {build.steps.length} steps done
              </h2>
              {build.minutes_left != null && build.minutes_left > 0 && (
                <p className="text-dim">about {minutesWords(build.minutes_left)} to go</p>
              )}
            </div>
            <button className="press-quiet no-print" onClick={() => print()}>
              Print
            </button>
          </div>
          {build.gone.length > 0 && (
            <p className="my-2 border-l-4 border-brass bg-brass-soft px-3 py-2">
              Done, and not on the sheet any more: {build.gone.join(', ')}
            </p>
          )}
          <StepList
            build={build}
            doing={doing}
            kept={kept}
            onTake={setTaken}
            onBack={goBack}
            opened={params.get('step')}
            open={open}
          />
        </aside>
      </div>
      {shown && (
        <PartSheet part={shown} onClose={() => setPart(null)}>
          <p className="mt-2">
            {shown.is_in ? 'In the box' : 'Not in yet'}
            {shown.step != null && `: step ${shown.step + 1}, ${build.steps[shown.step]?.step.what ?? ''}`}
          </p>
          {open && shown.is_in && shown.step != null && (
            <button
              className="press-quiet mt-3"
              onClick={() => {
                doing.reset()
                setPart(null)
                setBack({ part: shown.key })
              }}
            >
              Get at it again …
            </button>
          )}
        </PartSheet>
      )}
      {back && (
        <TearBackSheet
          job={box.job_no}
          to={back}
          build={build}
          doing={doing}
          onClose={() => {
            doing.reset()
            setBack(null)
            setTaken(null)
            if (asked) setParams({}, { replace: true })
          }}
        />
      )}
    </main>
  )
}

/** What takes its time, and what can be done meanwhile. */
function Waits({ build, at, onTake }: { build: Build; at: number; onTake: (step: number) => void }) {
  const waiting = build.steps
    .map((of, i) => ({ of, i }))
    .filter(({ of, i }) => of.began_at && of.state !== 'done' && i !== at)
  const now = useNow(build.now, waiting.length > 0)
  if (waiting.length === 0) return null
  return (
    <div className="border-b border-line bg-brass-soft px-3 py-2 sm:px-6" data-testid="waits">
      {waiting.map(({ of, i }) => (
        <div key={of.step.key} className="flex flex-wrap items-center gap-x-5 gap-y-1">
          <p className="mr-auto">
            <strong>{of.step.what}</strong>: <Timer of={of} left={secondsLeft(of, now) ?? 0} />
          </p>
          <button className="press-quiet" onClick={() => onTake(i)}>
            To it
          </button>
        </div>
      ))}
      {build.meanwhile.length > 1 && (
        <p className="mt-1 text-sm">
          Meanwhile also:{' '}
          {build.meanwhile
            .filter((i) => i !== at)
            .map((i) => (
              <button key={i} className="link mr-3 min-h-8 text-left" onClick={() => onTake(i)}>
                {build.steps[i]?.step.what}
              </button>
            ))}
        </p>
      )}
    </div>
  )
}

/** Seals, rings, springs, forks, covers: in, or still on the bench. */
function OffTheRails({
  build,
  lit,
  onPart,
}: {
  build: Build
  lit: ReadonlySet<string>
  onPart: (part: string) => void
}) {
  const items = build.parts.filter((p) => !p.on_rail)
  if (items.length === 0) return null
  return (
    <section aria-label="Off the rails">
      <h2 className="mt-4 text-[17px] font-bold">Off the rails</h2>
      <ul className="mt-2 flex flex-wrap gap-2">
        {items.map((p) => (
          <OffRail key={p.key} part={p} isLit={lit.has(p.key)} onPart={onPart} />
        ))}
      </ul>
    </section>
  )
}

/** One of them. Long lists are drawn anew only where a part has changed. */
const OffRail = memo(function OffRail({
  part,
  isLit,
  onPart,
}: {
  part: Build['parts'][number]
  isLit: boolean
  onPart: (part: string) => void
}) {
  return (
    <li>
      <button
        className={`min-h-11 border-[1.5px] px-2 text-left ${part.is_in ? 'border-ink bg-ink text-paper' : isLit ? 'border-blue outline-2 outline-blue' : 'border-dashed border-dim'}`}
        onClick={() => onPart(part.key)}
      >
        {part.count > 1 && `${part.count} × `}
        {part.name}
        <span className="sr-only">{part.is_in ? ', in' : ', not in yet'}</span>
      </button>
    </li>
  )
})
