// The build as a list to take to a room without a screen: a box to tick at each step, room for each figure.
import { faceName } from '../../domain/labels'
import type { Build, StepView } from './acts'
import { stageWords } from './words'

export function PrintList({ build, title }: { build: Build; title: string }) {
  return (
    <div className="hidden print:block">
      <h1 className="text-2xl">{title}</h1>
      <table className="mt-3 w-full" aria-label="Build list">
        <tbody>
          {build.steps.map((of, i) => (
            <tr key={of.step.key} className="break-inside-avoid align-top">
              <td className="w-9 py-2">
                <span className="inline-block size-6 border-2 border-ink text-center leading-5 font-bold">
                  {of.state === 'done' ? '×' : of.state === 'left_out' ? '–' : ''}
                </span>
              </td>
              <td className="figure w-9 py-2">{i + 1}</td>
              <td className="border-b border-line py-2">
                <span className="font-bold">{of.step.what}</span>
                {facts(of, build).map((fact) => (
                  <span key={fact} className="block text-sm">
                    {fact}
                  </span>
                ))}
                {of.holds?.map((h) => (
                  <span key={JSON.stringify(h.of)} className="mt-1 block text-sm">
                    <strong>{h.of.kind === 'check' ? 'Hold: ' : 'Asked: '}</strong>
                    {h.name}{' '}
                    {h.of.kind === 'check'
                      ? '_______________ signed ______'
                      : `yes ☐ no ☐ (should be ${h.wanted ?? 'yes'})`}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function facts({ step }: StepView, build: Build): string[] {
  const parts = build.parts.filter((p) => step.puts?.includes(p.key))
  const ways = parts
    .filter((p) => p.facing)
    .map((p) => `${p.name}: ${p.facing ? faceName[p.facing.face] : ''} ${p.towards ?? ''}`)
  const stages = step.fasteners?.stages?.map(stageWords).join(' → ')
  return [
    step.why && `Why: ${step.why}`,
    parts.length > 0 &&
      `In: ${parts.map((p) => (p.count > 1 ? `${p.count} × ${p.name}` : p.name)).join(', ')}`,
    ...ways,
    step.facing,
    step.lubricant && `On it: ${step.lubricant}`,
    step.selector && `Selector: ${step.selector}${step.leaves ? `, then ${step.leaves}` : ''}`,
    step.count != null && `Lay out ${step.count}, none left over`,
    step.wait && `${step.wait.minutes} min${step.wait.at_c == null ? '' : ` at ${step.wait.at_c} °C`}`,
    step.torque_n_m != null && `${step.torque_n_m} N·m${step.left_hand_thread ? ', LEFT-HAND THREAD' : ''}`,
    step.fasteners && `${step.fasteners.count} × ${step.fasteners.thread ?? 'fasteners'}: ${stages ?? ''}`,
    ...(step.cautions ?? []).map((c) => `△ ${c}`),
  ].filter((fact): fact is string => typeof fact === 'string' && fact !== '')
}
