// One reading by one way: the form that follows the hands. Each keeps the focus where the next
// figure goes, so that a gauge which types its figure and Enter needs no click.
import { useContext, useEffect, useRef, useState } from 'react'
import type { Gap, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { show, showStated, unitName } from '../../../domain/units'
import { PinionForm } from './PinionForm'
import { SelectorForm } from './SelectorForm'
import {
  Entering,
  Field,
  Form,
  HOW_TO_WRITE,
  KeepPress,
  LeafPicks,
  Which,
  back,
  type Fault,
  type TakeProps,
} from './parts'
import { type ReadingInput, type Method } from '../../../domain/readings'
import { fitWords, methodName } from '../../../domain/labels'

export function Take({
  fault,
  clearFault,
  ...props
}: TakeProps & { fault: Fault | null; clearFault: () => void }) {
  return (
    <Entering.Provider value={{ fault, clearFault }}>
      <WayForm {...props} />
    </Entering.Provider>
  )
}

function WayForm(props: TakeProps) {
  switch (props.way) {
    case 'dial_travel':
    case 'no_shim':
      return <TravelForm {...props} />
    case 'feeler':
      return <LeafForm {...props} />
    case 'depth_from_bar':
      return <DepthForm {...props} />
    case 'stack_sum':
      return <TermForm {...props} />
    case 'known_shim':
      return <ShimForm {...props} />
    case 'turning_torque':
      return <TorqueForm {...props} />
    case 'one_by_one':
      return <PinionForm {...props} />
    case 'selector_gaps':
      return <SelectorForm {...props} />
    case 'by_hand':
      return <HandForm {...props} />
  }
}

function TravelForm({ way, gauge, unitWord, onTake, first, refused }: TakeProps) {
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
      pair ? { kind: 'pair', home, out: figure, tilt, pull } : { kind: 'travel', travel: figure, tilt, pull },
    )
    if (!taken) return
    setFigure('')
    setPull('')
    if (pair) setHome('')
    first.current?.focus()
  }
  const label = way === 'no_shim' ? 'Travel with every shim out' : 'Travel, turning the shaft between trials'
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
        <button type="button" className="link min-h-10" onClick={() => setPair(!pair)}>
          {pair ? 'dial zeroed with the shaft home' : 'dial not zeroed: read both ends'}
        </button>
        <button type="button" className="link min-h-10" onClick={() => setMore(!more)} aria-expanded={more}>
          tilt and pull
        </button>
      </p>
    </Form>
  )
}

function LeafForm({ gap, gauge, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const [leaves, setLeaves] = useState(back(refused, 'leaf')?.leaves ?? '')
  const advice = gap.next_leaf
  const detail = gap.ways.find((w) => w.way === 'feeler')?.detail
  const u = unitName[unit]
  // Leaves picked by a tap are written out with their unit, so that switching it changes nothing.
  const written = (list: number[]) => list.map((l) => `${showStated(l, unit)} ${u}`).join(' + ')
  const took = (fit: Schemas['Fit']) => {
    if (onTake({ kind: 'leaf', leaves, fit })) setLeaves('')
    first.current?.focus()
  }
  const { clearFault } = useContext(Entering)
  const pick = (text: string) => {
    setLeaves(text)
    clearFault()
  }
  return (
    <Form onEnter={() => took('goes')}>
      {advice?.kind === 'try' && (
        <p className="mb-3 border-l-4 border-blue bg-blue-soft px-3 py-2" data-testid="advice">
          Try <strong className="figure">{written(advice.leaves_nm)}</strong> next:{' '}
          {advice.at_most === 1
            ? 'it settles the verdict.'
            : `${advice.at_most} tries at the most settle the verdict.`}{' '}
          <button type="button" className="link min-h-8" onClick={() => pick(written(advice.leaves_nm))}>
            take it
          </button>
        </p>
      )}
      {advice?.kind === 'settled' && (
        <p className="mb-3 border-l-4 border-blue bg-blue-soft px-3 py-2" data-testid="advice">
          The verdict is settled: no further leaf can change it.
          {detail?.kind === 'leaves' &&
            detail.refused_nm == null &&
            ' Try one that does not go all the same, so that it has a figure.'}
        </p>
      )}
      {advice?.kind === 'cannot_settle' && (
        <p className="mb-3 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="advice">
          A limit lies between two sizes that these leaves can make: they cannot settle it. Take it another
          way as well.
        </p>
      )}
      <Field
        id="reading"
        label="Leaf, or leaves on each other"
        field="leaves"
        value={leaves}
        onChange={setLeaves}
        placeholder={unitWord}
        input={first}
        wide
      />
      <LeafPicks gauge={gauge} onPick={(leaf) => pick(leaves.trim() ? `${leaves} + ${leaf}` : leaf)} />
      <div className="mt-3 flex flex-wrap gap-2">
        {(['goes', 'refused', 'just'] as const).map((fit) => (
          <button
            key={fit}
            type={fit === 'goes' ? 'submit' : 'button'}
            className={fit === 'goes' ? 'press' : 'press-quiet'}
            onClick={fit === 'goes' ? undefined : () => took(fit)}
          >
            {fitWords[fit]}
          </button>
        ))}
      </div>
    </Form>
  )
}

const CIRCLES = [3, 4, 5, 6, 8, 12]

function DepthForm({ gap, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const again = back(refused, 'depth')
  const taken = gap.readings.filter((r) => r.round === gap.round && !r.struck && r.taken.kind === 'depth')
  const last = taken.at(-1)?.taken
  const [of, setOf] = useState(again?.of ?? (last?.kind === 'depth' ? last.of : 6))
  const [place, setPlace] = useState(() => again?.place ?? nextPlace(taken, of))
  // The bar stays what it was: left out once, every depth would be long by it.
  const [bar, setBar] = useState(() =>
    again
      ? (again.bar ?? '')
      : last?.kind === 'depth' && last.bar_nm > 0
        ? `${showStated(last.bar_nm, unit)} ${unitName[unit]}`
        : '',
  )
  const [depth, setDepth] = useState(again?.depth ?? '')
  const enter = () => {
    if (!onTake({ kind: 'depth', place, of, depth, bar })) return
    setDepth('')
    setPlace((place % of) + 1)
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint="Lay the bar across the joint face; read from its upper face, and give its thickness once."
    >
      <div className="mb-3 flex gap-2">
        <div className="flex-1">
          <label htmlFor="of" className="mb-1 block font-semibold">
            Places
          </label>
          <select
            id="of"
            className="field"
            value={of}
            onChange={(e) => {
              const next = Number(e.target.value)
              setOf(next)
              setPlace((now) => Math.min(now, next))
            }}
          >
            {CIRCLES.map((n) => (
              <option key={n} value={n}>
                {n} round
              </option>
            ))}
          </select>
        </div>
        <Field id="bar" label="Bar is thick" field="bar" value={bar} onChange={setBar} placeholder="none" />
      </div>
      <Which
        label="Which place"
        count={of}
        now={place}
        onPick={(p) => {
          setPlace(p)
          first.current?.focus()
        }}
      />
      <div className="flex gap-2">
        <Field
          id="reading"
          label={`Depth at place ${place}`}
          field="depth"
          value={depth}
          onChange={setDepth}
          placeholder={unitWord}
          input={first}
          wide
        />
        <KeepPress />
      </div>
    </Form>
  )
}

function nextPlace(taken: Schemas['ReadingView'][], of: number) {
  const read = new Set(taken.map((r) => (r.taken.kind === 'depth' ? r.taken.place : 0)))
  for (let p = 1; p <= of; p++) if (!read.has(p)) return p
  return 1
}

function TermForm({ gap, unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'term')
  const [term, setTerm] = useState(again?.term ?? 1)
  const [length, setLength] = useState(again?.length ?? '')
  if (gap.terms.length === 0)
    return (
      <p className="mt-4 text-dim">
        The sheet has no terms for this sum. Enter them on the sheet, or take it another way.
      </p>
    )
  const enter = () => {
    if (!onTake({ kind: 'term', term, length })) return
    setLength('')
    setTerm((term % gap.terms.length) + 1)
    first.current?.focus()
  }
  return (
    <Form onEnter={enter} hint="A term that is measured counts in place of the sheet’s figure.">
      <label htmlFor="term" className="mb-1 block font-semibold">
        Part or depth measured
      </label>
      <select id="term" className="field mb-3" value={term} onChange={(e) => setTerm(Number(e.target.value))}>
        {gap.terms.map((t, i) => (
          <option key={i} value={i + 1}>
            {i + 1}. {t.what}
          </option>
        ))}
      </select>
      <div className="flex gap-2">
        <Field
          id="reading"
          label="Measures"
          field="length"
          value={length}
          onChange={setLength}
          placeholder={unitWord}
          input={first}
          wide
        />
        <KeepPress />
      </div>
    </Form>
  )
}

function ShimForm({ unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'known_shim')
  const [shim, setShim] = useState(again?.shim ?? '')
  const [float, setFloat] = useState(again?.float ?? '')
  const enter = () => {
    if (!onTake({ kind: 'known_shim', shim, float })) return
    setFloat('')
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint="The shim goes in on the side that opens the gap. Two set-ups with different shims should agree."
    >
      <div className="flex gap-2">
        <Field id="shim" label="Shim in" field="shim" value={shim} onChange={setShim} placeholder="none" />
        <Field
          id="reading"
          label="Float felt"
          field="float"
          value={float}
          onChange={setFloat}
          placeholder={unitWord}
          input={first}
        />
        <KeepPress />
      </div>
    </Form>
  )
}

function TorqueForm({ gauge, onTake, first, refused }: TakeProps) {
  const scale = gauge?.kind === 'spring_scale'
  const pulled = back(refused, 'pull')
  const [figure, setFigure] = useState(back(refused, 'torque')?.torque ?? pulled?.force ?? '')
  const [radius, setRadius] = useState(pulled?.radius ?? '')
  const enter = () => {
    const entry: ReadingInput = scale
      ? { kind: 'pull', force: figure, radius }
      : { kind: 'torque', torque: figure }
    if (!onTake(entry)) return
    setFigure('')
    first.current?.focus()
  }
  return (
    <Form
      onEnter={enter}
      hint={
        scale
          ? 'Pull steadily on the string while it turns: N, kgf or lbf.'
          : 'Read it while it turns, not as it breaks loose: N·m, N·cm, lbf·ft, lbf·in or kgf·cm.'
      }
    >
      <div className="flex gap-2">
        <Field
          id="reading"
          label={scale ? 'Pull' : 'Turning torque'}
          field={scale ? 'force' : 'torque'}
          value={figure}
          onChange={setFigure}
          placeholder={scale ? 'N' : 'N·m'}
          input={first}
          wide
        />
        {scale && (
          <Field
            id="radius"
            label="At a radius of"
            field="radius"
            value={radius}
            onChange={setRadius}
            placeholder="75 mm"
          />
        )}
        <KeepPress />
      </div>
    </Form>
  )
}

function HandForm({ unitWord, onTake, first, refused }: TakeProps) {
  const again = back(refused, 'by_hand')
  const [from, setFrom] = useState(again?.from ?? '')
  const [to, setTo] = useState(again?.to ?? '')
  return (
    <Form
      onEnter={() => {
        if (!onTake({ kind: 'by_hand', from, to })) return
        setFrom('')
        setTo('')
        first.current?.focus()
      }}
      hint="Kept as an estimate by hand. It signs nothing off."
    >
      <div className="flex gap-2">
        <Field
          id="reading"
          label="By feel, from"
          field="from"
          value={from}
          onChange={setFrom}
          placeholder={unitWord}
          input={first}
        />
        <Field id="to" label="to" field="to" value={to} onChange={setTo} placeholder="or about" />
        <KeepPress />
      </div>
    </Form>
  )
}

/** Which way the next reading is taken, and with which gauge. */
export function WayPicker({
  gap,
  way,
  setWay,
  gauge,
  setGauge,
}: {
  gap: Gap
  way: Method
  setWay: (way: Method) => void
  gauge?: Schemas['GaugeView']
  setGauge: (key: string) => void
}) {
  const ways = gap.allowed.methods
  const gauges = gap.gauges.filter((g) => g.ways.includes(way))
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
              {methodName[w]}
              {w === gap.method ? ' (usual)' : ''}
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
