import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { CheckView, Schemas } from '../../../domain/schema'
import { AskReason, Labelled, Working } from '../../../ui/Parts'
import { useBench } from '../../../domain/session'
import { clearance, show, showStated, unitName, whenText } from '../../../domain/units'
import { useFacts } from '../../../ui/acts'
import type { Acting } from '../acting'
import { torqueText } from '../../../domain/readings'
import { useWaits } from '../../../ui/awaited'
import { FitCost } from '../FitCost'
import { Onward } from '../Neighbours'
import { inSentence, inside } from '../../../domain/words'

/** Fitted, measured again, predicted against achieved, signed off. */
export function Confirm({ check, act }: { check: CheckView; act: Acting }) {
  return (
    <section
      aria-label="Confirm"
      className="check-confirm far min-w-0 px-3 py-5 sm:px-6 md:border-l md:border-line xl:border-l-0"
    >
      <h2 className="text-lg">Confirm</h2>
      {(check.phase === 'choose' || check.phase === 'fit') && <FitCost check={check} />}
      {check.off_prediction && <Compared off={check.off_prediction} kind={check.kind} />}
      <Body check={check} act={act} />
    </section>
  )
}

function Body({ check, act }: { check: CheckView; act: Acting }) {
  switch (check.phase) {
    case 'measure':
      return (
        <p className="mt-2 text-dim">
          {check.proof
            ? 'Signed off here once it is answered.'
            : 'Signed off here once it is measured and in the window.'}
        </p>
      )
    case 'measure_again':
      return check.selector ? (
        <p className="mt-2">Moved. Take the gaps of every gear again.</p>
      ) : (
        <>
          <p className="mt-2">Fitted. Close the case as for the first readings, and measure again.</p>
          {check.allowed.undo_fit && (
            <button
              className="link mt-2 min-h-12"
              disabled={act.isPending}
              onClick={() => act.mutate({ act: 'undo_fit' })}
            >
              It was not fitted after all
            </button>
          )}
        </>
      )
    case 'await_part':
      return <Awaited check={check} />
    case 'fit':
      return <Fit check={check} act={act} />
    case 'signed':
      return <SignedOff check={check} act={act} />
    case 'choose':
    case 'sign':
      return <SignOff check={check} act={act} />
  }
}

/** What it waits for: still to order, or on order since when. */
function Awaited({ check }: { check: CheckView }) {
  const { toOrder, onOrder } = useWaits(check.job_no, check.check_key)
  const drawers = (
    <Link className="link" to={`/drawers#${check.set_by?.family_key ?? ''}`}>
      Drawers
    </Link>
  )
  return (
    <div role="group" aria-label="Waits for a piece" data-work="await" className="outline-offset-4">
      {toOrder && (
        <>
          <p className="mt-2">
            <strong>{toOrder} to order.</strong> Nobody has ordered it yet.
          </p>
          <Link className="press mt-3 w-full" to="/order">
            See the order
          </Link>
        </>
      )}
      {onOrder && <p className="mt-2">{onOrder}.</p>}
      <p className="mt-2">Count it in under {drawers} when it comes, and it is set aside for this check.</p>
    </div>
  )
}

const verdictOf: Record<Schemas['Agreement'], string> = {
  agrees: 'As predicted, within what both figures allow.',
  tighter:
    'Tighter than both figures allow: oil, dirt or a burr between the pieces, an oversize piece, or the first figure was long.',
  looser:
    'Looser than both figures allow: something was not home when first measured, or a piece is thinner than marked.',
}

function Compared({ off, kind }: { off: Schemas['PredictionError']; kind: Schemas['CheckKind'] }) {
  return (
    <div className="mt-3 mb-4">
      <Working lines={off.working} kind={kind} />
      <p className={`mt-2 ${off.reading === 'agrees' ? 'text-dim' : 'font-semibold'}`}>
        {verdictOf[off.reading]}
      </p>
    </div>
  )
}

function Fit({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const [putBack, setPutBack] = useState(false)
  const setting = check.setting
  if (!setting) return null
  const between = [setting.predicted_nm - setting.expanded_nm, setting.predicted_nm + setting.expanded_nm]
  const say = (nm: number) => `${show(Math.abs(nm), unit)}${nm < 0 ? ' pre' : ''}`
  return (
    <>
      <p className="mt-2">
        {setting.stays_nm > 0
          ? `Add ${showStated(setting.total_nm - setting.stays_nm, unit)}`
          : `Fit ${showStated(setting.total_nm, unit)}`}{' '}
        {unitName[unit]}
        {setting.stays_nm > 0 && ` to the ${showStated(setting.stays_nm, unit)} that stay in`}
        {setting.out_nm != null && ` for ${showStated(setting.out_nm, unit)}`}
        {setting.out_nm != null && ` (${inSentence(setting.family_name)})`}, close it up, and measure again.
      </p>
      <div className="working mt-3">
        expect {say(setting.predicted_nm)}, between {say(between[0] ?? 0)} and {say(between[1] ?? 0)}
      </div>
      {check.allowed.put_back && (
        <label className="mt-3 flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6"
            checked={putBack}
            onChange={(e) => setPutBack(e.target.checked)}
          />
          The pieces that come out are sound: back in the drawer
        </label>
      )}
      <button
        className="press mt-4 w-full"
        data-work="fit"
        disabled={act.isPending}
        onClick={() => act.mutate({ act: 'fit', put_back: putBack })}
      >
        Fitted: measure again
      </button>
    </>
  )
}

function SignOff({ check, act }: { check: CheckView; act: Acting }) {
  const { unit, who } = useBench()
  const [reason, setReason] = useState('')
  const call = check.torque?.call ?? check.proof?.found?.call ?? check.verdict?.call
  const later = useFacts(check)
  const form = useRef<HTMLFormElement>(null)
  // All was said to be seen to, and what says so is gone: the work goes on at the signature.
  const [allSeen, setAllSeen] = useState(false)
  const plain = check.allowed.reason_to_sign == null
  const open = check.ready.filter((r) => !r.by)
  const seen = allSeen && open.length === 0
  useEffect(() => {
    if (seen) form.current?.querySelector<HTMLElement>('[data-work=sign]')?.focus()
  }, [seen, plain])
  if (!call) return null
  const c = check.estimate && clearance(check.estimate.clearance_nm, unit, false, check.kind)
  const figure = check.torque
    ? torqueText(check.torque.torque_n_m)
    : c
      ? `${c.figure} ${unitName[unit]} ${c.word}`
      : ''
  const fault = act.error?.problem.field === 'reason' ? act.error.problem.title : undefined
  return (
    <form
      ref={form}
      className="mt-2"
      onSubmit={(e) => {
        e.preventDefault()
        act.mutate({ act: 'sign', reason })
      }}
    >
      {plain ? (
        <p className="mb-4">
          {check.proof ? 'The answer is the one wanted.' : `${figure} is ${inside(check)}.`}
        </p>
      ) : (
        <>
          <p className="mb-3 text-dim">
            {call === 'in'
              ? `${figure} is ${inside(check)}. ${check.allowed.reason_to_sign ?? ''}`
              : check.set_by
                ? 'Choose a piece; or sign it off as it is, with a reason.'
                : check.selector
                  ? 'Move the shims; or sign it off as it is, with a reason.'
                  : 'It can be signed off as it is, with a reason.'}
          </p>
          <Labelled label="Reason for signing it all the same" error={fault}>
            {(id) => (
              <input
                id={id}
                className="field"
                data-work="sign"
                value={reason}
                maxLength={500}
                onChange={(e) => setReason(e.target.value)}
              />
            )}
          </Labelled>
        </>
      )}
      {open.length > 0 && (
        <div className="mt-3 mb-3 text-sm">
          <p>Not ticked as seen to:</p>
          <ul className="list-disc pl-5 text-dim">
            {open.map((r) => (
              <li key={r.tick}>{r.tick}</li>
            ))}
          </ul>
          <button
            type="button"
            className="press-quiet mt-2"
            onClick={() => {
              setAllSeen(true)
              open.forEach((r) => void later.tick(r.tick, true))
            }}
          >
            All seen to
          </button>
        </div>
      )}
      <button
        className={`${plain ? 'press' : 'press-quiet'} w-full`}
        data-work={plain ? 'sign' : undefined}
        disabled={act.isPending || (!plain && !reason.trim())}
      >
        Sign off{who ? ` as ${who}` : ''}
      </button>
    </form>
  )
}

function SignedOff({ check, act }: { check: CheckView; act: Acting }) {
  const { unit } = useBench()
  const [asking, setAsking] = useState(false)
  const s = check.signed
  if (!s) return null
  const c = s.achieved_nm == null ? null : clearance(s.achieved_nm, unit, false, check.kind)
  return (
    <>
      <p className="mt-2 text-lg">
        <strong>Signed off by {s.who}</strong>
        <span className="block text-dim">{whenText(s.at)}</span>
      </p>
      {c && (
        <p className="mt-2">
          at {c.figure} {unitName[unit]} {c.word}
          {s.call !== 'in' && ', not plainly in the window'}
        </p>
      )}
      {s.achieved_n_m != null && <p className="mt-2">at {torqueText(s.achieved_n_m)}</p>}
      {s.reason && <p className="mt-2">Reason: {s.reason}</p>}
      <Onward jobNo={check.job_no} checkKey={check.check_key} />
      <button className="press-quiet mt-3 w-full" onClick={() => setAsking(true)}>
        Reopen
      </button>
      {asking && (
        <AskReason
          title="Reopen this check?"
          label="Why"
          press="Reopen"
          onGive={(reason) => act.mutate({ act: 'reopen', reason })}
          onClose={() => setAsking(false)}
        />
      )}
    </>
  )
}
