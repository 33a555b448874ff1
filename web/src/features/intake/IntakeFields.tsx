// What a box comes in with: what it does that it should not, what was agreed, by when it is promised, its number.
import { useSymptoms } from '../../api/queries'
import { symptomName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { inSentence } from '../../domain/words'
import { Labelled } from '../../ui/Parts'

export type Intake = Schemas['Intake']
type Complaint = Schemas['Complaint']

export const NO_INTAKE: Intake = {}
/** The fields of it that the server may find fault with. */
export const INTAKE_FIELDS = ['complaints', 'agreed', 'promised', 'stamped', 'waits_for', 'waits_until']

interface Props {
  /** The sheet that says which gears the box has. */
  sheet: string
  value: Intake
  onChange: (value: Intake) => void
  fault: (field: string) => string | undefined
}

export function IntakeFields({ sheet, value, onChange, fault }: Props) {
  const set = (part: Partial<Intake>) => onChange({ ...value, ...part })
  return (
    <>
      <Symptoms
        sheet={sheet}
        value={value.complaints ?? []}
        onChange={(complaints) => set({ complaints })}
        fault={fault('complaints')}
      />
      <Labelled
        label="What was agreed"
        hint="What is to be done, and up to what price"
        error={fault('agreed')}
      >
        {(id) => (
          <input
            id={id}
            className="field"
            value={value.agreed ?? ''}
            maxLength={500}
            onChange={(e) => set({ agreed: e.target.value })}
          />
        )}
      </Labelled>
      <div className="grid gap-x-5 sm:grid-cols-2">
        <Labelled
          label="Waits for"
          hint="Outside the shop: the customer’s answer, the grinder"
          error={fault('waits_for')}
        >
          {(id) => (
            <input
              id={id}
              className="field"
              value={value.waits_for?.what ?? ''}
              maxLength={80}
              onChange={(e) => set({ waits_for: { ...value.waits_for, what: e.target.value } })}
            />
          )}
        </Labelled>
        <Labelled label="Expected by" error={fault('waits_until')}>
          {(id) => (
            <input
              id={id}
              type="date"
              className="field figure"
              value={value.waits_for?.until ?? ''}
              onChange={(e) =>
                set({ waits_for: { what: '', ...value.waits_for, until: e.target.value || undefined } })
              }
            />
          )}
        </Labelled>
        <Labelled label="Promised for" error={fault('promised')}>
          {(id) => (
            <input
              id={id}
              type="date"
              className="field figure"
              value={value.promised ?? ''}
              onChange={(e) => set({ promised: e.target.value || undefined })}
            />
          )}
        </Labelled>
        <Labelled
          label="Number stamped on the box"
          hint="By it the box is known when it comes again"
          error={fault('stamped')}
        >
          {(id) => (
            <input
              id={id}
              className="field figure"
              value={value.stamped ?? ''}
              maxLength={80}
              autoComplete="off"
              onChange={(e) => set({ stamped: e.target.value })}
            />
          )}
        </Labelled>
      </div>
    </>
  )
}

/** Symptoms to press; where one may be in a gear, its gears under it. */
function Symptoms({
  sheet,
  value,
  onChange,
  fault,
}: {
  sheet: string
  value: readonly Complaint[]
  onChange: (value: Complaint[]) => void
  fault: string | undefined
}) {
  const { data: choices } = useSymptoms(sheet)
  const of = (symptom: string) => value.filter((c) => c.symptom === symptom)
  const without = (symptom: string) => value.filter((c) => c.symptom !== symptom)
  if (!sheet)
    return <p className="mb-4 text-dim">What it does wrong can be pressed once its sheet is chosen.</p>
  return (
    <fieldset className="mb-4">
      <legend className="mb-1 font-semibold">What it does wrong</legend>
      <div className="flex flex-wrap gap-2">
        {choices?.map(({ symptom }) => {
          const on = of(symptom).length > 0
          return (
            <button
              key={symptom}
              type="button"
              aria-pressed={on}
              className={`min-h-11 border-[1.5px] px-3 ${on ? 'border-ink bg-ink text-paper' : 'border-dim'}`}
              onClick={() => onChange(on ? without(symptom) : [...value, { symptom }])}
            >
              {symptomName[symptom]}
            </button>
          )
        })}
      </div>
      {choices
        ?.filter(({ symptom, gears }) => gears.length > 0 && of(symptom).length > 0)
        .map(({ symptom, gears }) => {
          const words = symptomName[symptom]
          const on = of(symptom)
          const toggle = (gear: string) => {
            const others = without(symptom)
            const named = on.filter((c) => c.gear && c.gear !== gear)
            const next = on.some((c) => c.gear === gear) ? named : [...named, { symptom, gear }]
            // The last gear taken off, it is so in some gear that nobody has named.
            onChange([...others, ...(next.length > 0 ? next : [{ symptom }])])
          }
          return (
            <div
              key={symptom}
              className="mt-2 flex flex-wrap items-center gap-2"
              role="group"
              aria-label={words}
            >
              <span className="text-dim">{words}: which?</span>
              {gears.map((gear) => (
                <button
                  key={gear}
                  type="button"
                  aria-pressed={on.some((c) => c.gear === gear)}
                  className={`min-h-11 border-[1.5px] px-3 ${on.some((c) => c.gear === gear) ? 'border-ink bg-ink text-paper' : 'border-dim'}`}
                  onClick={() => toggle(gear)}
                >
                  {inSentence(gear)}
                </button>
              ))}
            </div>
          )
        })}
      {fault && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {fault}
        </p>
      )}
    </fieldset>
  )
}
