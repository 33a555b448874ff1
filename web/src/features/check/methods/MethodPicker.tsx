import { useEffect } from 'react'
import { methodWords } from '../../../domain/labels'
import type { Method } from '../../../domain/readings'
import type { CheckView, Schemas } from '../../../domain/schema'

/** Which way the next reading is taken, and with which gauge. */
export function MethodPicker({
  check,
  way,
  setWay,
  gauge,
  setGauge,
}: {
  check: CheckView
  way: Method
  setWay: (way: Method) => void
  gauge?: Schemas['GaugeView']
  setGauge: (key: string) => void
}) {
  const ways = check.allowed.methods
  const gauges = check.gauges.filter((g) => g.ways.includes(way))
  // A way that the sheet does not offer is never left chosen.
  useEffect(() => {
    if (!ways.includes(way) && ways[0]) setWay(ways[0])
  }, [ways, way, setWay])
  return (
    <div className="mt-3 flex gap-2">
      <div className="min-w-0 flex-1">
        <label htmlFor="way" className="mb-1 block text-sm font-semibold">
          Taken by
        </label>
        <select id="way" className="field" value={way} onChange={(e) => setWay(e.target.value as Method)}>
          {ways.map((w) => (
            <option key={w} value={w}>
              {methodWords(w, check.kind)}
              {w === check.method ? ' (usual)' : ''}
            </option>
          ))}
        </select>
      </div>
      {gauges.length > 0 && (
        <div className="min-w-0 flex-1">
          <label htmlFor="gauge" className="mb-1 block text-sm font-semibold">
            With
          </label>
          <select
            id="gauge"
            className="field"
            value={gauge?.key ?? ''}
            onChange={(e) => setGauge(e.target.value)}
          >
            {gauges.map((g) => (
              <option key={g.key} value={g.key}>
                {g.name}
                {g.overdue_since ? ' (check overdue)' : ''}
              </option>
            ))}
          </select>
        </div>
      )}
    </div>
  )
}
