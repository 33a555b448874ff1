// The build, step by step; one step at a time is open.
import { Cell, type Column } from './Cell'
import { Chips } from './Chips'
import { Lines } from './Lines'
import { Ticks } from './Ticks'
import { freshKey, type Sheet } from './draft'
import { useWriting } from './writing'

const FIELDS: readonly Column[] = [
  { field: 'what', label: 'What to do', as: 'text', names: true },
  { field: 'why', label: 'Why so, or why now', as: 'text', optional: true },
  { field: 'facing', label: 'Which face is up or out', as: 'text', optional: true },
  { field: 'lubricant', label: 'What goes on it', as: 'text', optional: true },
  { field: 'selector', label: 'Where the selectors must be', as: 'text', optional: true },
  { field: 'count', label: 'How many are laid out for it', as: 'count', optional: true },
  { field: 'torque_n_m', label: 'Torque, N·m', as: 'number', optional: true },
  { field: 'left_hand_thread', label: 'Left-hand thread', as: 'tick' },
]

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
  show: (index: number) => void
}

export function Build({ sheet, faults, shown, show }: Props) {
  const { put } = useWriting()
  const build = sheet.build ?? []
  const step = build[shown]
  const of = `/build/${shown}`
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
        add={() => {
          put('/build', [...build, { key: freshKey(sheet), what: '' }])
          show(build.length)
          requestAnimationFrame(() => document.getElementById(`/build/${build.length}/what`)?.focus())
        }}
        move={(order) =>
          put(
            '/build',
            order.map((i) => build[i]),
          )
        }
      />
      {step && (
        <>
          <div className="my-4 grid gap-x-6 gap-y-3 sm:grid-cols-2">
            {FIELDS.map((column) => (
              <Cell
                key={column.field}
                {...{ column, of }}
                value={step[column.field as keyof typeof step]}
                fault={faults.get(`${of}/${column.field}`)}
                labelled
              />
            ))}
          </div>
          <div className="grid gap-6 lg:grid-cols-2">
            <Ticks
              title="Done before it"
              all={build.filter((s) => s.key !== step.key).map((s) => [s.key, s.what] as const)}
              chosen={step.needs ?? []}
              of={`${of}/needs`}
              faults={faults}
            />
            <Ticks
              title="Held until these are signed off"
              all={sheet.checks.map((c) => [c.key, c.name] as const)}
              chosen={step.hold ?? []}
              of={`${of}/hold`}
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
      )}
    </>
  )
}
