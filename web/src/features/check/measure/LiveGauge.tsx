// A digital gauge that speaks: its pin moves against the slot, the lowest and highest rest are held,
// and one key takes the travel between them.
import { useCallback, useEffect, useState } from 'react'
import type { CheckView, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { toFinal } from '../../../domain/trial'
import { show, unitName } from '../../../domain/units'
import type { ReadingInput } from '../../../domain/readings'
import { serialPort, useLive, type Told } from './live'

const W = 340
const TAKE_KEY = 'F8'

export function LiveGauge({
  check,
  gauge,
  onTake,
  turned,
}: {
  check: CheckView
  gauge: Schemas['GaugeView']
  onTake: (entry: ReadingInput) => boolean
  /** How many quarters the shaft is turned by; none where it is not turned so. */
  turned: number | null
}) {
  const { unit } = useBench()
  const [serial, setSerial] = useState(false)
  const { told, clear, trouble } = useLive(gauge.key, serial)
  const [zero, setZero] = useState(0)
  const travel = told.travel_nm ?? null
  const take = useCallback(() => {
    if (told.low_nm == null || told.high_nm == null || travel === null || travel <= 0) return
    const mm = (nm: number) => `${(nm / 1e6).toFixed(6)} mm`
    const pair = { kind: 'pair', home: mm(told.low_nm), out: mm(told.high_nm), tilt: '', pull: '' } as const
    if (onTake({ ...pair, ...(turned !== null && { turned }) })) clear()
  }, [told.low_nm, told.high_nm, travel, onTake, clear, turned])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== TAKE_KEY) return
      event.preventDefault()
      take()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [take])
  const speaking = told.state === 'speaking' && told.nm != null
  return (
    <section className="mt-4 border-2 border-ink p-3" aria-label="Live gauge">
      <p className="flex items-baseline justify-between gap-2">
        <span className="font-semibold">{serial ? 'Gauge on the serial port' : gauge.name}</span>
        <span className="text-sm text-dim" role="status">
          {stateWords[told.state]}
          {told.garbled > 0 && ` · ${told.garbled} lines not read`}
        </span>
      </p>
      <p className="figure text-3xl font-semibold" data-testid="live-figure">
        {speaking ? show((told.nm ?? 0) - zero, unit) : '—'}{' '}
        <span className="font-sans text-base">{unitName[unit]}</span>
      </p>
      <p className="min-h-7 text-lg font-bold" aria-live="polite" data-testid="live-says">
        {speaking && liveWords(told, turned)}
      </p>
      <Track check={check} told={told} />
      <dl className="mt-1 grid grid-cols-3 gap-2 text-sm">
        {(
          [
            ['home', told.low_nm == null ? null : told.low_nm - zero],
            ['out', told.high_nm == null ? null : told.high_nm - zero],
            ['travel', travel],
          ] as const
        ).map(([name, nm]) => (
          <div key={name}>
            <dt className="text-dim">{name}</dt>
            <dd className="figure text-lg font-semibold" data-testid={`live-${name}`}>
              {nm == null ? '—' : show(nm, unit)}
            </dd>
          </div>
        ))}
      </dl>
      {(trouble || (told.garbled > 0 && told.why)) && (
        <p className="mt-2 text-sm text-dim">{trouble || `Last line not read: ${told.why}`}</p>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <button type="button" className="press" disabled={!travel || travel <= 0} onClick={take}>
          Take the travel <kbd className="font-mono text-sm">{TAKE_KEY}</kbd>
        </button>
        <button type="button" className="press-quiet" onClick={clear}>
          Clear the holds
        </button>
        <button
          type="button"
          className="press-quiet"
          disabled={!speaking}
          onClick={() => setZero(zero === 0 ? (told.nm ?? 0) : 0)}
        >
          {zero === 0 ? 'Zero here' : 'Zero off'}
        </button>
        {serialPort() && (
          <button type="button" className="link min-h-11" onClick={() => setSerial(!serial)}>
            {serial ? 'back to the shop’s gauge' : 'read one on this screen’s serial port'}
          </button>
        )}
      </div>
    </section>
  )
}

/** What to do now: force flexes the case, so nobody pulls on once it stands. */
function liveWords(told: Told, turned: number | null) {
  if (!told.resting) return 'Still moving'
  if ((told.travel_nm ?? 0) <= 0)
    return turned === null
      ? 'At rest: push it home, then pull'
      : `At rest at ${turned * 90}°: push it home, then pull`
  return turned === null
    ? 'At rest: stop pulling, and take it'
    : `At rest: stop pulling, take it, then turn to ${((turned + 1) % 4) * 90}°`
}

const stateWords: Record<Told['state'], string> = {
  unplugged: 'unplugged; tried again and again',
  silent: 'plugged in, says nothing',
  speaking: 'speaking',
}

/** The pin against the slot, from the lowest rest on: drawn anew for each frame, never queued. */
function Track({ check, told }: { check: CheckView; told: Told }) {
  const shift = toFinal(check)
  const low = check.window.low_nm == null ? null : check.window.low_nm - shift
  const high = check.window.high_nm == null ? null : check.window.high_nm - shift
  const far = Math.max(high ?? 0, low ?? 0, told.travel_nm ?? 0, 50_000) * 1.4
  const x = (nm: number) => 8 + (Math.min(Math.max(nm, -far * 0.05), far) / far) * (W - 16)
  const at = told.nm == null || told.low_nm == null ? null : told.nm - told.low_nm
  return (
    <svg viewBox={`0 0 ${W} 44`} width="100%" className="block" aria-hidden="true">
      <rect x={x(low ?? 0)} y="8" width={x(high ?? far) - x(low ?? 0)} height="22" fill="var(--blue-soft)" />
      {[low, high].map(
        (l, i) =>
          l != null && (
            <line key={i} x1={x(l)} x2={x(l)} y1="4" y2="34" stroke="var(--ink)" strokeWidth="2.5" />
          ),
      )}
      <line x1="8" x2={W - 8} y1="34" y2="34" stroke="var(--steel-line)" strokeWidth="2" />
      {told.travel_nm != null && (
        <rect
          x={x(0)}
          y="30"
          width={Math.max(x(told.travel_nm) - x(0), 1)}
          height="4"
          fill="var(--brass-line)"
        />
      )}
      {at !== null && (
        <rect
          x={x(at) - 4}
          y="6"
          width="8"
          height="26"
          fill="var(--brass-line)"
          stroke="var(--ink)"
          strokeWidth="2"
        />
      )}
    </svg>
  )
}
