// What undoes an act on a check, as another record.
import { useEffect, useRef } from 'react'
import type { Act, Acting } from '../../api/actions'
import { sizeCounts } from '../../domain/pieces'
import type { CheckView, Unit } from '../../domain/schema'
import { piecesText, unitName } from '../../domain/units'
import { useNotice } from '../../ui/Notices'

interface Undoing {
  said: string
  act: Act
}

/** What was done and what undoes it, by how the check stood before; none where nothing is to be undone. */
export function undoingOf(act: Act, before: CheckView, unit: Unit): Undoing | null {
  const u = unitName[unit]
  const chosen = before.setting?.state === 'chosen' ? before.setting : null
  switch (act.act) {
    case 'choose':
      return { said: `${piecesText(act.pieces, unit)} ${u} chosen.`, act: { act: 'let-go' } }
    case 'let-go':
      return chosen && chosen.out_nm == null
        ? {
            said: `${piecesText(chosen.pieces, unit)} ${u} let go.`,
            act: { act: 'choose', pieces: sizeCounts(chosen.pieces) },
          }
        : null
    case 'ground':
      return { said: 'A line of its own in the drawer, and fitted.', act: { act: 'undo-fit' } }
    case 'fit':
      return { said: 'Noted as fitted.', act: { act: 'undo-fit' } }
    case 'fitted':
      return before.fitted_nm == null
        ? null
        : {
            said: 'Kept as what is fitted.',
            act: { act: 'fitted', typed: `${before.fitted_nm / 1e6} mm` },
          }
    case 'aim':
      return { said: 'Set otherwise on this job.', act: { act: 'aim', aiming: aimingBefore(before) } }
    case 'sign':
      return { said: 'Signed off.', act: { act: 'reopen', reason: 'signed off by mistake' } }
    case 'usual':
      return {
        said: act.counts ? 'It goes into the choices now.' : 'It is left out of the choices now.',
        act: { act: 'usual', counts: !act.counts },
      }
    case 'way':
      return before.way && before.way !== act.way
        ? { said: 'Another way counts.', act: { act: 'way', way: before.way } }
        : null
    default:
      return null
  }
}

/** The window and target as they were. */
function aimingBefore(before: CheckView): Extract<Act, { act: 'aim' }>['aiming'] {
  const mm = (nm: number | null | undefined) => (nm == null ? '' : `${nm / 1e6} mm`)
  if (!before.own_aim) return { window: 'sheet', school: 'sheet', reason: 'as before' }
  const { from_nm: from, to_nm: to } = before.aim ?? { from_nm: 0, to_nm: 0 }
  return {
    window: 'own',
    low: mm(before.window?.low_nm),
    high: mm(before.window?.high_nm),
    school: from === to ? 'at' : 'between',
    from: mm(from),
    to: mm(to),
    reason: before.own_aim.reason,
  }
}

/** Says what was just done to a check, with its undoing. */
export function useUndoable(act: Acting, unit: Unit) {
  const notice = useNotice()
  const latest = useRef(act)
  const undoing = useRef(false)
  useEffect(() => {
    latest.current = act
  })
  useEffect(() => {
    if (!act.data || !act.variables || !act.context) return
    if (undoing.current) {
      undoing.current = false
      return
    }
    const found = undoingOf(act.variables, act.context, unit)
    if (!found) return
    notice({
      said: found.said,
      undo: () => {
        undoing.current = true
        return latest.current.mutateAsync(found.act).catch((error: unknown) => {
          undoing.current = false
          throw error
        })
      },
    })
    // Once for each thing done.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [act.data])
}
