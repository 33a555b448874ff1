// The build, step by step; one step at a time is open.
import type { Schemas } from '../../domain/schema'
import { useStepNotes } from '../../api/queries'
import { Bolts } from '../../charts/Bolts'
import { Cell, length, type Column } from './Cell'
import { Chips } from './Chips'
import { Lines } from './Lines'
import { Part } from './Part'
import { Rows } from './Rows'
import { Ticks } from './Ticks'
import { freshKey, type Sheet } from './draft'
import { ANSWERS, STAGES, WAIT_KINDS, allParts } from './names'
import { useWriting } from './writing'

const FIELDS: readonly Column[] = [
  { field: 'what', label: 'What to do', as: 'text', names: true },
  { field: 'why', label: 'Why so, or why now', as: 'text', optional: true },
  { field: 'facing', label: 'Which face is up or out', as: 'text', optional: true },
  { field: 'lubricant', label: 'What goes on it, or holds it', as: 'text', optional: true },
  { field: 'attitude', label: 'How the box lies', as: 'text', optional: true },
  { field: 'count', label: 'How many are laid out for it', as: 'count', optional: true },
  { field: 'torque_n_m', label: 'Torque, N·m', as: 'number', optional: true },
  { field: 'left_hand_thread', label: 'Left-hand thread', as: 'tick' },
  { field: 'minutes', label: 'Takes so many minutes', as: 'number', optional: true },
  { field: 'tip', label: 'Where it goes wrong, and what helps', as: 'text', optional: true },
]
const WAIT: readonly Column[] = [
  { field: 'kind', label: 'Time passes in', as: 'choice', options: WAIT_KINDS },
  { field: 'minutes', label: 'For so many minutes', as: 'number' },
  { field: 'at_c', label: 'At °C', as: 'number', optional: true },
  { field: 'before_it_ends', label: 'Told again before it ends', as: 'text', optional: true },
]
const LOOSE: readonly Column[] = [
  { field: 'rows', label: 'Rows of loose pieces', as: 'count' },
  { field: 'per_row', label: 'So many in a row', as: 'count' },
  length('shaft', 'Diameter they run on', true),
  length('roller', 'Diameter of a roller', true),
]
const FASTENERS: readonly Column[] = [
  { field: 'count', label: 'How many', as: 'count' },
  { field: 'thread', label: 'Thread, such as M8 or M10x1.25', as: 'text', optional: true },
  { field: 'locked_by', label: 'Locked by', as: 'text', optional: true },
  { field: 'held_by', label: 'Held meanwhile by', as: 'text', optional: true },
  { field: 'new', label: 'New each time', as: 'tick' },
]
const STAGE: readonly Column[] = [{ field: 'to', label: 'Stage', as: 'choice', options: STAGES }]
const BOLT: readonly Column[] = [
  { field: 'across', label: 'Across, of 100', as: 'number' },
  { field: 'down', label: 'Down, of 100', as: 'number' },
]
const ASK: readonly Column[] = [
  { field: 'ask', label: 'Question', as: 'text', track: 'minmax(0,2fr)' },
  { field: 'wanted', label: 'As it should be', as: 'choice', options: ANSWERS },
  {
    field: 'else_means',
    label: 'What the other answer means',
    as: 'text',
    optional: true,
    track: 'minmax(0,2fr)',
  },
]

type Step = Schemas['sheet.BuildStep']

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
  show: (index: number) => void
  /** Steps to start from, where there are none. */
  proposed: Step[]
}

export function Build({ sheet, faults, shown, show, proposed }: Props) {
  const { put } = useWriting()
  const build = sheet.build ?? []
  const step = build[shown]
  const of = `/build/${shown}`
  const add = (step: Step) => {
    put('/build', [...build, step])
    show(build.length)
    requestAnimationFrame(() => document.getElementById(`/build/${build.length}/what`)?.focus())
  }
  return (
    <>
      <Chips
        of="/build"
        first="what"
        label="Steps of the build"
        names={build.map((s, i) => `${i + 1}. ${s.what.slice(0, 30)}${s.what.length > 30 ? ' …' : ''}`)}
        faulty={(i) => [...faults.keys()].some((place) => place.startsWith(`/build/${i}/`))}
        noun="step"
        {...{ shown, show }}
        add={() => add({ key: freshKey(sheet), what: '' })}
        move={(order) =>
          put(
            '/build',
            order.map((i) => build[i]),
          )
        }
      />
      {build.length === 0 && proposed.length > 0 && (
        <p className="my-4 flex flex-wrap items-center gap-4">
          <button type="button" className="press" onClick={() => put('/build', proposed)}>
            Begin from the rails: {proposed.length} steps
          </button>
          <span className="text-dim">
            Parts from the inside out, checks at their closings. Look every one of them through.
          </span>
        </p>
      )}
      {step && (
        <>
          <CopyGroup {...{ sheet, build, shown, show }} />
          <OneStep {...{ sheet, build, step, of, faults }} />
        </>
      )}
    </>
  )
}

/** The last few steps up to this one, once more: the same way for the next gears. */
function CopyGroup({
  sheet,
  build,
  shown,
  show,
}: Pick<Props, 'sheet' | 'shown' | 'show'> & { build: Step[] }) {
  const { put } = useWriting()
  const copy = (count: number) => {
    const group = build.slice(shown - count + 1, shown + 1)
    let known: unknown = sheet
    const renamed = new Map<string, string>()
    for (const s of group) {
      const key = freshKey(known)
      renamed.set(s.key, key)
      known = [known, { key }]
    }
    const copies = group.map((s) => ({
      ...s,
      key: renamed.get(s.key) ?? s.key,
      // A part goes in once, a check is held at one place: those are named anew.
      puts: undefined,
      hold: undefined,
      needs: s.needs?.map((n) => renamed.get(n) ?? n),
      covers: s.covers?.map((n) => renamed.get(n) ?? n),
    }))
    put('/build', [...build.slice(0, shown + 1), ...copies, ...build.slice(shown + 1)])
    show(shown + 1)
  }
  return (
    <p className="my-3 flex flex-wrap items-center gap-2">
      Once more, after this one:
      {[1, 2, 3, 4]
        .filter((count) => count <= shown + 1)
        .map((count) => (
          <button key={count} type="button" className="press-quiet" onClick={() => copy(count)}>
            {count === 1 ? 'this step' : `the last ${count}`}
          </button>
        ))}
    </p>
  )
}

function OneStep({
  sheet,
  build,
  step,
  of,
  faults,
}: Pick<Props, 'sheet' | 'faults'> & { build: Step[]; step: Step; of: string }) {
  const { put } = useWriting()
  const cells = (columns: readonly Column[], under: string, value: object) =>
    columns.map((column) => (
      <Cell
        key={column.field}
        {...{ column }}
        of={under}
        value={value[column.field as keyof typeof value]}
        fault={faults.get(`${under}/${column.field}`)}
        labelled
      />
    ))
  const others = build.filter((s) => s.key !== step.key).map((s) => [s.key, s.what] as const)
  const elsewhere = new Set(build.filter((s) => s.key !== step.key).flatMap((s) => s.puts ?? []))
  const { positions } = sheet
  const position = (field: string, label: string): Column =>
    positions
      ? {
          field,
          label,
          as: 'choice',
          optional: true,
          options: positions.names.map((name) => [name, name] as const),
        }
      : { field, label, as: 'text', optional: true }
  const grid = 'grid gap-x-6 gap-y-3 sm:grid-cols-2'
  const group = (
    title: string,
    field: 'wait' | 'loose' | 'fasteners',
    columns: readonly Column[],
    start: object,
  ) => (
    <Part title={title} count={step[field] ? 1 : 0}>
      {step[field] ? (
        <>
          <div className={grid}>{cells(columns, `${of}/${field}`, step[field])}</div>
          <button type="button" className="press-quiet mt-2" onClick={() => put(`${of}/${field}`, undefined)}>
            Take it out
          </button>
        </>
      ) : (
        <button type="button" className="press-quiet" onClick={() => put(`${of}/${field}`, start)}>
          Put it in
        </button>
      )}
    </Part>
  )
  const { data: notes } = useStepNotes(sheet.key)
  const told = notes?.filter((n) => n.step === step.key && !step.tip?.includes(n.note)) ?? []
  return (
    <>
      {told.length > 0 && (
        <ul className="mt-4 border-l-4 border-brass bg-brass-soft px-3 py-2" aria-label="Noted at the bench">
          {told.map((n) => (
            <li key={n.at} className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1">
              <span className="mr-auto">
                “{n.note}” <span className="text-dim">{`${n.who}, job ${n.job_no}`}</span>
              </span>
              <button
                type="button"
                className="press-quiet"
                onClick={() => put(`${of}/tip`, [step.tip, n.note].filter(Boolean).join('; '))}
              >
                Take it into the sheet
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className={`my-4 ${grid}`}>
        {cells(FIELDS, of, step)}
        {cells(
          [
            position('selector', 'Where the selector must be'),
            position('leaves', 'Where it goes once this is done'),
          ],
          of,
          step,
        )}
      </div>
      <div className="grid gap-6 lg:grid-cols-2">
        <Part title="What goes in" count={step.puts?.length} open>
          <Ticks
            title="Parts and items that no other step puts in"
            all={allParts(sheet).filter(([key]) => !elsewhere.has(key) || step.puts?.includes(key))}
            chosen={step.puts ?? []}
            of={`${of}/puts`}
            faults={faults}
            none="Every part goes in at some step."
          />
        </Part>
        <div>
          <Part title="Comes after" count={step.needs?.length} open>
            <Ticks
              title="Done before it"
              all={others}
              chosen={step.needs ?? []}
              of={`${of}/needs`}
              faults={faults}
            />
          </Part>
          <Part title="Closes off" count={step.covers?.length}>
            <Ticks
              title="Nobody gets at these once it is done"
              all={others}
              chosen={step.covers ?? []}
              of={`${of}/covers`}
              faults={faults}
            />
          </Part>
          <Part title="Hold point" count={step.hold?.length}>
            <Ticks
              title="Held until these are signed off"
              all={sheet.checks.map((c) => [c.key, c.name] as const)}
              chosen={step.hold ?? []}
              of={`${of}/hold`}
              faults={faults}
            />
          </Part>
        </div>
        <div className="lg:col-span-2">
          <Part title="Asked once it is done: yes or no by hand" count={step.prove?.length}>
            <Rows
              of={`${of}/prove`}
              rows={step.prove}
              columns={ASK}
              fresh={() => ({ ask: '', wanted: 'yes' })}
              noun="question"
              faults={faults}
              optional
            />
            {step.prove?.map((ask, i) => (
              <Part key={i} title={`Asked again: ${ask.ask}`} count={ask.again_after?.length}>
                <Ticks
                  title="Also after"
                  all={others}
                  chosen={ask.again_after ?? []}
                  of={`${of}/prove/${i}/again_after`}
                  faults={faults}
                />
              </Part>
            ))}
          </Part>
        </div>
        {group('Loose pieces in rows', 'loose', LOOSE, { rows: 1, per_row: 1 })}
        {group('Oven, soak, cure', 'wait', WAIT, { kind: 'oven', minutes: 30 })}
        <div className="lg:col-span-2">
          {group('Bolts, nuts, screws', 'fasteners', FASTENERS, { count: 1, stages: [{ to: 'seat' }] })}
          {step.fasteners && (
            <div className="grid gap-6 lg:grid-cols-2">
              <div>
                <Rows
                  of={`${of}/fasteners/stages`}
                  rows={step.fasteners.stages}
                  columns={STAGE}
                  fresh={() => ({ to: 'torque', n_m: '' })}
                  noun="stage"
                  faults={faults}
                  optional
                />
                {step.fasteners.stages?.map((stage, i) => (
                  <StageFigure key={i} {...{ stage, faults }} of={`${of}/fasteners/stages/${i}`} no={i + 1} />
                ))}
              </div>
              <div>
                <p className="font-semibold">Where they stand, in the order in which they are tightened</p>
                <Rows
                  of={`${of}/fasteners/bolts`}
                  rows={step.fasteners.bolts}
                  columns={BOLT}
                  fresh={() => ({ across: 50, down: 50 })}
                  noun="bolt"
                  faults={faults}
                  optional
                />
                {step.fasteners.bolts && <Bolts bolts={step.fasteners.bolts} />}
              </div>
            </div>
          )}
        </div>
        <Lines
          of={`${of}/tools`}
          title="Tools beside the usual"
          noun="tool"
          lines={step.tools}
          faults={faults}
        />
        <Lines
          of={`${of}/new_again`}
          title="New whenever it is taken apart"
          noun="part"
          lines={step.new_again}
          faults={faults}
        />
        <Lines
          of={`${of}/alternatives`}
          title="Other ways of doing it"
          noun="way"
          lines={step.alternatives}
          faults={faults}
        />
        <Lines
          of={`${of}/cautions`}
          title="Cautions here"
          noun="caution"
          lines={step.cautions}
          faults={faults}
        />
      </div>
    </>
  )
}

/** How far one stage goes. */
function StageFigure({
  stage,
  of,
  no,
  faults,
}: {
  stage: Schemas['sheet.Stage']
  of: string
  no: number
  faults: Map<string, string>
}) {
  if (stage.to === 'seat') return null
  const column: Column =
    stage.to === 'torque'
      ? { field: 'n_m', label: `Stage ${no}: torque, N·m`, as: 'number' }
      : { field: 'degrees', label: `Stage ${no}: angle, °`, as: 'number' }
  return (
    <Cell
      column={column}
      of={of}
      value={stage[column.field as keyof typeof stage]}
      fault={faults.get(`${of}/${column.field}`)}
      labelled
    />
  )
}
