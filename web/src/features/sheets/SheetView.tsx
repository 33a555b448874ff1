import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useSheet } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { PackStack } from '../../charts/PackStack'
import { ShaftRail } from '../../charts/ShaftRail'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { dayText, unitName, windowOf, windowWords } from '../../domain/units'
import { boxName, kindName } from '../../domain/labels'
import { Conflicts } from '../drawers/Conflicts'
import { PartsList } from '../parts/PartsList'
import { PartSheet } from '../parts/PartSheet'
import { tellsWords } from '../identify/words'
import { ChartEntry } from './ChartEntry'
import { Revisions } from './Revisions'

export function SheetView() {
  const { sheetKey = '' } = useParams()
  const [asked] = useSearchParams()
  const { data, error } = useSheet(sheetKey, asked.get('variant') ?? undefined)
  const sheet = useSoon(data)
  const { unit } = useBench()
  const [part, setPart] = useState<string | null>(null)
  useTitle(sheet?.name)
  if (!sheet && error) return <Trouble error={error as unknown as Refused} />
  if (!sheet) return <Loading what="the sheet" />
  const shown = sheet.parts.find((p) => p.key === part)
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-3 py-5">
        <div className="basis-full">
          <h1 className="text-3xl">{sheet.name}</h1>
          <p className="text-dim">
            {boxName[sheet.kind]} · revision {sheet.revision}, {dayText(sheet.came_in)} · {sheet.source}
          </p>
        </div>
        <Link className="press" to={`/?new=${sheet.key}`}>
          Open a job on it
        </Link>
        <Link className="press-quiet" to="/drawers">
          Its drawers
        </Link>
        <Link className="press-quiet" to={`/sheets/${sheet.key}/write`}>
          Write on it
        </Link>
        <Link className="press-quiet" to={`/sheets/new?copy=${sheet.key}`}>
          Copy it
        </Link>
        <Link className="press-quiet" to={`/sheets/${sheet.key}/plan`}>
          Plan
        </Link>
        <Link className="press-quiet" to={`/sheets/${sheet.key}/past`}>
          How predictions came out
        </Link>
        <Link className="press-quiet" to={`/sheets/${sheet.key}/found`}>
          Found over the years
        </Link>
        <a className="press-quiet" href={`/api/sheets/${sheet.key}/file`} download>
          Save as file
        </a>
      </div>
      <Conflicts sheet={sheet.key} />
      <Builds sheet={sheet} />
      <section aria-label="Shafts" className="border-t border-line py-4">
        <ShaftRail
          rail={sheet.rail}
          onPart={setPart}
          checks={sheet.checks.map((c) => ({
            check_key: c.key,
            name: c.name,
            phase: 'measure',
            call: null,
            shown_nm: null,
            label: windowWords(c.window, unit, c.kind)
              .replace(` ${unitName[unit]}`, '')
              .replace(' preload', ' p'),
          }))}
        />
      </section>
      <PartsList parts={sheet.parts} onPart={setPart} />
      {shown && (
        <PartSheet part={shown} onClose={() => setPart(null)}>
          {shown.step != null && (
            <p className="mt-2">
              Goes in at step {shown.step + 1}: {sheet.build[shown.step]}
            </p>
          )}
        </PartSheet>
      )}
      {sheet.packs.map((p) => (
        <section key={p.key} aria-label={p.name} className="max-w-5xl border-b border-line py-4">
          <h2 className="text-xl">{p.name}, from the piston outwards</h2>
          <PackStack pack={p} />
        </section>
      ))}
      <Checks sheet={sheet.key} checks={sheet.checks} />
      <div className="grid gap-x-10 lg:grid-cols-2">
        <Listing title="How to tell the box" lines={sheet.identification} />
        <HowItIsTold questions={sheet.identify} />
        <Listing title="Cautions" lines={sheet.cautions} />
        <Listing title="Build, in order" lines={sheet.build} ordered />
        <Listing title="Notes" lines={sheet.notes ? [sheet.notes] : []} />
      </div>
      <Revisions sheet={sheet.key} />
    </main>
  )
}

/** The builds that the sheet serves; one is shown. */
function Builds({ sheet }: { sheet: Schemas['SheetView'] }) {
  if (sheet.variants.length === 0) return null
  return (
    <nav
      aria-label="Builds of the box"
      className="flex flex-wrap items-center gap-2 border-t border-line py-3"
    >
      <span className="mr-2">Shown as</span>
      {sheet.variants.map((v) => (
        <Link
          key={v.key}
          to={`?variant=${v.key}`}
          replace
          aria-current={v.key === sheet.variant ? 'true' : undefined}
          title={v.note}
          className={`inline-flex min-h-11 items-center border-[1.5px] px-3 ${v.key === sheet.variant ? 'border-ink bg-ink text-paper' : 'border-dim'}`}
        >
          {v.name}
        </Link>
      ))}
      <span className="text-dim">{sheet.variants.find((v) => v.key === sheet.variant)?.note}</span>
    </nav>
  )
}

/** The questions by which the box is told, with what the build that is shown would answer. */
function HowItIsTold({ questions }: { questions: Schemas['sheet.Identify'][] }) {
  if (questions.length === 0) return null
  return (
    <section className="py-4">
      <h2 className="text-xl">What is it really?</h2>
      <ul className="ruled mt-2">
        {questions.map((q) => (
          <li key={q.key} className="py-2">
            {q.ask}: <strong className="figure">{q.answers.map(tellsWords).join(' or ')}</strong>
            {q.how && <span className="block text-sm text-dim">{q.how}</span>}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Checks({ sheet, checks }: { sheet: string; checks: Schemas['SheetCheck'][] }) {
  const { unit } = useBench()
  return (
    <section className="overflow-x-auto py-4">
      <h2 className="text-xl">Checks, in the order of setting</h2>
      <table className="mt-2 w-full min-w-[40rem]">
        <thead>
          <tr>
            <th className="th">Check</th>
            <th className="th">Kind</th>
            <th className="th">Window</th>
            <th className="th">Set by</th>
            <th className="th">Chart</th>
          </tr>
        </thead>
        <tbody>
          {checks.map((c) => (
            <tr key={c.key}>
              <td className="td font-semibold">{c.name}</td>
              <td className="td">{kindName[c.kind]}</td>
              <td className="td">{windowOf(c, unit)}</td>
              <td className="td">
                {c.set_by ??
                  (c.kind === 'selector_centring' || c.kind === 'selector_limits'
                    ? 'shims moved from end to end'
                    : 'nothing: measured only')}
                {(c.most_pieces ?? 1) > 1 && `, up to ${c.most_pieces} pieces`}
              </td>
              <td className="td">{c.set_by && <ChartEntry sheet={sheet} check={c} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

function Listing({ title, lines, ordered }: { title: string; lines: string[]; ordered?: boolean }) {
  if (lines.length === 0) return null
  const List = ordered ? 'ol' : 'ul'
  return (
    <section className="py-4">
      <h2 className="text-xl">{title}</h2>
      <List className={`ruled mt-2 ${ordered ? 'list-inside list-decimal' : ''}`}>
        {lines.map((l) => (
          <li key={l} className="py-2">
            {l}
          </li>
        ))}
      </List>
    </section>
  )
}
