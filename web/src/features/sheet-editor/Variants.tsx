// Several builds of a box on one sheet: what each is called, how it is told, and what differs between them.
import { Cell, length, type Column } from './Cell'
import { Part } from './Part'
import { Rows } from './Rows'
import { at, type Sheet } from './draft'
import { builds, hasIt, scoped, scopedPlaces, withScope, type Scoped } from './scopes'
import { useWriting } from './writing'

interface Props {
  sheet: Sheet
  faults: Map<string, string>
}

const VARIANT: readonly Column[] = [
  { field: 'name', label: 'What people call it', as: 'text', names: true },
  { field: 'note', label: 'Anything else about it', as: 'text', optional: true },
]
const KINDS = [
  ['count', 'how many'],
  ['text', 'a mark'],
  ['length', 'a length'],
  ['yes_no', 'yes or no'],
] as const
const QUESTION: readonly Column[] = [
  {
    field: 'ask',
    label: 'What is asked',
    as: 'text',
    names: true,
    placeholder: 'Splines on the input shaft',
  },
  { field: 'kind', label: 'Its answer', as: 'choice', options: KINDS },
  { field: 'how', label: 'Where it is seen, how it is taken', as: 'text', optional: true },
]

export function Variants({ sheet, faults }: Props) {
  return (
    <>
      <h2 className="text-lg">Builds of the box, the usual one first</h2>
      <p className="text-dim">Where there is only one, leave this empty.</p>
      <Rows
        of="/variants"
        rows={sheet.variants}
        columns={VARIANT}
        fresh={() => ({ key: '', name: '' })}
        noun="build"
        faults={faults}
        optional
      />
      <h2 className="mt-8 text-lg">What is it really?</h2>
      <Rows
        of="/identify"
        rows={sheet.identify}
        columns={QUESTION}
        fresh={() => ({ key: '', ask: '', kind: 'count', answers: [] })}
        noun="question"
        faults={faults}
        optional
      />
      {sheet.identify?.map((_, i) => (
        <Answers key={i} at={i} {...{ sheet, faults }} />
      ))}
      {builds(sheet).length > 0 && (
        <>
          <Differing {...{ sheet, faults }} />
          <Windows {...{ sheet, faults }} />
        </>
      )}
    </>
  )
}

const ANSWER: Record<(typeof KINDS)[number][0], readonly Column[]> = {
  count: [{ field: 'count', label: 'How many', as: 'count' }],
  text: [{ field: 'text', label: 'The mark, as it is cast or stamped', as: 'text' }],
  length: [length('at_least', 'At least', true), length('at_most', 'At most', true)],
  yes_no: [],
}

/** The answers to one question, each with the builds that give it. */
function Answers({ sheet, faults, at: i }: Props & { at: number }) {
  const { put } = useWriting()
  const question = sheet.identify?.[i]
  if (!question) return null
  const of = `/identify/${i}/answers`
  const own = faults.get(of)
  const add = () => put(of, [...question.answers, question.kind === 'yes_no' ? { yes: true } : {}])
  return (
    <Part title={`Answers: ${question.ask || '(not asked yet)'}`} count={question.answers.length} open>
      {question.answers.map((tells, a) => (
        <div
          key={a}
          role="group"
          aria-label={`Answer ${a + 1} to ${question.ask}`}
          className="flex flex-wrap items-end gap-x-3 gap-y-1 border-b border-line py-2"
        >
          {question.kind === 'yes_no' ? (
            <label className="text-sm font-semibold">
              It has
              <select
                id={`${of}/${a}/yes`}
                className="field block px-1 font-normal"
                value={tells.yes ? 'yes' : 'no'}
                onChange={(e) => put(`${of}/${a}/yes`, e.target.value === 'yes')}
              >
                <option>yes</option>
                <option>no</option>
              </select>
            </label>
          ) : (
            ANSWER[question.kind].map((column) => (
              <div key={column.field} className="w-44">
                <Cell
                  column={column}
                  of={`${of}/${a}`}
                  value={tells[column.field as 'count' | 'text' | 'at_least' | 'at_most']}
                  fault={faults.get(`${of}/${a}/${column.field}`)}
                  thing={`answer ${a + 1}`}
                  labelled
                />
              </div>
            ))
          )}
          <Chips
            sheet={sheet}
            thing={`answer ${a + 1} to ${question.ask}`}
            has={(key) => hasIt(tells, key)}
            onHas={(keys) => put(`${of}/${a}`, withScope(sheet, tells, keys))}
          />
          <button
            type="button"
            className="press-quiet ml-auto min-w-11 px-3"
            aria-label={`Take out answer ${a + 1} to ${question.ask}`}
            onClick={() =>
              put(
                of,
                question.answers.filter((_, k) => k !== a),
              )
            }
          >
            ×
          </button>
        </div>
      ))}
      {own && <p className="mt-1 font-semibold text-oxide">{own}</p>}
      <button type="button" data-adds="" className="press-quiet mt-2" onClick={add}>
        Add an answer
      </button>
    </Part>
  )
}

/** Which builds have a thing, to press. */
function Chips({
  sheet,
  thing,
  has,
  onHas,
}: {
  sheet: Sheet
  thing: string
  has: (key: string) => boolean
  onHas: (keys: string[]) => void
}) {
  const all = builds(sheet)
  return (
    <div className="flex flex-wrap gap-2" role="group" aria-label={`Builds that have ${thing}`}>
      {all.map(({ key, name }) => (
        <button
          key={key}
          type="button"
          aria-pressed={has(key)}
          className={`min-h-11 border-[1.5px] px-3 ${has(key) ? 'border-ink bg-ink text-paper' : 'border-dim'}`}
          onClick={() => {
            const next = all.map((v) => v.key).filter((k) => (k === key ? !has(k) : has(k)))
            // In none it would be nowhere.
            if (next.length > 0) onHas(next)
          }}
        >
          {name || key}
        </button>
      ))}
    </div>
  )
}

/** What some builds have and others do not. */
function Differing({ sheet, faults }: Props) {
  const { put } = useWriting()
  const places = scopedPlaces(sheet)
  const differs = places.filter(({ thing }) => scoped(thing))
  return (
    <>
      <h2 className="mt-8 text-lg">What differs between the builds</h2>
      {differs.map(({ thing, of, what, name }) => {
        const fault = [...faults].find(
          ([place]) => place === of || place.startsWith(`${of}/only_in`) || place.startsWith(`${of}/not_in`),
        )?.[1]
        return (
          <div
            key={of}
            id={of}
            role="group"
            aria-label={`${what} ${name}`}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-2"
          >
            <p className="mr-auto min-w-40">
              <strong>{name}</strong> <span className="text-sm text-dim">{what}</span>
            </p>
            <Chips
              sheet={sheet}
              thing={name}
              has={(key) => hasIt(thing, key)}
              onHas={(keys) => put(of, withScope(sheet, thing, keys))}
            />
            <button type="button" className="press-quiet" onClick={() => pair(of, thing)}>
              Another for the rest
            </button>
            {fault && <p className="basis-full font-semibold text-oxide">{fault}</p>}
          </div>
        )
      })}
      {differs.length === 0 && (
        <p className="text-dim">Nothing yet: every build has all that is on the sheet.</p>
      )}
      <label className="mt-2 block max-w-sm text-sm font-semibold">
        Something that not every build has
        <select
          data-optional=""
          className="field px-1 font-normal"
          value=""
          onChange={(e) => {
            const found = places.find(({ of }) => of === e.target.value)
            const first = builds(sheet)[0]
            if (found && first) put(found.of, withScope(sheet, found.thing, [first.key]))
          }}
        >
          <option value="" />
          {places
            .filter(({ thing }) => !scoped(thing))
            .map(({ of, what, name }) => (
              <option key={of} value={of}>
                {name} ({what})
              </option>
            ))}
        </select>
      </label>
    </>
  )

  /** The same thing once more, for the builds that do not have this one: its figures differ there. */
  function pair(of: string, thing: Scoped) {
    const rest = builds(sheet)
      .map((v) => v.key)
      .filter((key) => !hasIt(thing, key))
    const list = of.slice(0, of.lastIndexOf('/'))
    const index = Number(of.slice(of.lastIndexOf('/') + 1))
    const all = at(sheet, list) as Scoped[]
    put(list, [...all.slice(0, index + 1), withScope(sheet, thing, rest), ...all.slice(index + 1)])
  }
}

/** Windows that some builds have in place of a check's own. */
function Windows({ sheet, faults }: Props) {
  const { put } = useWriting()
  const last = builds(sheet).at(-1)
  return (
    <>
      <h2 className="mt-8 text-lg">Windows that differ</h2>
      {sheet.checks.map((check, c) =>
        check.windows?.map((own, w) => {
          const of = `/checks/${c}/windows/${w}`
          const fault =
            faults.get(`${of}/only_in/0`) ?? faults.get(`${of}/only_in/1`) ?? faults.get(`${of}/window`)
          return (
            <div
              key={of}
              role="group"
              aria-label={`Window of ${check.name} in some builds`}
              className="flex flex-wrap items-end gap-x-3 gap-y-1 border-b border-line py-2"
            >
              <p className="mr-auto min-w-40 self-center font-semibold">{check.name}</p>
              {[length('low', 'Tight limit', true), length('high', 'Loose limit', true)].map((column) => (
                <div key={column.field} className="w-32">
                  <Cell
                    column={column}
                    of={`${of}/window`}
                    value={own.window[column.field as 'low' | 'high']}
                    fault={faults.get(`${of}/window/${column.field}`)}
                    thing={check.name}
                    labelled
                  />
                </div>
              ))}
              <Chips
                sheet={sheet}
                thing={`this window of ${check.name}`}
                has={(key) => own.only_in.includes(key)}
                onHas={(keys) => put(`${of}/only_in`, keys)}
              />
              <button
                type="button"
                className="press-quiet min-w-11 px-3"
                aria-label={`Take out this window of ${check.name}`}
                onClick={() => {
                  const rest = check.windows?.filter((_, k) => k !== w)
                  put(`/checks/${c}/windows`, rest?.length ? rest : undefined)
                }}
              >
                ×
              </button>
              {fault && <p className="basis-full font-semibold text-oxide">{fault}</p>}
            </div>
          )
        }),
      )}
      <label className="mt-2 block max-w-sm text-sm font-semibold">
        Another window for some builds of
        <select
          data-optional=""
          className="field px-1 font-normal"
          value=""
          onChange={(e) => {
            const c = Number(e.target.value)
            const check = sheet.checks[c]
            if (e.target.value === '' || !check?.window || !last) return
            put(`/checks/${c}/windows`, [
              ...(check.windows ?? []),
              { only_in: [last.key], window: { ...check.window } },
            ])
          }}
        >
          <option value="" />
          {sheet.checks.map(
            (check, c) =>
              check.window && (
                <option key={c} value={c}>
                  {check.name}
                </option>
              ),
          )}
        </select>
      </label>
    </>
  )
}
