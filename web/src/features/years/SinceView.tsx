// A box that was here before: what is found of it beside what was signed then, and how far its parts have worn.
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useBox, useSince } from '../../api/queries'
import type { Schemas, Unit } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { clearance, dayText, show, unitName, windowWords } from '../../domain/units'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'

type Moved = Schemas['MovedSince']
type Worn = Schemas['WornSince']

export function SinceView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data, error } = useSince(jobNo)
  useTitle(box && `Since it was last here, job ${jobNo}, ${box.title}`)
  const trouble = error ?? noBox
  if (trouble && !data) return <Trouble error={trouble as unknown as Refused} />
  if (!box || data === undefined) return <Loading what="what it was then" />
  return (
    <main className="mx-auto max-w-[70rem] px-3 pb-16 sm:px-6">
      <h1 className="pt-5 text-2xl">Since it was last here</h1>
      <p className="text-dim">
        <Link className="link" to={`/jobs/${jobNo}`}>
          Job {jobNo}, {box.title}
        </Link>
        {data && (
          <>
            , was here as{' '}
            <Link className="link" to={`/jobs/${data.before.job_no}/report`}>
              job {data.before.job_no}
            </Link>
            , handed over {dayText(data.before.finished_at ?? data.before.opened_at)}
            {data.years != null && `, ${yearsText(data.years)} before this`}.
          </>
        )}
      </p>
      {data ? (
        <>
          <Checks of={data.checks} />
          <Parts of={data.parts} />
        </>
      ) : (
        <p className="py-4 text-lg">
          Nothing is known of this box from before: it was not handed over here under the number stamped on
          it, or on another sheet.
        </p>
      )}
    </main>
  )
}

/** A time in years, or in months where that says more. */
export function yearsText(years: number) {
  if (years < 1.5) {
    const months = Math.round(years * 12)
    return months === 1 ? 'one month' : `${months} months`
  }
  return `${years.toFixed(1)} years`
}

function Checks({ of }: { of: Moved[] }) {
  const { unit } = useBench()
  return (
    <section aria-label="As found beside what was signed" className="mt-5">
      <h2 className="text-lg">As found, beside what was signed</h2>
      {of.length === 0 && (
        <p className="mt-1">
          No check that was signed then has been measured yet as it was found. Measure before anything is
          changed.
        </p>
      )}
      <ul className="ruled mt-1">
        {of.map((m) => (
          <li key={m.check_key} className="grid items-center gap-x-6 gap-y-1 py-3 sm:grid-cols-[1fr_20rem]">
            <div>
              <p className="font-bold">{m.name}</p>
              <p>
                signed at {said(m.signed_nm, unit, m.kind)}, found at {said(m.found_nm, unit, m.kind)}{' '}
                {unitName[unit]}
              </p>
              <p className={m.is_told ? 'font-semibold' : 'text-dim'}>{movedWords(m, unit)}</p>
              <p className="text-sm text-dim">window {windowWords(m.window, unit, m.kind)}</p>
            </div>
            <Went moved={m} />
          </li>
        ))}
      </ul>
    </section>
  )
}

const said = (nm: number, unit: Unit, kind: Moved['kind']) => {
  const of = clearance(nm, unit, false, kind)
  return `${of.word ? `${of.word} ` : ''}${of.figure}`
}

/** How far it went, in words. */
function movedWords(m: Moved, unit: Unit) {
  const by = show(Math.abs(m.moved_nm), unit)
  const doubt = `± ${show(m.expanded_nm, unit)} ${unitName[unit]}`
  if (!m.is_told) return `it has not gone further than the doubt of two measurements, ${doubt}`
  const year = m.per_year_nm == null ? '' : `, ${show(Math.abs(m.per_year_nm), unit)} a year`
  return `${m.moved_nm > 0 ? 'looser' : 'tighter'} by ${by} ${doubt}${year}`
}

const WIDTH = 320
const EDGE = 24

/** The window as a slot, with where it was signed as a ring and where it was found as a pin. */
function Went({ moved: m }: { moved: Moved }) {
  const { unit } = useBench()
  const limits = [m.window?.low_nm, m.window?.high_nm].filter((l) => l != null)
  const all = [...limits, m.signed_nm, m.found_nm]
  const low = Math.min(...all)
  const span = Math.max(...all) - low || 1
  const x = (nm: number) => EDGE + ((nm - low) / span) * (WIDTH - 2 * EDGE)
  const from = m.window?.low_nm == null ? 0 : x(m.window.low_nm)
  const to = m.window?.high_nm == null ? WIDTH : x(m.window.high_nm)
  return (
    <svg
      viewBox={`0 0 ${WIDTH} 56`}
      className="block w-full"
      role="img"
      aria-label={`${m.name}: ${movedWords(m, unit)}`}
    >
      <path d={`M0 40H${from}V50H${to}V40H${WIDTH}`} fill="none" stroke="var(--ink)" strokeWidth="2.5" />
      <path
        d={`M${x(m.signed_nm)} 26H${x(m.found_nm)}`}
        stroke="var(--blue)"
        strokeWidth="2"
        strokeDasharray="4 3"
      />
      <circle cx={x(m.signed_nm)} cy="26" r="7" fill="var(--paper)" stroke="var(--blue)" strokeWidth="3" />
      <path d={`M${x(m.found_nm)} 12V46`} stroke="var(--blue)" strokeWidth="5" />
    </svg>
  )
}

function Parts({ of }: { of: Worn[] }) {
  const { unit } = useBench()
  return (
    <section aria-label="Wear" className="mt-6">
      <h2 className="text-lg">Wear</h2>
      {of.length === 0 && <p className="mt-1">Of no part a size is known of then and of now.</p>}
      <ul className="ruled mt-1">
        {of.map((w) => (
          <li key={w.part} className="py-2">
            <p className="font-bold">
              {w.name} <span className="font-normal text-dim">{w.what}</span>
            </p>
            <p>
              {show(w.then_nm, unit)} {w.from_new && '(new) '}then, {show(w.now_nm, unit)} {unitName[unit]}{' '}
              now:{' '}
              <strong>
                {show(w.per_year_nm, unit)} ± {show(w.expanded_per_year_nm, unit)} {unitName[unit]} a year
              </strong>
            </p>
            <p className="text-dim">
              {w.lasts_years == null
                ? w.per_year_nm > w.expanded_per_year_nm
                  ? 'It is at its limit.'
                  : 'Its wear cannot be told from the doubt of the measurements.'
                : `At that rate it is at its limit in ${yearsText(w.lasts_years)}.`}
            </p>
          </li>
        ))}
      </ul>
    </section>
  )
}
