// The shift test: gear by gear, how far the output turns, which way each shaft is pushed, and which gear it really is.
import { useState } from 'react'
import type { Schemas } from '../../domain/schema'
import { Field } from '../../ui/Field'
import { Trouble } from '../../ui/Parts'
import type { Doing } from './acts'

interface Props {
  of: Schemas['ShiftTest']
  doing: Doing
  /** Where it can be tried now. */
  open: boolean
  /** Lights the way that power takes. */
  onLook: (path: string[] | null) => void
}

export function ShiftTest({ of, doing, open, onLook }: Props) {
  const [counting, setCounting] = useState<string | null>(null)
  const tried = of.gears.filter((g) => g.tried).length
  return (
    <section aria-label="Shift test" className="mt-6">
      <h2 className="text-[17px] font-bold">
        Shift test: {tried} of {of.gears.length} tried
      </h2>
      <p className="text-dim">
        Each gear selected, the input turned {of.turns_in === 1 ? 'once' : `${of.turns_in} turns`} by hand,
        the shafts held where they run.
      </p>
      <ul className="ruled mt-1">
        {of.gears.map((gear) => (
          <li
            key={gear.name}
            className="grid items-center gap-x-4 gap-y-1 py-2 sm:grid-cols-[7rem_1fr_auto]"
            onFocus={() => onLook(gear.path)}
            onMouseEnter={() => onLook(gear.path)}
            onMouseLeave={() => onLook(null)}
          >
            <span className="text-lg font-bold">{gear.name}</span>
            <span className="min-w-0">
              {outWords(gear, of.turns_in)}
              {gear.against_the_others && <strong> · turns against the other gears</strong>}
              {gear.pushes.length > 0 && (
                <span className="block text-sm text-dim">
                  While it pulls: {gear.pushes.map(pushWords).join(', ')}
                </span>
              )}
              {gear.alike.length > 0 && (
                <span className="block text-sm">
                  Turns as {gear.alike.join(' and ')}: turning does not tell them apart
                </span>
              )}
              {gear.tried && <Result gear={gear.name} tried={gear.tried} />}
            </span>
            {open && (
              <span className="flex flex-wrap gap-2">
                <button
                  className="press-quiet"
                  disabled={doing.isPending}
                  aria-label={`${gear.name}: as it should`}
                  onClick={() => doing.mutate({ act: 'shifted', gear: gear.name, turns: null })}
                >
                  As it should
                </button>
                <button
                  className="press-quiet"
                  aria-label={`${gear.name}: turns counted`}
                  aria-expanded={counting === gear.name}
                  onClick={() => {
                    doing.reset()
                    setCounting(counting === gear.name ? null : gear.name)
                  }}
                >
                  Turns …
                </button>
              </span>
            )}
            {counting === gear.name && (
              <Count gear={gear.name} first={of.turns_in} doing={doing} onDone={() => setCounting(null)} />
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

const outWords = (gear: Schemas['GearTurns'], turns: number) => {
  if (gear.ratio == null) return 'the output stands'
  const out = gear.turns_out * turns
  return (
    <>
      output <span className="figure font-semibold">{Math.abs(out).toFixed(2)}</span>{' '}
      {Math.abs(out) === 1 ? 'turn' : 'turns'}, {out < 0 ? 'against the input' : 'as the input'}{' '}
      <span className="text-dim">({gear.ratio.toFixed(3)} : 1)</span>
    </>
  )
}

const pushWords = ({ shaft, to }: Schemas['Push']) =>
  to == null
    ? `${shaft} either way, as its angles are`
    : `${shaft} pushed to the ${to < 0 ? 'left' : 'right'}`

function Result({ gear, tried }: { gear: string; tried: Schemas['Tried'] }) {
  const counted = tried.turns && `${tried.turns.turns_in} in, ${tried.turns.turns_out} out`
  if (tried.as_it_should)
    return (
      <span className="block font-semibold" data-testid={`tried-${gear}`}>
        ✓ As it should, {tried.who}
        {counted && ` (${counted})`}
      </span>
    )
  return (
    <strong className="block text-oxide" data-testid={`tried-${gear}`}>
      {counted}: {tried.is.length > 0 ? `that is ${tried.is.join(' or ')}` : 'no gear of this box turns so'} (
      {tried.who})
    </strong>
  )
}

function Count({
  gear,
  first,
  doing,
  onDone,
}: {
  gear: string
  first: number
  doing: Doing
  onDone: () => void
}) {
  const [turnsIn, setIn] = useState(String(first))
  const [out, setOut] = useState('')
  const figure = (text: string) => Number(text.trim().replace(',', '.').replace('−', '-'))
  const problem = doing.error?.problem
  const fault = (field: string) => (problem?.field?.endsWith(field) ? problem.title : undefined)
  return (
    <form
      className="col-span-full grid items-start gap-x-4 sm:grid-cols-[10rem_1fr_auto]"
      onSubmit={(e) => {
        e.preventDefault()
        if (out.trim() === '') return
        doing.mutate(
          {
            act: 'shifted',
            gear,
            turns: { turns_in: figure(turnsIn), turns_out: figure(out), within: 0.05 },
          },
          { onSuccess: onDone },
        )
      }}
    >
      <Field label="Turns in" value={turnsIn} onChange={setIn} fault={fault('turns_in')} />
      <Field
        label="Turns out"
        value={out}
        onChange={setOut}
        fault={fault('turns_out')}
        hint="Below nothing where it turns against the input."
      />
      <button className="press sm:mt-7" disabled={doing.isPending}>
        Which gear is it?
      </button>
      {problem && !fault('turns_in') && !fault('turns_out') && <Trouble error={doing.error} />}
    </form>
  )
}
