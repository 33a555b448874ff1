// The gauge register: what each can see, when it was checked, and when it is due.
import { useState } from 'react'
import type { Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useGauges } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useTitle } from '../../ui/title'
import { dayText, showStated, unitName } from '../../domain/units'
import { GaugeCard } from './GaugeCard'
import { gaugeKindName } from '../../domain/labels'

type Gauge = Schemas['Registered']

export function GaugesView() {
  useTitle('Gauges')
  const { data: gauges, error } = useGauges()
  const [open, setOpen] = useState<Gauge | 'new' | null>(null)
  if (!gauges && error) return <Trouble error={error as unknown as Refused} />
  if (!gauges) return <Loading what="the register" />
  const there = new Set(gauges.filter((g) => !g.retired).map((g) => g.kind))
  const kinds = (Object.keys(gaugeKindName) as Gauge['kind'][]).filter((k) => there.has(k))
  const retired = gauges.filter((g) => g.retired)
  return (
    <main className="px-3 py-5 sm:px-6">
      <div className="flex flex-wrap items-start gap-4">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-2xl">Gauges</h1>
          <p className="text-dim">
            What a gauge can see sets how far its readings are trusted. Press one to change its card.
          </p>
        </div>
        <button className="press" onClick={() => setOpen('new')}>
          New gauge
        </button>
      </div>
      {gauges.length === 0 && (
        <p className="mt-6 text-lg">The register is empty. Enter the gauge that lies on the bench first.</p>
      )}
      {kinds.map((kind) => (
        <Kind
          key={kind}
          kind={kind}
          gauges={gauges.filter((g) => g.kind === kind && !g.retired)}
          {...{ setOpen }}
        />
      ))}
      {retired.length > 0 && (
        <details className="mt-6">
          <summary className="min-h-11 py-2 font-semibold">No longer used, {retired.length}</summary>
          <ul className="ruled">
            {retired.map((g) => (
              <li key={g.gauge_key} className="py-2">
                <button className="link min-h-11" onClick={() => setOpen(g)}>
                  {g.name}
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
      {open && <GaugeCard gauge={open === 'new' ? null : open} onClose={() => setOpen(null)} />}
    </main>
  )
}

function Kind({
  kind,
  gauges,
  setOpen,
}: {
  kind: Gauge['kind']
  gauges: Gauge[]
  setOpen: (gauge: Gauge) => void
}) {
  const { unit } = useBench()
  const force = kind === 'torque_wrench' || kind === 'spring_scale'
  const u = kind === 'torque_wrench' ? 'N·m' : kind === 'spring_scale' ? 'N' : unitName[unit]
  const figure = (nm: number | null | undefined, si: number | null | undefined) =>
    force ? (si ?? '—') : nm == null ? '—' : showStated(nm, unit)
  return (
    <section className="mt-6" aria-label={gaugeKindName[kind]}>
      <h2 className="text-lg">{gaugeKindName[kind]}</h2>
      <div className="overflow-x-auto">
        <table className="mt-1 w-full min-w-[46rem] table-fixed">
          <thead>
            <tr>
              <th className="th w-[32%]">Gauge</th>
              <th className="th text-right">Step, {u}</th>
              <th className="th text-right">Error ±, {u}</th>
              <th className="th text-right">Scatter, {u}</th>
              <th className="th pl-8">Checked</th>
              <th className="th">Due</th>
            </tr>
          </thead>
          <tbody>
            {gauges.map((g) => (
              <tr key={g.gauge_key}>
                <td className="td">
                  <button className="link min-h-11 text-left" onClick={() => setOpen(g)}>
                    {g.name}
                  </button>
                  <span className="block text-sm text-dim">
                    {[
                      g.usual && 'taken up first',
                      g.live_at && `speaks at ${g.live_at}`,
                      g.leaves_nm.length > 0 && `${g.leaves_nm.length} leaves`,
                    ]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </td>
                <td className="td figure text-right">{figure(g.resolution_nm, g.resolution_si)}</td>
                <td className="td figure text-right">
                  {figure(g.permissible_error_nm, g.permissible_error_si)}
                </td>
                <td className="td figure text-right">{figure(g.repeatability_nm, g.repeatability_si)}</td>
                <td className="td pl-8 whitespace-nowrap">{g.checked_on ? dayText(g.checked_on) : '—'}</td>
                <td className="td whitespace-nowrap">
                  {g.due_on ? dayText(g.due_on) : '—'}
                  {g.overdue && (
                    <span className="block font-semibold text-brass">
                      <span aria-hidden="true">△ </span>overdue
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}
