import { useState } from 'react'
import { Link } from 'react-router'
import { sizeCounts } from '../../../domain/pieces'
import type { CheckView, Schemas } from '../../../domain/schema'
import { Labelled, Len, Working } from '../../../ui/Parts'
import { SlotStrip } from '../../../charts/SlotGauge'
import { useBench } from '../../../domain/session'
import { clearance, kindWords, percent, piecesText, show, showStated, unitName } from '../../../domain/units'
import { sourceWords } from '../../../domain/labels'
import type { Acting } from '../acting'
import { BiasLine } from './Bias'
import { Carrier } from '../../../charts/Carrier'
import { FitPanel } from './FitPanel'
import { RingGear } from '../../../charts/RingGear'
import { SplitPanel } from './SplitPanel'
import { WaysOut } from './Fallbacks'
import { allInSentence, capital, inSentence, inside } from '../../../domain/words'

type Choice = Schemas['Choice']

/** The thickness wanted, the ranked choices with the next size each side, and the ways out. */
export function Choose({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const teeth = check.ways.find((w) => w.way === 'at_teeth')?.detail
  if (!check.set_by) {
    const pinions = check.ways.find((w) => w.way === 'one_by_one')?.detail
    return (
      <section
        aria-label="Choose"
        className="check-choose far @container border-line px-3 py-5 sm:px-6 xl:border-r"
      >
        <h2 className="text-lg">Choose</h2>
        <p className="mt-2 text-dim">
          {check.proof
            ? 'Nothing to choose: the question is answered and signed off.'
            : check.kind === 'fit'
              ? 'No piece sets a fit: it is measured and signed off.'
              : check.kind === 'seat_height'
                ? 'No piece sets this height: it is measured and signed off. Out of the window, the part is driven further or drawn back.'
                : 'Nothing sets this clearance: it is measured and signed off. Out of the window, a worn part is to be replaced.'}
        </p>
        {check.fit && <FitPanel fit={check.fit} />}
        {teeth?.kind === 'backlash' && <RingGear found={teeth.backlash} />}
        {pinions?.kind === 'pinions' && <Carrier check={check} found={pinions.pinions} />}
      </section>
    )
  }
  const shown = check.choices && !check.signed ? check.choices : null
  const offered = check.offered.map((o) => o.choice)
  const floorReached = [...(shown?.ranked ?? []), ...offered].some((c) => c.reaches_floor)
  return (
    <section
      aria-label="Choose"
      className="check-choose far @container min-w-0 border-line px-3 py-5 sm:px-6 xl:border-r"
    >
      <h2 className="text-lg">
        Choose{' '}
        {check.wanted && check.wanted.thickness_nm > 0 && !check.signed && (
          <span className="figure text-base font-medium text-dim">
            wanted {show(check.wanted.thickness_nm, unit)} {unitName[unit]}
          </span>
        )}
      </h2>
      <FittedNow check={check} act={act} />
      {check.set_by.disputed && !check.signed && (
        <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="disputed">
          Sheet and{' '}
          <Link className="link" to={`/drawers#${check.set_by.family_key}`}>
            drawer
          </Link>{' '}
          do not give these pieces the same limits: the wider, ± {showStated(check.set_by.tolerance_nm, unit)}{' '}
          {unitName[unit]}, counts until they do.
        </p>
      )}
      {check.pack?.laid && check.pack.laid.faults.length > 0 && !check.signed && (
        <p className="mt-2 border-l-4 border-oxide bg-card px-3 py-2" data-testid="laid-wrong">
          <strong>The pack is laid wrong:</strong> {check.pack.laid.faults[0]?.message}. What is measured and
          chosen here is of the pack as it lies.
        </p>
      )}
      {check.coupled_with.length > 0 && !check.signed && <SplitPanel check={check} />}
      {teeth?.kind === 'backlash' && <RingGear found={teeth.backlash} />}
      {check.coupled_with.length > 0 && !check.signed && !check.mesh && (
        <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2">
          The same pieces also move {allInSentence(check.coupled_with)}:{' '}
          <Link className="link" to={`/jobs/${check.job_no}/together`}>
            choose together
          </Link>
          . The figures below are of this check alone.
        </p>
      )}
      {check.signed && check.setting?.state === 'fitted' && (
        <p className="mt-2 text-dim">
          Chosen by {check.setting.chosen_by} to give {show(Math.abs(check.setting.predicted_nm), unit)}{' '}
          {clearance(check.setting.predicted_nm, unit, false, check.kind).word},{' '}
          {percent(check.setting.chance)} to land {inside(check)}.
        </p>
      )}
      {check.setting?.state === 'chosen' ? (
        <Chosen check={check} act={act} />
      ) : (
        <>
          {check.wanted && !check.signed && (
            <div className="mt-3">
              <Working lines={check.wanted.working} kind={check.kind} />
            </div>
          )}
          {check.wanted && check.wanted.thickness_nm <= 0 && !check.signed && (
            <p className="mt-3 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="below-nothing">
              <strong>No piece can do it:</strong> with none in at all it would still be{' '}
              {show(-check.wanted.thickness_nm, unit)} {unitName[unit]}{' '}
              {check.set_by.effect === 'closes' ? 'tighter' : 'looser'} than is aimed at. Look for a part that
              is another than it should be, or not seated, and at the readings.
            </p>
          )}
          {check.harm && shown && (
            <p className="mt-3" data-testid="harm">
              {capital(kindWords(check.kind)[check.harm.worse])} is {check.harm.times} times as bad as{' '}
              {kindWords(check.kind)[check.harm.worse === 'tight' ? 'loose' : 'tight']} here: ranked by the
              harm to be expected, the plain chance beside it.
            </p>
          )}
          {check.wanted && !check.signed && <BiasLine check={check} act={act} />}
          {check.chart && !check.signed && <ChartSays says={check.chart} alone={check.by_chart} />}
          {!shown && check.offered.length > 0 && !check.signed && <Offered check={check} act={act} />}
          {shown && check.added && <Added check={check} act={act} added={check.added} />}
          {shown && (
            <>
              {check.phase === 'sign' && (
                <p className="mt-3 text-dim">
                  It is {inside(check)} as it is. Changing the piece would give:
                </p>
              )}
              {!floorReached && shown.ranked.length > 0 && (
                <p className="mt-3 border-l-4 border-brass bg-brass-soft px-3 py-2 font-semibold">
                  No choice reaches {percent(check.floor)}. The nearest are below, and the ways out under
                  them.
                </p>
              )}
              {check.offered.length > 0 ? (
                <Offered check={check} act={act} />
              ) : (
                <Ranked check={check} act={act} choices={shown} />
              )}
            </>
          )}
          {check.ways_out && !check.signed && !offered.some((c) => c.reaches_floor) && (
            <WaysOut check={check} ways={check.ways_out} act={act} />
          )}
          {!check.estimate && !check.signed && (
            <p className="mt-3 text-dim">Measure first: the choice follows from the readings.</p>
          )}
        </>
      )}
    </section>
  )
}

/** The drawer's own line of a piece. */
const sizeOf = (check: CheckView, piece: { thickness_nm: number; grade?: Schemas['Grade'] }) =>
  check.set_by?.sizes.find(
    (s) => s.thickness_nm === piece.thickness_nm && s.grade === (piece.grade ?? 'marked'),
  )

/** The sheet's chart beside the calculation; alone where the book gives no window. */
function ChartSays({ says, alone }: { says: Schemas['ChartSays']; alone: boolean }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const { answer, choice } = says
  const at = `${show(says.depth_nm, unit)} ${u}`
  const row = typeof answer === 'object' ? answer.row : null
  return (
    <div
      data-testid="chart"
      className={`mt-3 border-l-4 px-3 py-2 ${says.agrees ? 'border-blue bg-card' : 'border-brass bg-brass-soft'}`}
    >
      <p>
        <strong>
          {row
            ? `The chart says ${showStated(row.piece_nm, unit)}${row.piece_to_nm > row.piece_nm ? ` to ${showStated(row.piece_to_nm, unit)}` : ''} ${u}`
            : `The chart says nothing for ${at}: it ${answer === 'below' ? 'begins above' : 'ends below'} that`}
        </strong>
        {row && ` (row ${row.row}, for ${at})`}
        {!row || alone
          ? '.'
          : says.agrees
            ? '; the calculation says the same.'
            : '; the calculation says otherwise.'}
      </p>
      {alone && <p>The book gives no window: what the chart asks for is right.</p>}
      {row && !says.agrees && (
        <p>
          {choice
            ? `It would give ${show(Math.abs(choice.predicted_nm), unit)} ${u}${choice.predicted_nm < 0 ? ' preload' : ''}, ${percent(choice.chance)} to land in the window${choice.source === 'on_hand' ? '' : `, and is ${sourceWords[choice.source]}`}.`
            : 'The drawer has no such size.'}
        </p>
      )}
      <p className="text-sm text-dim">Read by: {inSentence(says.measured)}.</p>
    </div>
  )
}

/** Worn, or of another maker: what is further off than this is no size of the drawer's. */
const NOT_THE_SAME_NM = 25_000

function FittedNow({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const [typed, setTyped] = useState('')
  const [changing, setChanging] = useState(false)
  const canSay = check.allowed.say_fitted
  const known = check.fitted_nm != null
  if (!known || changing) {
    const fault = act.error?.problem.field === 'fitted' ? act.error.problem.title : undefined
    return (
      <form
        className="mt-3"
        onSubmit={(e) => {
          e.preventDefault()
          act.mutate({ act: 'fitted', typed, unit }, { onSuccess: () => setChanging(false) })
        }}
      >
        <Labelled
          label="What is fitted now, by micrometer"
          hint="Measure the piece that was in the box while the readings were taken."
          error={fault}
        >
          {(id) => (
            <span className="flex gap-2">
              <input
                id={id}
                className="field figure"
                value={typed}
                placeholder={`in ${unitName[unit]}`}
                autoComplete="off"
                onChange={(e) => setTyped(e.target.value)}
              />
              <button className="press-quiet shrink-0" disabled={!typed.trim()}>
                Keep
              </button>
            </span>
          )}
        </Labelled>
      </form>
    )
  }
  const sizes = check.set_by?.sizes ?? []
  const off = (s: { thickness_nm: number }) => Math.abs(s.thickness_nm - (check.fitted_nm ?? 0))
  const nearest = sizes.toSorted((a, b) => off(a) - off(b))[0]
  // A stack of several is no size of the drawer's.
  const isNone =
    canSay &&
    !!check.fitted_nm &&
    check.set_by?.most_pieces === 1 &&
    !!nearest &&
    off(nearest) > Math.max(check.set_by.tolerance_nm, NOT_THE_SAME_NM)
  return (
    <p className="mt-1 text-dim">
      {isNone && (
        <span role="status" className="mb-1 block border-l-4 border-brass bg-brass-soft px-3 py-2 text-ink">
          The drawer has no {showStated(check.fitted_nm ?? 0, unit)} {unitName[unit]}: its nearest is{' '}
          {showStated(nearest.thickness_nm, unit)}. Is that figure right?
        </span>
      )}
      Fitted now: {check.fitted_nm === 0 ? 'nothing' : <Len nm={check.fitted_nm ?? 0} stated />}
      {check.fitted_nm !== 0 && ` ${unitName[unit]}`}
      {canSay && (
        <>
          {' · '}
          <button className="link min-h-8" onClick={() => setChanging(true)}>
            change
          </button>
        </>
      )}
    </p>
  )
}

function Ranked({ check, act, choices }: { check: CheckView; act: Acting; choices: Schemas['Choices'] }) {
  const listed = new Set(choices.ranked.map((c) => c.total_nm))
  const beside = (c: Choice | null | undefined) => (c && !listed.has(c.total_nm) ? c : null)
  const thinner = beside(choices.thinner)
  const thicker = beside(choices.thicker)
  return (
    <table className="mt-3 w-full">
      <caption className="sr-only">Choices, best first, with the next size each side</caption>
      <Head lands />
      <tbody>
        {thinner && <ChoiceRow {...{ check, act, choice: thinner, label: 'next size thinner' }} />}
        {choices.ranked.map((choice, i) => (
          <ChoiceRow
            key={choice.total_nm}
            {...{ check, act, choice, rank: i + 1 }}
            label={
              choice.total_nm === choices.thinner?.total_nm
                ? 'next size thinner'
                : choice.total_nm === choices.thicker?.total_nm
                  ? 'next size thicker'
                  : ''
            }
          />
        ))}
        {thicker && <ChoiceRow {...{ check, act, choice: thicker, label: 'next size thicker' }} />}
      </tbody>
    </table>
  )
}

const Head = ({ lands }: { lands?: boolean }) => (
  <thead>
    <tr>
      <th className="th w-8">
        <span className="sr-only">Rank</span>
      </th>
      <th className="th">Piece</th>
      <th className="th text-right">Gives</th>
      {lands && <th className="th hidden @xl:table-cell">Lands</th>}
      <th className="th text-right whitespace-nowrap">Chance</th>
      <th className="th">
        <span className="sr-only">Choose</span>
      </th>
    </tr>
  </thead>
)

/** What is in stays, and pieces go beside it: closed until it is asked for. */
function Added({ check, act, added }: { check: CheckView; act: Acting; added: Schemas['Choices'] }) {
  const { unit } = useBench()
  return (
    <details className="mt-3 border-y border-line" data-testid="added">
      <summary className="min-h-11 py-2 font-semibold">
        Or leave the {showStated(check.fitted_nm ?? 0, unit)} in, and add to it
      </summary>
      <table className="mb-3 w-full">
        <caption className="sr-only">Pieces to add to what is in, best first</caption>
        <Head />
        <tbody>
          {added.ranked.map((choice, i) => (
            <ChoiceRow
              key={choice.total_nm}
              {...{ check, act, choice }}
              added
              label={i === 0 ? 'best to add' : 'to add'}
            />
          ))}
        </tbody>
      </table>
    </details>
  )
}

/** The choices of every family that would set it, in one list: a ring, a plate, or some of the steels. */
function Offered({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const words = (o: Schemas['OfferView']) =>
    [
      o.out_nm == null ? o.family_name : `${o.family_name} for ${showStated(o.out_nm, unit)}`,
      o.steps_out > 0 && `${o.steps_out} ${o.steps_out === 1 ? 'step comes' : 'steps come'} out`,
      o.less_taken_apart && 'less than for the next, which lands alike',
    ]
      .filter(Boolean)
      .join(' · ')
  return (
    <table className="mt-3 w-full">
      <caption className="sr-only">Choices of every family that sets it, best first</caption>
      <Head />
      <tbody>
        {check.offered.map((o, i) => (
          <ChoiceRow
            key={`${o.family_key} ${o.choice.total_nm} ${o.out_nm ?? ''}`}
            {...{ check, act, choice: o.choice, offer: o, rank: i + 1, label: words(o) }}
          />
        ))}
      </tbody>
    </table>
  )
}

function ChoiceRow({
  check,
  act,
  choice,
  rank,
  label,
  offer,
  added,
}: {
  check: CheckView
  act: Acting
  choice: Choice
  rank?: number
  label: string
  /** The family, where several would set the check. */
  offer?: Schemas['OfferView']
  /** It goes beside what is in. */
  added?: boolean
}) {
  const { unit } = useBench()
  const [open, setOpen] = useState(rank === 1)
  const other = offer?.out_nm != null
  const sizes = other ? [] : choice.pieces.map((p) => sizeOf(check, p))
  const place = offer?.place ?? sizes.map((s) => s?.place).find(Boolean)
  const nominal = sizes.length === 1 ? sizes[0]?.nominal_nm : null
  const marked = nominal != null ? `marked ${showStated(nominal, unit)}` : ''
  const where =
    choice.source === 'on_hand'
      ? [place && `drawer ${place}`, sizes.length === 1 ? `${sizes[0]?.free ?? 0} free` : '', marked]
          .filter(Boolean)
          .join(', ')
      : sourceWords[choice.source]
  const text = piecesText(choice.pieces, unit)
  const limit = (nm: number | null | undefined, word: string) =>
    nm == null ? null : nm >= 0 ? `${show(nm, unit)} from ${word}` : `${show(-nm, unit)} too ${word}`
  const lands = (
    <>
      <SlotStrip window={check.window} pin={{ nm: choice.predicted_nm, lands: choice.lands }} />
      <span className="block text-xs text-dim">
        {[limit(choice.to_low_nm, 'tight'), limit(choice.to_high_nm, 'loose')].filter(Boolean).join(' · ')}
      </span>
    </>
  )
  const best = rank === 1
  // What is below the chance that the shop asks for is there to be chosen, and nothing leads to it.
  // Nothing is to be chosen before it is known whether the figure is right.
  const due = best && choice.reaches_floor && check.phase === 'choose' && check.off_by == null
  const byBook = other || added ? undefined : check.by_book?.chances[String(choice.total_nm)]
  return (
    <>
      <tr className={best ? 'bg-blue-soft' : rank ? '' : 'text-dim'}>
        <td className="td figure font-bold">{rank ?? ''}</td>
        <td className="td">
          <button
            className="text-left"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
            aria-label={`Working of ${text}${offer ? `, ${inSentence(offer.family_name)}` : ''}`}
          >
            <span className="figure text-lg font-semibold underline decoration-dotted underline-offset-4">
              {text}
            </span>
            <span className="block text-sm text-dim">{[label, where].filter(Boolean).join(' · ')}</span>
          </button>
          <div className={offer || added ? 'hidden @md:block' : 'hidden @md:block @xl:hidden'}>{lands}</div>
        </td>
        <td className="td figure text-right text-lg">
          {show(Math.abs(choice.predicted_nm), unit)}
          {choice.predicted_nm < 0 && (
            <span className="block font-sans text-sm text-dim">
              {clearance(choice.predicted_nm, unit, false, check.kind).word}
            </span>
          )}
        </td>
        {!offer && !added && <td className="td hidden @xl:table-cell">{lands}</td>}
        <td
          className={`td figure text-right @max-md:px-1 @md:whitespace-nowrap ${choice.reaches_floor ? 'font-bold' : ''}`}
        >
          {percent(choice.chance)}
          {choice.harm != null && (
            <span className="block text-xs font-normal">
              <span className="font-sans">harm</span> {percent(choice.harm)}
            </span>
          )}
          {byBook !== undefined && (
            <span className="block text-xs font-normal text-dim">
              <span className="font-sans">book</span> {percent(byBook)}
            </span>
          )}
        </td>
        <td className="td text-right @max-md:pl-1">
          <button
            className={`${due ? 'press' : 'press-quiet'} @max-md:px-2.5`}
            data-work={due ? 'choose' : undefined}
            disabled={act.isPending}
            onClick={() =>
              act.mutate({
                act: 'choose',
                pieces: sizeCounts(choice.pieces),
                stays: added,
                ...(offer?.out_nm != null && { family_key: offer.family_key, out_nm: offer.out_nm }),
              })
            }
            aria-label={`${added ? 'Add' : 'Choose'} ${text}${offer ? `, ${inSentence(offer.family_name)}` : ''}`}
          >
            {added ? 'Add' : 'Choose'}
            {choice.source === 'to_order' && ', to order'}
          </button>
        </td>
      </tr>
      {open && (
        <tr className={best ? 'bg-blue-soft' : ''}>
          <td />
          <td colSpan={offer || added ? 4 : 5} className="pb-3">
            <Working lines={choice.working} kind={check.kind} />
          </td>
        </tr>
      )}
    </>
  )
}

function Chosen({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const setting = check.setting
  if (!setting) return null
  const other = setting.out_nm != null
  const place = (p: { thickness_nm: number; grade: Schemas['Grade'] }) =>
    other ? undefined : sizeOf(check, p)?.place
  return (
    <div className="mt-3">
      <p className="figure text-3xl font-semibold">
        {piecesText(setting.pieces, unit)} <span className="font-sans text-lg">{unitName[unit]}</span>
      </p>
      {setting.stays_nm > 0 && (
        <p>
          beside the {showStated(setting.stays_nm, unit)} {unitName[unit]} that stay in
        </p>
      )}
      {other && (
        <p>
          {setting.family_name}, for {showStated(setting.out_nm ?? 0, unit)} {unitName[unit]} that come out
        </p>
      )}
      <ul className="mt-2">
        {setting.pieces.map((p) => (
          <li key={`${p.thickness_nm} ${p.grade}`} className="text-dim">
            {showStated(p.thickness_nm, unit)}:{' '}
            {p.reserved === p.count
              ? `set aside${place(p) ? ` in drawer ${place(p)}` : ''}`
              : `${p.count - p.reserved} to come`}
          </li>
        ))}
      </ul>
      <p className="mt-2 text-dim">
        Chosen by {setting.chosen_by}; {percent(setting.chance)} to land in the window.
      </p>
      <button
        className="press-quiet mt-3"
        disabled={act.isPending}
        onClick={() => act.mutate({ act: 'let_go' })}
      >
        Let it go
      </button>
    </div>
  )
}
