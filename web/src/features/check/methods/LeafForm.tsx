// Leaves that go or do not, with the next one to try.
import { useContext, useState } from 'react'
import { fitWords } from '../../../domain/labels'
import type { Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { showStated, unitName } from '../../../domain/units'
import { Entering, Field, Form, LeafPicks, back } from './parts'
import type { TakeProps } from './parts'

/** What keeps which: with one hand, while the other holds the leaf. */
const KEYS: Record<Schemas['Fit'], string> = { goes: '⏎', refused: '⇧ ⏎', just: 'Ctrl ⏎' }

const fitOfKey = (e: React.KeyboardEvent): Schemas['Fit'] | null =>
  e.key !== 'Enter' ? null : e.shiftKey ? 'refused' : e.ctrlKey || e.metaKey ? 'just' : null

export function LeafForm({ check, gauge, unitWord, onTake, first, refused }: TakeProps) {
  const { unit } = useBench()
  const [leaves, setLeaves] = useState(back(refused, 'leaf')?.leaves ?? '')
  const advice = check.next_leaf
  const detail = check.ways.find((w) => w.way === 'feeler')?.detail
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
        onKey={(e) => {
          const fit = fitOfKey(e)
          if (!fit) return
          e.preventDefault()
          took(fit)
        }}
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
            <span>{fitWords[fit]}</span>{' '}
            <kbd aria-hidden="true" className="font-sans text-sm opacity-80">
              {KEYS[fit]}
            </kbd>
          </button>
        ))}
      </div>
    </Form>
  )
}
