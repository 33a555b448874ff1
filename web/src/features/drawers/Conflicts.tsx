// Where a sheet says otherwise of a family of pieces than its drawer: told at both, with whom it concerns, until one
// of them is put right.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useConflicts } from '../../api/queries'
import { partName } from '../../domain/labels'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { showStated, unitName } from '../../domain/units'
import { Trouble } from '../../ui/Parts'
import { inSentence } from '../../domain/words'

type SheetSays = Schemas['SheetSays']

/** Those of one drawer, or of one sheet. */
export function Conflicts({ family, sheet }: { family?: string; sheet?: string }) {
  const { data } = useConflicts()
  const here = data?.filter((c) => (family ? c.conflict.family_key === family : c.sheet_key === sheet)) ?? []
  return here.map((c) => (
    <Conflict key={`${c.sheet_key} ${c.conflict.family_key}`} says={c} atDrawer={family !== undefined} />
  ))
}

function Conflict({ says, atDrawer }: { says: SheetSays; atDrawer: boolean }) {
  const { unit, who } = useBench()
  const client = useQueryClient()
  const { conflict: c, concerned } = says
  const follow = useMutation<unknown, Refused>({
    mutationFn: () =>
      answer(
        server.PUT('/api/drawers/{family}/figures', {
          params: { path: { family: c.family_key }, header: { 'Idempotency-Key': writeKey() } },
          body: { sheet_key: says.sheet_key, revision: says.revision, who },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  })
  const u = unitName[unit]
  const sizes = (list: number[]) => `${list.map((nm) => showStated(nm, unit)).join(', ')} ${u}`
  const lines = [
    c.tolerance &&
      `A piece is off by up to ± ${showStated(c.tolerance.sheet_nm, unit)} ${u} by the sheet, ± ${showStated(c.tolerance.drawer_nm, unit)} ${u} by the drawer. Until they agree, jobs on that revision count with the wider.`,
    c.kind && `By the sheet each is a ${partName[c.kind.sheet]}, by the drawer a ${partName[c.kind.drawer]}.`,
    c.gone.length > 0 && `No longer made by the sheet, still made by the drawer: ${sizes(c.gone)}.`,
    c.made.length > 0 && `Still made by the sheet, no longer made by the drawer: ${sizes(c.made)}.`,
  ].filter(Boolean)
  return (
    <section
      aria-label={`${c.family_name}: sheet and drawer differ`}
      className="my-3 border-l-4 border-brass bg-brass-soft px-3 py-3"
      data-testid="conflict"
    >
      <p className="font-bold">
        {atDrawer ? (
          <>
            <Link className="link" to={`/sheets/${says.sheet_key}`}>
              {says.sheet_name}
            </Link>
            , revision {says.revision}, says otherwise
          </>
        ) : (
          <>
            The drawer{' '}
            <Link className="link" to={`/drawers#${c.family_key}`}>
              {c.family_name}
            </Link>{' '}
            says otherwise
          </>
        )}
      </p>
      {lines.map((line) => (
        <p key={String(line)}>{line}</p>
      ))}
      <p className="mt-1">
        {concerned.length === 0 ? 'It concerns no open job.' : 'It concerns: '}
        {concerned.map((of, i) => (
          <span key={`${of.job_no} ${of.check_key}`}>
            {i > 0 && '; '}
            <Link className="link" to={`/jobs/${of.job_no}/checks/${of.check_key}`}>
              job {of.job_no}, {inSentence(of.name)}
            </Link>
          </span>
        ))}
        {concerned.length > 0 && '.'}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <button className="press-quiet" disabled={follow.isPending} onClick={() => follow.mutate()}>
          Put the sheet’s figures on the drawer
        </button>
        <span className="text-dim">
          or, where the drawer is right,{' '}
          <Link className="link" to={`/sheets/${says.sheet_key}/write`}>
            mend the sheet
          </Link>
        </span>
      </div>
      <Trouble error={follow.error} />
    </section>
  )
}
