// The record of a drawer: every change, newest first, with what can be undone.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, server, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { gradeWords, showStated, unitName, whenText } from '../../domain/units'
import { moveWords } from '../../domain/labels'
import { useUndo } from './writes'

export function Moves({ family }: { family: string }) {
  const [open, setOpen] = useState(false)
  return (
    <details className="mt-2" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="link flex min-h-11 w-fit items-center">Record</summary>
      {open && <Lines family={family} />}
    </details>
  )
}

function Lines({ family }: { family: string }) {
  const { data, error } = useQuery({
    queryKey: ['moves', family],
    queryFn: () => answer(server.GET('/api/drawers/{family}/moves', { params: { path: { family } } })),
  })
  const undo = useUndo()
  return (
    <>
      <Trouble error={undo.error ?? (error as Refused | null)} />
      {data?.length === 0 && <p className="text-dim">Nothing has changed here yet.</p>}
      <ol className="ruled">
        {data?.map((m, i) => (
          <Line key={i} move={m} onUndo={(key) => undo.mutate(key)} />
        ))}
      </ol>
    </>
  )
}

function Line({ move: m, onUndo }: { move: Schemas['Move']; onUndo: (key: string) => void }) {
  const { unit } = useBench()
  const changed = m.on_hand !== m.on_hand_was
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 py-1 text-sm">
      <span className="figure font-semibold">
        {showStated(m.thickness_nm, unit)} {unitName[unit]}
      </span>
      <span className="mr-auto min-w-0 wrap-anywhere">
        {[gradeWords[m.grade], moveWords[m.why] ?? m.why].filter(Boolean).join(', ')}:{' '}
        {changed && `${m.on_hand_was} became ${m.on_hand}`}
        {m.on_order !== m.on_order_was &&
          `${changed ? '; ' : ''}on order ${m.on_order_was} became ${m.on_order}`}
        {m.job_no != null && (
          <>
            ,{' '}
            <Link
              className="link"
              to={`/jobs/${m.job_no}${m.check_key ? `/checks/${m.check_key}` : ''}`}
            >{`job ${m.job_no}`}</Link>
          </>
        )}
        {m.reason && ` · ${m.reason}`}
      </span>
      <span className="text-dim">
        {m.who}, {whenText(m.at)}
      </span>
      {m.act_key && !m.undone && (
        <button className="link min-h-8" onClick={() => onUndo(m.act_key ?? '')}>
          Undo
        </button>
      )}
      {m.undone && <span className="text-dim">undone</span>}
    </li>
  )
}
