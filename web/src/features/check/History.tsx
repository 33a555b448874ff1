import { useState } from 'react'
import type { CheckView, Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { clearance, show, showStated, unitName, whenText } from '../../domain/units'

/** What has happened to the check, newest first. Nothing on it is ever taken away. */
export function History({ check }: { check: CheckView }) {
  const [open, setOpen] = useState(false)
  if (check.history.length === 0) return null
  return (
    <details
      className="border-t border-line px-3 py-4 sm:px-6"
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="min-h-11 text-lg font-bold">
        History, {check.history.length} {check.history.length === 1 ? 'entry' : 'entries'}
      </summary>
      <ol className="ruled mt-2 max-w-3xl">
        {(open ? check.history.toReversed() : []).map((line, i) => (
          <li
            key={i}
            className="grid grid-cols-[5.5rem_2.5rem_minmax(0,1fr)] sm:grid-cols-[11rem_4rem_minmax(0,1fr)] gap-3 py-2"
          >
            <span className="text-dim">{whenText(line.at)}</span>
            <span className="font-bold">{line.who}</span>
            <HistoryWords line={line} kind={check.kind} />
          </li>
        ))}
      </ol>
    </details>
  )
}

export function HistoryWords({ line, kind }: { line: Schemas['HistoryLine']; kind: Schemas['CheckKind'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  const [a = 0, b = 0] = line.figures_nm
  const c = clearance(a, unit, false, kind)
  const words: Record<Schemas['Happened'], string> = {
    read: line.said ? `read ${line.said}` : `read ${show(a, unit)} ${u}`,
    ticked: `saw to it: ${line.said}`,
    unticked: `not seen to after all: ${line.said}`,
    struck: `struck out ${show(a, unit)}`,
    restored: `restored ${show(a, unit)}`,
    kept: `said that ${show(a, unit)} is right`,
    said_fitted: `measured what was fitted: ${showStated(a, unit)} ${u}`,
    said_shims: `measured the shims: ${line.said}`,
    moved_shims: `moved the shims: ${line.said}`,
    laid_out: `laid the pack out: ${line.said}`,
    aimed: `set otherwise on this job, ${line.figures_nm.map((nm) => `${clearance(nm, unit).figure} ${clearance(nm, unit).word}`).join(' to ')}`,
    aimed_as_sheet: 'set as the sheet says again',
    usual_counts: `counted with the usual difference, ${show(Math.abs(a), unit)} ${u} ${a < 0 ? 'tighter' : 'looser'}`,
    usual_left: 'left the usual difference out again',
    chosen: `chose ${showStated(a, unit)} ${u}, to give ${clearance(b, unit).figure} ${clearance(b, unit).word}`,
    let_go: `let ${showStated(a, unit)} ${u} go`,
    fitted: `fitted ${showStated(a, unit)} ${u}`,
    not_fitted: `took back that ${showStated(a, unit)} ${u} was fitted`,
    signed: line.figures_nm.length > 0 ? `signed off at ${c.figure} ${u} ${c.word}` : 'signed off',
    reopened: 'reopened',
  }
  return (
    <span>
      {words[line.what]}
      {line.reason && <span className="text-dim">: {line.reason}</span>}
    </span>
  )
}
