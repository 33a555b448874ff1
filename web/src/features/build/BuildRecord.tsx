// The build on a job's report: who did which step, when and how; what was asked, passed over and taken apart again.
import type { Schemas } from '../../domain/schema'
import { whenText } from '../../domain/units'

export function BuildRecord({ build, log }: { build: Schemas['BuildView']; log: Schemas['BuildLine'][] }) {
  const back = log.filter((line) => line.takes_apart)
  return (
    <section className="mt-8" aria-label="Build">
      <h2 className="text-xl">
        Build: {build.done} of {build.steps.length} steps
      </h2>
      <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Wide table">
        <table className="mt-1 w-full">
          <thead>
            <tr>
              <th className="th">Step</th>
              <th className="th">By</th>
              <th className="th">When</th>
              <th className="th">How, and what was asked</th>
            </tr>
          </thead>
          <tbody>
            {build.steps.map((of, i) => (
              <tr key={of.step.key}>
                <td className="td">
                  <span className="figure text-dim">{i + 1}</span> {of.step.what}
                </td>
                <td className="td">{of.was_done?.who ?? of.left_out?.who}</td>
                <td className="td whitespace-nowrap">{of.was_done && whenText(of.was_done.at)}</td>
                <td className="td">{how(of)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {back.length > 0 && (
        <>
          <h3 className="mt-4 font-bold">Taken apart again</h3>
          <ul className="ruled mt-1">
            {back.map((line) => (
              <li key={line.at + line.said} className="flex flex-wrap gap-x-3 py-1">
                <span className="text-dim">{whenText(line.at)}</span>
                <strong>{line.who}</strong>
                <span>{line.said}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}

function how(of: Schemas['StepView']) {
  const { step, was_done: done } = of
  const last = step.fasteners?.stages?.at(-1)
  const torque = done?.how.torque_n_m ?? (last?.to === 'torque' ? last.n_m : step.torque_n_m)
  return [
    of.left_out && `left out: ${of.left_out.said}`,
    done && torque != null && `${torque} N·m`,
    done?.how.wrench,
    done?.how.way,
    done?.how.why,
    done?.how.left_over != null && `${done.how.left_over} left over`,
    ...(of.holds ?? []).map((h) =>
      h.passed_over
        ? `passed over: ${h.name}, ${h.passed_over.said} (${h.passed_over.who})`
        : h.answer && `${h.name} ${h.answer}`,
    ),
    done?.how.note && `noted: ${done.how.note}`,
  ]
    .filter(Boolean)
    .join(' · ')
}
