// Travel of a dial: zeroed with the shaft home, or both ends read.
import { useRef, useState } from 'react'
import { useBench } from '../../../domain/session'
import { show } from '../../../domain/units'
import { Field, Form, HOW_TO_WRITE, KeepPress, back } from './parts'
import type { TakeProps } from './parts'

const QUARTERS = [0, 1, 2, 3]

export function TravelForm({
  check,
  way,
  gauge,
  unitWord,
  onTake,
  first,
  refused,
  turned = null,
  setTurned,
}: TakeProps) {
  const { unit } = useBench()
  const single = back(refused, 'travel')
  const both = back(refused, 'pair')
  const [pair, setPair] = useState(both != null)
  const [tilt, setTilt] = useState((single ?? both)?.tilt ?? '')
  const [pull, setPull] = useState((single ?? both)?.pull ?? '')
  const [more, setMore] = useState(tilt !== '' || pull !== '')
  const [home, setHome] = useState(both?.home ?? '')
  const [figure, setFigure] = useState(single?.travel ?? both?.out ?? '')
  const out = useRef<HTMLInputElement>(null)
  const enter = () => {
    // The first Enter of a pair goes on to the second figure.
    if (pair && home.trim() && !figure.trim()) {
      out.current?.focus()
      return
    }
    const taken = onTake(
      pair
        ? { kind: 'pair', home, out: figure, tilt, pull, ...(turned !== null && { turned }) }
        : { kind: 'travel', travel: figure, tilt, pull, ...(turned !== null && { turned }) },
    )
    if (!taken) return
    setFigure('')
    setPull('')
    if (pair) setHome('')
    first.current?.focus()
  }
  const label =
    turned !== null
      ? `Travel with the shaft at ${turned * 90}°`
      : way === 'no_shim'
        ? 'Travel with every shim out'
        : 'Travel, turning the shaft between trials'
  const read = new Set(
    check.readings.flatMap((r) =>
      r.round === check.round &&
      !r.struck &&
      (r.taken.kind === 'travel' || r.taken.kind === 'pair') &&
      r.taken.turned != null
        ? [r.taken.turned]
        : [],
    ),
  )
  return (
    <Form
      onEnter={enter}
      hint={
        <>
          {HOW_TO_WRITE}{' '}
          {gauge?.resolution_nm != null && (
            <>
              {gauge.name}: step {show(gauge.resolution_nm, unit)}, error ±{' '}
              {show(gauge.permissible_error_nm ?? 0, unit)}.
            </>
          )}
        </>
      }
    >
      {turned !== null && (
        <div className="mb-3 flex flex-wrap gap-2" role="group" aria-label="The shaft is turned by">
          {QUARTERS.map((q) => (
            <button
              key={q}
              type="button"
              aria-pressed={q === turned}
              className={`min-h-11 min-w-14 border-[1.5px] border-ink font-semibold ${q === turned ? 'bg-ink text-paper' : ''}`}
              onClick={() => {
                setTurned?.(q)
                first.current?.focus()
              }}
            >
              {q * 90}°
              {read.has(q) && (
                <span>
                  {' '}
                  <span aria-hidden="true">✓</span>
                  <span className="sr-only">has a reading</span>
                </span>
              )}
            </button>
          ))}
        </div>
      )}
      {pair ? (
        <div className="flex gap-2">
          <Field
            id="home"
            label="Dial, shaft home"
            field="home"
            value={home}
            onChange={setHome}
            placeholder={unitWord}
            input={first}
          />
          <Field
            id="out"
            label="Dial, shaft out"
            field="out"
            value={figure}
            onChange={setFigure}
            placeholder={unitWord}
            input={out}
          />
          <KeepPress />
        </div>
      ) : (
        <div className="flex gap-2">
          <Field
            id="reading"
            label={label}
            field="travel"
            value={figure}
            onChange={setFigure}
            placeholder={unitWord}
            input={first}
            wide
          />
          <KeepPress />
        </div>
      )}
      {more && (
        <div className="mt-3 flex gap-2">
          <Field
            id="tilt"
            label="Plunger tilted, °"
            field="tilt"
            value={tilt}
            onChange={setTilt}
            placeholder="0"
          />
          <Field
            id="pull"
            label="Pulled with, N"
            field="pull"
            value={pull}
            onChange={setPull}
            placeholder="not noted"
          />
        </div>
      )}
      <p className="mt-2 flex flex-wrap gap-x-4">
        <button type="button" className="link min-h-11" onClick={() => setPair(!pair)}>
          {pair ? 'dial zeroed with the shaft home' : 'dial not zeroed: read both ends'}
        </button>
        <button type="button" className="link min-h-11" onClick={() => setMore(!more)} aria-expanded={more}>
          tilt and pull
        </button>
        {setTurned && (
          <button
            type="button"
            className="link min-h-11"
            onClick={() => {
              setTurned(turned === null ? 0 : null)
              first.current?.focus()
            }}
          >
            {turned === null ? 'turn by quarters: rock told from float' : 'do not say how far it is turned'}
          </button>
        )}
      </p>
    </Form>
  )
}
