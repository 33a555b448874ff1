// One check: where it is cut, its window and target, how it is taken, what sets it, and all that goes with it.
import type { ReactNode } from 'react'
import { Between } from './Between'
import { Cell, length, type Column } from './Cell'
import { CheckLists } from './CheckLists'
import { Lines } from './Lines'
import { HarmFields } from './HarmFields'
import { SetBy } from './SetBy'
import { Part } from './Part'
import { Rows } from './Rows'
import { TargetFields } from './TargetFields'
import { Ticks } from './Ticks'
import type { CheckProps } from './check-props'
import { at } from './draft'
import { useWriting } from './writing'
import { kindWords } from '../../domain/units'
import { ANSWERS, CHECK_KINDS, MATERIALS, METHODS, allParts, checkOptions } from './names'

/** The question of a check that is answered yes or no. */
function Question({
  faults,
  others,
  check,
  of,
  field,
  own,
}: Pick<CheckProps, 'faults' | 'check' | 'of'> & {
  others: ReturnType<typeof checkOptions>
  field: (column: Column, under?: string) => ReactNode
  own: (place: string) => ReactNode
}) {
  return (
    <>
      <div className="lg:col-span-3">
        {field({ field: 'question', label: 'The question', as: 'text' }, '/proof')}
        {own('/proof')}
      </div>
      {field({ field: 'wanted', label: 'Answer wanted', as: 'choice', options: ANSWERS }, '/proof')}
      <div className="lg:col-span-4">
        <Lines
          of={`${of}/proof/otherwise`}
          title="What the other answer usually means"
          noun="reason"
          lines={check.proof?.otherwise}
          faults={faults}
        />
      </div>
      <div className="lg:col-span-4">
        <Ticks
          title="Asked again once these are signed"
          all={others}
          chosen={check.proof?.again_after ?? []}
          of={`${of}/proof/again_after`}
          faults={faults}
          none="There is no other check yet."
        />
      </div>
      <div className="lg:col-span-4">
        <h3 className="font-semibold">What that answer says of a figure</h3>
        <Rows
          of={`${of}/proof/says`}
          rows={check.proof?.says}
          columns={[
            { field: 'check', label: 'Check', as: 'choice', options: others },
            length('no_tighter', 'Not tighter than', true),
            length('no_looser', 'Not looser than', true),
          ]}
          noun="figure"
          faults={faults}
          fresh={() => ({ check: others[0]?.[0] ?? '' })}
        />
      </div>
    </>
  )
}

/** The bore of a fit and the part that goes in it. */
function FitFields({
  field,
  children,
}: {
  field: (column: Column, under?: string) => ReactNode
  children: ReactNode
}) {
  return (
    <div>
      <h3 className="mb-2 font-semibold">The bore, and the part that goes in it</h3>
      {(['bore', 'part'] as const).map((side) => (
        <div key={side} className="mb-3 grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
          {field(
            { field: 'what', label: side === 'bore' ? 'The bore' : 'The part', as: 'text' },
            `/fit/${side}`,
          )}
          {field({ field: 'material', label: 'Material', as: 'choice', options: MATERIALS }, `/fit/${side}`)}
          {field(length('diameter', 'Diameter at 20 °C'), `/fit/${side}`)}
          {field(length('tolerance', '± limits; empty: to be measured', true), `/fit/${side}`)}
        </div>
      ))}
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {field(length('drop_in', 'Drops in with a clearance of', true), '/fit')}
        {field(length('compound_up_to', 'The shop’s compound fills up to', true), '/fit')}
      </div>
      {children}
    </div>
  )
}

export function CheckForm({ sheet, faults, check, of }: CheckProps) {
  const { put, showAll } = useWriting()
  const field = (column: Column, under = '') => (
    <Cell
      {...{ column }}
      of={of + under}
      value={at(check, `${under}/${column.field}`)}
      fault={faults.get(`${of}${under}/${column.field}`)}
      labelled
    />
  )
  const own = (place: string) => {
    const fault = faults.get(of + place)
    // Not of what nobody has come to yet.
    return (
      (showAll || at(check, place) !== undefined) &&
      fault && <p className="mt-1 font-semibold text-oxide">{fault}</p>
    )
  }
  const others = checkOptions(sheet, check.key)
  return (
    <div className="mt-4 space-y-6">
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {field({ field: 'name', label: 'What the check is called', as: 'text', names: true })}
        <div
          onChange={(e) => {
            const { value } = e.target as unknown as HTMLSelectElement
            // A centring is of gears: it opens with two to be named. A fit is of a bore and a part.
            if ((value === 'selector_centring' || value === 'selector_limits') && !check.selector) {
              put(`${of}/method`, 'selector_gaps')
              put(`${of}/selector`, { gears: [{ name: '' }, { name: '' }] })
            }
            if (value === 'backlash') put(`${of}/method`, 'at_teeth')
            if (value === 'backlash' && !check.backlash) put(`${of}/backlash`, { run_out: '', per_move: 0.7 })
            if (value !== 'backlash' && check.backlash) put(`${of}/backlash`, undefined)
            if (value === 'seat_height') put(`${of}/method`, 'depth_from_bar')
            if (value === 'fit') put(`${of}/method`, 'stack_sum')
            if (value === 'fit' && !check.fit)
              put(`${of}/fit`, {
                bore: { what: '', material: 'aluminium', diameter: '' },
                part: { what: '', material: 'steel', diameter: '' },
              })
            if (value !== 'fit' && check.fit) put(`${of}/fit`, undefined)
          }}
        >
          {field({ field: 'kind', label: 'Kind', as: 'choice', options: CHECK_KINDS })}
        </div>
        <Between {...{ sheet, faults, check, of }} />
      </div>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {check.kind === 'pass_fail' && <Question {...{ faults, others, check, of, field, own }} />}
        {check.kind !== 'turning_torque' && check.kind !== 'pass_fail' && (
          <>
            <div>
              {field(
                length('low', `Window from; ${kindWords(check.kind).below} under zero`, true),
                '/window',
              )}
              {own('/window')}
            </div>
            {field(length('high', 'Window to', true), '/window')}
            <div>
              {field(length('low', 'The shop’s own window from', true), '/shop_window')}
              {own('/shop_window')}
            </div>
            {field(length('high', 'The shop’s own window to', true), '/shop_window')}
            <div className="lg:col-span-2">
              {field({
                field: 'rule',
                label: 'Where the window comes from, if from no book',
                as: 'text',
                optional: true,
              })}
            </div>
            <TargetFields target={check.target} of={`${of}/target`} faults={faults} />
            <HarmFields harm={check.harm} of={`${of}/harm`} {...{ field, own }} />
          </>
        )}
        {(check.kind === 'turning_torque' || check.kind === 'bearing_preload') && (
          <>
            <div>
              {field(
                { field: 'low_n_m', label: 'Turning torque from, N·m', as: 'number', optional: true },
                '/torque',
              )}
              {own('/torque')}
            </div>
            {field(
              { field: 'high_n_m', label: 'Turning torque to, N·m', as: 'number', optional: true },
              '/torque',
            )}
          </>
        )}
      </div>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        {field({ field: 'method', label: 'How it is usually taken', as: 'choice', options: METHODS })}
        {(check.method === 'known_shim' || check.known_shim !== undefined) &&
          field({
            ...length('known_shim', 'The shim that goes in', true),
            hint: 'Stands in its field as it is measured.',
          })}
        <div className="lg:col-span-2">
          {field({
            field: 'how',
            label: 'In words: where the gauge stands, what to push',
            as: 'text',
            optional: true,
          })}
        </div>
        <div className="lg:col-span-2">
          {field({
            field: 'source',
            label: 'Where its figures come from, if not the sheet’s source',
            as: 'text',
            optional: true,
          })}
        </div>
        {field({
          field: 'look_up',
          label: 'To be looked up before it is signed',
          as: 'tick',
          optional: true,
        })}
        {field({
          field: 'closing',
          label: 'In which closing of the case',
          as: 'text',
          optional: true,
          hint: 'A closing is once of bolting the case together: checks of the same one are named alike. Empty: on the bench.',
        })}
      </div>
      {(check.kind === 'pinion_end_play' || check.pinions) && (
        <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
          <div>
            {field({ field: 'count', label: 'How many pinions', as: 'count', optional: true }, '/pinions')}
            {own('/pinions')}
          </div>
          {field(length('alike', 'Loosest and tightest differ by up to', true), '/pinions')}
        </div>
      )}
      {(check.kind === 'seat_height' || check.groove !== undefined) && (
        <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
          {field({
            ...length('groove', 'Ring groove from; below the face under zero', true),
            hint: 'The near edge of the ring’s groove above the face. The part is home where it stands no higher.',
          })}
        </div>
      )}
      {check.backlash && (
        <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
          {field(
            {
              field: 'places',
              label: 'Taken at how many teeth',
              as: 'count',
              optional: true,
              hint: 'Evenly round the gear; four where nothing is said.',
            },
            '/backlash',
          )}
          {field(length('run_out', 'Widest and narrowest differ by up to'), '/backlash')}
          {field(
            {
              field: 'per_move',
              label: 'Grows, for each 1 the ring gear moves, by',
              as: 'number',
              hint: 'Away from the pinion. Two set-ups on the bench find it too.',
            },
            '/backlash',
          )}
          {field(
            { field: 'per_move_within', label: '± limits of that', as: 'number', optional: true },
            '/backlash',
          )}
          {own('/backlash')}
        </div>
      )}
      {check.fit && <FitFields {...{ field }}>{own('/fit')}</FitFields>}
      <SetBy {...{ sheet, faults, check, of, field }}>{own('/set_by')}</SetBy>
      <Ticks
        title="Signed off before it"
        all={others}
        chosen={check.after ?? []}
        of={`${of}/after`}
        faults={faults}
        none="There is no other check yet."
      />
      <Part
        title="What it rests on"
        count={(check.rests_on?.length ?? 0) + (check.not_on?.length ?? 0)}
        open={[...faults.keys()].some((f) => f.startsWith(`${of}/rests_on`) || f.startsWith(`${of}/not_on`))}
      >
        <p className="mb-3 text-dim">
          With another of these in the box, the check is due again. What it names, and what its kind is known
          to rest on, count without being ticked: a whole shaft for its float, both gears for a backlash,
          forks and drum for a selector.
        </p>
        <Ticks
          title="It rests on these as well"
          all={allParts(sheet)}
          chosen={check.rests_on ?? []}
          of={`${of}/rests_on`}
          faults={faults}
        />
        <Ticks
          title="It does not rest on these"
          all={allParts(sheet)}
          chosen={check.not_on ?? []}
          of={`${of}/not_on`}
          faults={faults}
        />
      </Part>
      <CheckLists {...{ sheet, faults, check, of, field, own }} />
      <Lines
        of={`${of}/cautions`}
        title="Cautions here"
        noun="caution"
        lines={check.cautions}
        faults={faults}
      />
    </div>
  )
}
