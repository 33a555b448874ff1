// What must be measured and signed off, in the order of setting; one check at a time is open.
import { Chips } from './Chips'
import { CheckForm } from './CheckForm'
import { freshKey, type Sheet } from './draft'
import { useWriting } from './writing'

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
  show: (index: number) => void
}

/** A check with nothing said of it yet, between two parts where it is cut in. */
export const freshCheck = (sheet: Sheet, between?: [string, string]) => ({
  key: freshKey(sheet),
  name: '',
  kind: 'end_float' as const,
  ...(between && { between }),
  method: 'dial_travel' as const,
})

export function Checks({ sheet, faults, shown, show }: Props) {
  const { put } = useWriting()
  const check = sheet.checks[shown]
  return (
    <>
      <Chips
        of="/checks"
        label="Checks, in the order of setting"
        names={sheet.checks.map((c) => c.name)}
        faulty={(i) => [...faults.keys()].some((p) => p.startsWith(`/checks/${i}/`) || p === `/checks/${i}`)}
        noun="check"
        {...{ shown, show }}
        add={() => {
          put('/checks', [...sheet.checks, freshCheck(sheet)])
          show(sheet.checks.length)
          requestAnimationFrame(() => document.getElementById(`/checks/${sheet.checks.length}/name`)?.focus())
        }}
        move={(order) =>
          put(
            '/checks',
            order.map((i) => sheet.checks[i]),
          )
        }
      />
      {sheet.checks.length === 0 && (
        <p className="py-4">
          A check is one thing to be measured and signed off. Cut one in between two parts with ✂ on the
          shaft’s list, or add one here.
        </p>
      )}
      {check && <CheckForm key={shown} {...{ sheet, faults, check }} of={`/checks/${shown}`} />}
    </>
  )
}
