// What was noted on a job and done with it as a whole, each with what puts it right.
import { useState } from 'react'
import { Link } from 'react-router'
import type { Box, Schemas } from '../../domain/schema'
import { jobMarkWords } from '../../domain/labels'
import { whenText } from '../../domain/units'
import { useJobAct } from '../../ui/acts'
import { Trouble } from '../../ui/Parts'

type Line =
  | { at: string; note: Schemas['Note'] }
  | { at: string; mark: Schemas['JobMark'] }
  | { at: string; card: Schemas['CardWas'] }

/** The log with a line to note something more. */
export function Log({ box }: { box: Box }) {
  const act = useJobAct(box.job_no)
  const [said, setSaid] = useState('')
  const lines: Line[] = [
    ...box.notes.map((note) => ({ at: note.at, note })),
    ...box.marks.map((mark) => ({ at: mark.at, mark })),
    ...box.cards_were.map((card) => ({ at: card.at, card })),
  ].sort((a, b) => b.at.localeCompare(a.at))
  const note = () =>
    act.mutate({ act: 'note', said: said.trim(), address: '' }, { onSuccess: () => setSaid('') })
  return (
    <section className="mt-6" aria-label="Log">
      <h2 className="text-lg">Log</h2>
      <form
        className="mt-1 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (said.trim()) note()
        }}
      >
        <input
          className="field min-w-0"
          aria-label="Note something on this job"
          placeholder="Note something"
          value={said}
          maxLength={2000}
          onChange={(e) => setSaid(e.target.value)}
        />
        <button className="press-quiet shrink-0" disabled={!said.trim() || act.isPending}>
          Note
        </button>
      </form>
      <Trouble error={act.error} />
      <ul className="ruled">
        {lines.map((line, i) => (
          <li key={i} className="py-2 wrap-anywhere">
            {'note' in line ? (
              <NoteLine note={line.note} act={act} />
            ) : 'mark' in line ? (
              <>
                {jobMarkWords[line.mark.mark]}
                {line.mark.reason && <span className="text-dim">: {line.mark.reason}</span>}
                <By who={line.mark.who} at={line.at} />
              </>
            ) : (
              <CardLine card={line.card} act={act} />
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

const By = ({ who, at }: { who: string; at: string }) => (
  <span className="block text-sm text-dim">
    {who}, {whenText(at)}
  </span>
)

type Acting = ReturnType<typeof useJobAct>

function NoteLine({ note, act }: { note: Schemas['Note']; act: Acting }) {
  const struck = note.struck_by != null
  return (
    <>
      <span className={struck ? 'line-through opacity-70' : ''}>{note.said}</span>{' '}
      {note.address && (
        <Link className="link" to={note.address}>
          the sum
        </Link>
      )}
      <span className="flex flex-wrap items-center gap-x-3 text-sm text-dim">
        {note.who}, {whenText(note.at)}
        {struck && `, struck out by ${note.struck_by ?? ''}`}
        <button
          className="link min-h-11"
          disabled={act.isPending}
          aria-label={`${struck ? 'Restore' : 'Strike out'} the note “${note.said.slice(0, 40)}”`}
          onClick={() => act.mutate({ act: 'mark_note', note_no: note.note_no, struck: !struck })}
        >
          {struck ? 'restore' : 'strike out'}
        </button>
      </span>
    </>
  )
}

function CardLine({ card, act }: { card: Schemas['CardWas']; act: Acting }) {
  const { title, customer, complaint, intake } = card
  return (
    <>
      changed the card; it said <em>{[title, customer, complaint].filter(Boolean).join(' · ')}</em>
      <span className="flex flex-wrap items-center gap-x-3 text-sm text-dim">
        {card.who}, {whenText(card.at)}
        <button
          className="link min-h-11"
          disabled={act.isPending}
          onClick={() => act.mutate({ act: 'card', title, customer, complaint, intake })}
        >
          as it was
        </button>
      </span>
    </>
  )
}
