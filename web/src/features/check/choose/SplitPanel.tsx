// Both ends of a ring gear's shaft at once: what the drawers have for total and split, and what one end alone would do.
import type { ReactNode } from 'react'
import { useSplit } from '../../../api/queries'
import { sizeCounts } from '../../../domain/pieces'
import type { CheckView, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { clearance, percent, piecesText, show, showStated, unitName } from '../../../domain/units'
import { inSentence } from '../../../domain/words'
import { SlotStrip } from '../../../charts/SlotGauge'
import { Trouble } from '../../../ui/Parts'
import { useChooseAll } from './choose-all'

type View = Schemas['SplitView']

export function SplitPanel({ check }: { check: CheckView }) {
  const { unit } = useBench()
  const { data } = useSplit(check.job_no, check.check_key, check.version)
  if (!data) return null
  const factor = `grows by ${data.per_move.toFixed(2)} of what the ring gear moves${data.u_per_move > 0 ? `, ± ${(2 * data.u_per_move).toFixed(2)}` : ''} (${data.found_here ? 'found here by two set-ups' : 'the sheet’s figure'})`
  return (
    <div className="mt-4 border-t border-line pt-3" data-testid="split">
      <h3 className="text-base">Both ends at once</h3>
      <p className="text-dim">The total sets the bearing, the split the mesh: the backlash {factor}.</p>
      {data.not_now && <p className="mt-2">Not yet: {data.not_now}.</p>}
      {!data.not_now && data.rows.length === 0 && (
        <p className="mt-2 font-semibold">
          No two of what is in the drawers put either in its window. Count the drawers, or order sizes.
        </p>
      )}
      {data.rows.length > 0 && <Rows data={data} check={check} unitWord={unitName[unit]} />}
    </div>
  )
}

function Rows({ data, check, unitWord }: { data: View; check: CheckView; unitWord: string }) {
  const act = useChooseAll(check.job_no)
  const best = data.rows[0]
  const both = best?.stacks.every((s) => s != null)
  const waiting = check.setting?.state === 'chosen'
  return (
    <>
      <ul className="mt-2 space-y-3">
        {data.rows.map((row, i) => (
          <Row key={i} {...{ data, row, unitWord, best: i === 0 && both === true }}>
            {i === 0 && both && !waiting && check.phase !== 'signed' && (
              <button
                className="press mt-3"
                data-work="choose"
                disabled={act.isPending}
                onClick={() =>
                  act.mutate({
                    choices: data.ends.map((end, e) => ({
                      job_no: check.job_no,
                      check_key: end.check_key,
                      version: end.version,
                      pieces: sizeCounts(best?.stacks[e] ?? []),
                    })),
                    said: 'Set aside for both ends.',
                  })
                }
              >
                Set aside for both ends
              </button>
            )}
          </Row>
        ))}
      </ul>
      <Trouble error={act.error} />
      {both && (
        <p className="mt-2 text-sm text-dim">
          {data.proven
            ? 'Proven: nothing in the drawers is better.'
            : 'Not proven: something better may be there.'}
        </p>
      )}
    </>
  )
}

function Row({
  data,
  row,
  best,
  unitWord,
  children,
}: {
  data: View
  row: Schemas['SplitRow']
  best: boolean
  unitWord: string
  children?: ReactNode
}) {
  const { unit } = useBench()
  return (
    <li className={`border-l-4 px-3 py-2 ${best ? 'border-blue bg-blue-soft' : 'border-line'}`}>
      <p className="font-semibold">
        {best ? 'Best for both: ' : 'One end alone: '}
        {data.ends
          .map((end, e) => {
            const stack = row.stacks[e]
            const what = stack ? piecesText(stack, unit) : `${showStated(end.fitted_nm, unit)} stays`
            return `${inSentence(end.family_name)} ${what}`
          })
          .join(', ')}{' '}
        {unitWord}
      </p>
      <table className="mt-1 w-full">
        <caption className="sr-only">What each would come to</caption>
        <tbody>
          {data.checks.map((c, n) => {
            const outcome = row.outcomes[n]
            if (!outcome) return null
            const came = clearance(outcome.predicted_nm, unit, false, c.kind)
            return (
              <tr key={c.check_key}>
                <th scope="row" className="td text-left font-normal">
                  {c.name}
                </th>
                <td className="td figure text-right whitespace-nowrap">
                  {came.figure} {outcome.predicted_nm < 0 && <span className="font-sans">{came.word}</span>}
                </td>
                <td className="td hidden @md:table-cell">
                  <SlotStrip window={c.window} pin={{ nm: outcome.predicted_nm, lands: outcome.lands }} />
                </td>
                <td className={`td text-right whitespace-nowrap ${outcome.reaches_floor ? 'font-bold' : ''}`}>
                  {outcome.lands !== 'in' && `${outcome.lands} by `}
                  <span className="figure">
                    {outcome.lands === 'in'
                      ? percent(outcome.chance)
                      : show(beyond(outcome.predicted_nm, c.window), unit)}
                  </span>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {children}
    </li>
  )
}

const beyond = (nm: number, { low_nm, high_nm }: Schemas['Ends']) =>
  Math.max(low_nm == null ? 0 : low_nm - nm, high_nm == null ? 0 : nm - high_nm)
