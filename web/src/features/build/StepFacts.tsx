// All that a step has to say, beside its name.
import type { ReactNode } from 'react'
import { Bolts, LeftHand } from '../../charts/Bolts'
import { RollerRing } from '../../charts/RollerRing'
import { SelectorDial } from '../../charts/SelectorDial'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { Cautions, Working } from '../../ui/Parts'
import { PartFacts } from '../parts/PartFacts'
import type { Build, StepView } from './acts'
import { notchWords, stageWords } from './words'

export function StepFacts({ of, build, next }: { of: StepView; build: Build; next: boolean }) {
  const { step } = of
  const { unit } = useBench()
  const parts = build.parts.filter((p) => step.puts?.includes(p.key))
  const { fasteners, loose } = step
  const torque = fasteners?.stages?.map(stageWords).join(' → ')
  const selector = next ? build.selector : null
  return (
    <div className="space-y-4">
      {of.last_chance && of.last_chance.length > 0 && (
        <div className="border-l-4 border-oxide bg-card px-3 py-2" data-testid="last-chance">
          <p className="font-bold">Last chance: once this is done nobody gets at these</p>
          <ul className="mt-1 list-disc pl-5">
            {of.last_chance.map((what) => (
              <li key={what}>{what}</li>
            ))}
          </ul>
        </div>
      )}
      {step.left_hand_thread && (
        <div className="flex items-center gap-4 border-[3px] border-oxide px-3 py-1" data-testid="left-hand">
          <LeftHand />
          <p className="text-2xl font-bold">Left-hand thread: it tightens against the clock</p>
        </div>
      )}
      {parts.length > 0 && (
        <ul className="grid gap-x-8 sm:grid-cols-2" aria-label="What goes in">
          {parts.map((part) => (
            <li key={part.key} className="border-t border-line py-2">
              <PartFacts part={part} />
            </li>
          ))}
        </ul>
      )}
      {selector?.wanted && (
        <div>
          <p className="text-lg font-bold" data-testid="selector">
            {selector.notches == null
              ? `Selector to ${selector.wanted} first`
              : selector.notches === 0
                ? `The selector stands in ${selector.wanted}, as it should`
                : `Turn the selector ${notchWords(selector.notches)}, to ${selector.wanted}`}
            {selector.then && selector.then !== selector.wanted && (
              <span className="font-normal">
                {'; and '}
                {selector.then_notches == null ? '' : `${notchWords(selector.then_notches)}, `}
                to {selector.then} once it is done
              </span>
            )}
          </p>
          <SelectorDial of={selector} />
        </div>
      )}
      {!selector?.wanted && step.selector && <Fact what="Selector">{step.selector}</Fact>}
      <dl className="grid gap-x-8 gap-y-2 sm:grid-cols-2">
        {step.facing && <Fact what="Which way round">{step.facing}</Fact>}
        {step.lubricant && <Fact what="On it">{step.lubricant}</Fact>}
        {step.attitude && <Fact what="The box">{step.attitude}</Fact>}
        {loose ? (
          <Fact what="Lay out">
            <Figure>{loose.rows * loose.per_row}</Figure>: {loose.rows} {loose.rows === 1 ? 'row' : 'rows'} of{' '}
            {loose.per_row}, none left over
          </Fact>
        ) : (
          step.count != null && (
            <Fact what="Lay out">
              <Figure>{step.count}</Figure>, none left over
            </Fact>
          )
        )}
        {step.torque_n_m != null && (
          <Fact what="Torque">
            <Figure>{step.torque_n_m}</Figure> N·m
          </Fact>
        )}
        {step.tools && step.tools.length > 0 && <Fact what="Tools">{step.tools.join('; ')}</Fact>}
        {step.new_again && step.new_again.length > 0 && (
          <Fact what="New each time">{step.new_again.join(', ')}</Fact>
        )}
        {of.closing && <Fact what="Closing">{of.closing}</Fact>}
      </dl>
      {of.row && loose?.shaft && loose.roller && (
        <div className="flex flex-wrap items-center gap-x-5" data-testid="roller-row">
          <RollerRing row={of.row} size={190} />
          <div className="min-w-0 flex-1 basis-80">
            <p className="text-lg font-bold">
              Rollers of {loose.roller} on {loose.shaft}: {of.row.most} fit in a row.
            </p>
            <p>
              The last leaves {show(of.row.gap_nm, unit)} {unitName[unit]} straight across. A gap that takes
              another roller means that one is missing.
            </p>
            <Working lines={of.row.working} />
          </div>
        </div>
      )}
      {fasteners && (
        <div className="flex flex-wrap items-center gap-5">
          {fasteners.bolts && fasteners.bolts.length > 0 && <Bolts bolts={fasteners.bolts} />}
          <div className="min-w-0">
            <p className="text-lg">
              <Figure>{fasteners.count}</Figure> × {fasteners.thread || 'fasteners'}
              {fasteners.new && <span className="font-semibold text-brass"> · new</span>}
            </p>
            {torque && <p className="figure text-2xl font-semibold">{torque}</p>}
            {fasteners.locked_by && <p>Locked by {fasteners.locked_by}</p>}
            {fasteners.held_by && <p>Held by {fasteners.held_by}</p>}
          </div>
        </div>
      )}
      {step.tip && (
        <p className="border-l-4 border-brass px-3">
          <strong>Where it goes wrong:</strong> {step.tip}
        </p>
      )}
      <Cautions of={step.cautions ?? []} />
    </div>
  )
}

const Figure = ({ children }: { children: ReactNode }) => (
  <span className="figure text-2xl font-semibold">{children}</span>
)

function Fact({ what, children }: { what: string; children: ReactNode }) {
  return (
    <div>
      <dt className="text-sm font-semibold text-dim">{what}</dt>
      <dd className="text-lg">{children}</dd>
    </div>
  )
}
