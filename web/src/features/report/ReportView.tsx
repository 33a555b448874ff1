// A job's record, to print: readings, working, pieces, clearances achieved, who and when.
import { namesOf, readingWords, torqueText, torqueWindow } from '../../domain/readings'
import { answerName, jobMarkWords, methodName } from '../../domain/labels'
import { useParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { CheckView, Schemas, Unit } from '../../domain/schema'
import { useReport } from '../../api/queries'
import { BuildRecord } from '../build/BuildRecord'
import { givenWords } from '../identify/words'
import { PrintedPictures } from '../pictures/Pictures'
import { Findings } from '../strip/Findings'
import { HistoryWords } from '../check/History'
import { shimsWords } from '../../charts/Forks'
import { WaitsFor } from '../intake/WaitsFor'
import { Loading, Trouble, Working } from '../../ui/Parts'
import { StateMark } from '../../charts/StateMark'
import { markOf, markWords } from '../../domain/labels'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import {
  clashWords,
  clearance,
  dayText,
  percent,
  show,
  showStated,
  unitName,
  whenText,
  windowOf,
  windowWords,
} from '../../domain/units'
import { phaseName } from '../../domain/labels'
import { inSentence } from '../../domain/words'

export function ReportView() {
  const jobNo = Number(useParams().jobNo)
  const { data, error } = useReport(jobNo)
  const r = useSoon(data)
  const { unit } = useBench()
  useTitle(r ? `Report of job ${jobNo}` : undefined)
  if (!r && error) return <Trouble error={error as unknown as Refused} />
  if (!r) return <Loading what="the report" />
  return (
    <main className="mx-auto max-w-[60rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-start gap-4 border-b-2 border-ink py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <p className="font-bold">
            {r.shop}, {r.place}
          </p>
          <h1 className="mt-1 text-3xl">
            Job {r.job_no}: {r.title}
          </h1>
          <p>
            {r.customer}
            {r.complaint && ` · complaint: ${r.complaint}`}
          </p>
          {r.intake.waits_for && !r.finished_at && (
            <p>
              <WaitsFor of={r.intake.waits_for} />
            </p>
          )}
          {(r.intake.agreed || r.intake.stamped) && (
            <p>
              {[
                r.intake.stamped && `number ${r.intake.stamped}`,
                r.intake.agreed && `agreed: ${r.intake.agreed}`,
              ]
                .filter(Boolean)
                .join(' · ')}
            </p>
          )}
          <p className="text-dim">
            {[r.sheet, r.build_of].filter(Boolean).join(', ')}, sheet revision {r.revision} · opened{' '}
            {dayText(r.opened_at)} by {r.opened_by}
            {r.finished_at
              ? ` · handed over ${dayText(r.finished_at)} by ${r.finished_by ?? ''}`
              : ' · not finished'}
          </p>
          {r.seen.length > 0 && (
            <p className="text-dim">
              {r.seen.map((q) => `${q.ask}: ${q.given ? givenWords(q.given, unit) : ''}`).join(' · ')}
            </p>
          )}
        </div>
        <div className="no-print flex flex-wrap gap-3">
          <a className="press-quiet" href={`/api/jobs/${r.job_no}/file`} download>
            Save as a file
          </a>
          <button className="press" onClick={() => print()}>
            Print
          </button>
        </div>
      </div>
      <Summary checks={r.checks} />
      <Clashes clashes={r.clashes} />
      <Complaints of={r.look_first} looked={r.findings.length > 0} />
      <Findings of={r.findings} />
      <PrintedPictures job={r.job_no} />
      {r.checks.map((check) => (
        <CheckRecord key={check.check_key} check={check} />
      ))}
      {r.build && <BuildRecord build={r.build} log={r.build_log} />}
      <ReportLog notes={r.notes} marks={r.marks} />
      <p className="mt-6 text-sm text-dim">
        {r.source && `Figures: ${r.source}. `}
        {r.elsewhere.length > 0 && `Not measured here: ${r.elsewhere.join(', ')}. `}
        Initials: {r.people.map((p) => `${p.initials} ${p.name}`).join(', ')}. Lengths in {unitName[unit]}.
        Put together {whenText(r.printed_at)}.
      </p>
    </main>
  )
}

/** What was found for each complaint, as the customer reads it. */
function Complaints({ of, looked }: { of: Schemas['LookFirst'][]; looked: boolean }) {
  if (of.length === 0 || !looked) return null
  return (
    <section aria-label="Complaints" className="mt-6">
      <h2 className="border-b-2 border-ink text-xl">What it came in with</h2>
      <dl>
        {of.map((look) => {
          const found = look.parts.filter((p) => p.explains)
          return (
            <div key={look.complaint} className="border-b border-line py-2">
              <dt className="font-semibold first-letter:uppercase">{look.complaint}</dt>
              {found.map((p) => (
                <dd key={p.part}>
                  {p.name}: {p.found}
                </dd>
              ))}
              {found.length === 0 && (
                <dd className="text-dim">
                  Nothing was found wrong with the parts that this usually comes from.
                </dd>
              )}
            </div>
          )
        })}
      </dl>
    </section>
  )
}

/** What was noted on the job, and done with it as a whole. */
function ReportLog({ notes, marks }: { notes: Schemas['Note'][]; marks: Schemas['JobMark'][] }) {
  const lines = [
    ...notes.filter((n) => !n.struck_by).map((n) => ({ at: n.at, who: n.who, said: n.said })),
    ...marks.map((m) => ({
      at: m.at,
      who: m.who,
      said: [jobMarkWords[m.mark], m.reason].filter(Boolean).join(': '),
    })),
  ].sort((a, b) => a.at.localeCompare(b.at))
  if (lines.length === 0) return null
  return (
    <section className="mt-8 break-inside-avoid" aria-label="Log">
      <h2 className="text-xl">Log</h2>
      <ul className="ruled mt-1">
        {lines.map((line) => (
          <li key={line.at + line.said} className="flex flex-wrap gap-x-3 py-1 wrap-anywhere">
            <span className="text-dim">{whenText(line.at)}</span>
            <strong>{line.who}</strong>
            <span>{line.said}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** What was signed without a figure. */
function fromOneSide(verdict: CheckView['verdict'], unit: Unit) {
  if (!verdict?.bound) return '–'
  return verdict.bound.lies === 'above' ? `${show(verdict.bound.limit_nm, unit)} or more` : 'does not move'
}

function Summary({ checks }: { checks: CheckView[] }) {
  const { unit } = useBench()
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Wide table">
      <table className="mt-4 w-full">
        <caption className="sr-only">Clearances achieved</caption>
        <thead>
          <tr>
            <th className="th">Check</th>
            <th className="th">Window</th>
            <th className="th">Piece fitted</th>
            <th className="th text-right">Achieved, {unitName[unit]}</th>
            <th className="th">State</th>
          </tr>
        </thead>
        <tbody>
          {checks.map((g) => {
            const c =
              g.signed?.achieved_nm == null ? null : clearance(g.signed.achieved_nm, unit, false, g.kind)
            const lie = g.selector?.shims
            const fitted = lie
              ? `shims left ${shimsWords(lie.left_nm, unit)}, right ${shimsWords(lie.right_nm, unit)}`
              : g.setting?.state === 'fitted'
                ? `${showStated(g.setting.total_nm, unit)}${g.setting.out_nm == null ? '' : `, ${inSentence(g.setting.family_name)}, for ${showStated(g.setting.out_nm, unit)}`}`
                : g.fitted_nm
                  ? `${showStated(g.fitted_nm, unit)}, as found`
                  : '–'
            return (
              <tr key={g.check_key}>
                <td className="td font-semibold">{g.name}</td>
                <td className="td">
                  {g.aim
                    ? windowOf(g, unit)
                    : g.proof
                      ? `${g.proof.question} ${answerName[g.proof.wanted]}.`
                      : torqueWindow(g.torque_window)}
                  {g.rule && <span className="block text-sm text-dim">no book’s: {g.rule}</span>}
                  {g.by_book && (
                    <span className="block text-sm text-dim">
                      book {windowWords(g.by_book.window, unit, g.kind)}
                    </span>
                  )}
                  {g.own_aim && (
                    <span className="block text-sm text-dim">
                      set otherwise: {g.own_aim.reason} ({g.own_aim.who})
                    </span>
                  )}
                </td>
                <td className="td figure">{fitted}</td>
                <td className="td figure text-right font-semibold">
                  {c
                    ? `${c.figure}${(g.signed?.achieved_nm ?? 0) < 0 ? ` ${c.word.replace('preload', 'pre')}` : ''}`
                    : g.signed?.achieved_n_m != null
                      ? torqueText(g.signed.achieved_n_m)
                      : g.proof?.found
                        ? answerName[g.proof.found.answer].toLowerCase()
                        : g.signed
                          ? fromOneSide(g.verdict, unit)
                          : '–'}
                </td>
                <td className="td">
                  <span className="flex items-center gap-2">
                    <StateMark
                      state={markOf(g.signed?.call ?? g.proof?.found?.call ?? g.verdict?.call)}
                      open={!g.signed}
                      size={24}
                    />
                    {g.signed
                      ? `${g.rule && g.signed.call === 'in' ? 'about right' : markWords[markOf(g.signed.call)]}, signed ${g.signed.who}`
                      : phaseName[g.phase]}
                  </span>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

/** What was answered and what was measured, where both cannot be so. */
function Clashes({ clashes }: { clashes: Schemas['Clash'][] }) {
  const { unit } = useBench()
  return clashes.map((clash) => (
    <p key={clash.proof_key + clash.check_key} className="mt-2 font-semibold">
      {clashWords(clash, unit)}
    </p>
  ))
}

function CheckRecord({ check }: { check: CheckView }) {
  const { unit } = useBench()
  if (check.history.length === 0) return null
  const rounds = [...new Set(check.readings.map((r) => r.round))]
  return (
    <section className="keep-together mt-6 border-t border-line pt-3" aria-label={check.name}>
      <h2 className="text-xl">{check.name}</h2>
      {rounds.map((round) => (
        <p key={round} className="mt-1">
          {round === 0 ? 'Readings' : `Readings after fitting ${round > 1 ? `the ${round}. time` : ''}`}:{' '}
          <span className="figure">
            {check.readings
              .filter((r) => r.round === round)
              .map((r) => (
                <span key={r.reading_no} className={`mr-3 ${r.struck ? 'line-through' : ''}`}>
                  {readingWords(r.taken, unit, namesOf(check))}
                </span>
              ))}
          </span>
        </p>
      ))}
      {check.ways.map((w) => (
        <div key={w.way} className="mt-2">
          <p className="text-[0.95rem]">
            By {methodName[w.way]}
            {w.gauges.length > 0 && `, ${w.gauges.join(', ')}`}
            {check.ways.length > 1 && w.counts && ' (counts)'}
            {w.no_estimate && `: ${w.no_estimate}`}
          </p>
          {w.estimate && <Working lines={w.estimate.working} kind={check.kind} />}
          {w.torque && <Working lines={w.torque.working} />}
        </div>
      ))}
      {check.off_prediction && (
        <div className="mt-2">
          <Working lines={check.off_prediction.working} kind={check.kind} />
        </div>
      )}
      <ol className="mt-2 text-[0.95rem]">
        {check.history
          .filter((h) => h.what !== 'read')
          .map((h, i) => (
            <li
              key={i}
              className="grid grid-cols-[5.5rem_2.5rem_minmax(0,1fr)] sm:grid-cols-[11rem_3.5rem_minmax(0,1fr)] gap-2 py-0.5"
            >
              <span className="text-dim">{whenText(h.at)}</span>
              <strong>{h.who}</strong>
              <HistoryWords line={h} kind={check.kind} />
            </li>
          ))}
      </ol>
      {check.verdict && check.signed && (
        <p className="mt-1 text-dim">
          {check.by_chart
            ? 'Chance to be as the chart has it'
            : check.rule
              ? 'Chance to be within the rule'
              : 'Chance in window'}{' '}
          {percent(check.verdict.chance)}
          {check.verdict.expected && ', by what was expected: nothing moves'}.
        </p>
      )}
    </section>
  )
}
