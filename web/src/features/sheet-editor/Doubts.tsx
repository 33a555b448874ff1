// What a rebuilder would ask about a sheet that has no fault: seen to, or left as it is with a word of why.
import { useState } from 'react'
import type { Schemas } from '../../domain/schema'
import { Ask } from '../../ui/Parts'
import type { Sheet } from './draft'
import { ToPlace } from './ToPlace'
import { placeWords } from './place'
import { useWriting } from './writing'

type Doubt = Schemas['sheet.Doubt']

interface Props {
  draft: Sheet
  doubts: Doubt[]
  goTo: (place: string) => void
}

export function Doubts({ draft, doubts, goTo }: Props) {
  const [listed, setListed] = useState(false)
  const open = doubts.filter((d) => d.why == null)
  if (doubts.length === 0) return null
  return (
    <>
      <button className="press-quiet" onClick={() => setListed(true)}>
        {open.length > 0 ? `${open.length} to ask about` : `${doubts.length} left as it is`}
      </button>
      <Ask open={listed} onClose={() => setListed(false)} title="What a rebuilder would ask about">
        <p className="mb-2 text-dim">
          None of this hinders keeping the sheet. A box that is drawn so would not run as the sheet says: put
          it right, or say why it is so.
        </p>
        <ul className="ruled">
          {doubts.map((doubt) => (
            <li key={doubt.about} className="pb-2">
              <ToPlace
                of={doubt}
                draft={draft}
                onPress={() => {
                  setListed(false)
                  goTo(doubt.place)
                }}
              />
              {doubt.why == null ? <LeaveIt {...{ draft, doubt }} /> : <Left {...{ draft, doubt }} />}
            </li>
          ))}
        </ul>
      </Ask>
    </>
  )
}

/** A word of why, and it is asked about no more. */
function LeaveIt({ draft, doubt }: { draft: Sheet; doubt: Doubt }) {
  const { put } = useWriting()
  const [why, setWhy] = useState('')
  return (
    <form
      className="mt-1 flex flex-wrap gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        const said = why.trim()
        if (said) put('/waived', [...(draft.waived ?? []), { about: doubt.about, why: said }])
      }}
    >
      <input
        className="field min-w-40 flex-1"
        aria-label={`Why it is so: ${placeWords(draft, doubt.place)}`}
        placeholder="Why it is so"
        maxLength={300}
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
      <button className="press-quiet" disabled={!why.trim()}>
        Leave it so
      </button>
    </form>
  )
}

function Left({ draft, doubt }: { draft: Sheet; doubt: Doubt }) {
  const { put } = useWriting()
  return (
    <p className="mt-1 flex flex-wrap items-center gap-3">
      <span className="min-w-0 wrap-anywhere">Left as it is: {doubt.why}</span>
      <button
        className="link min-h-11"
        onClick={() =>
          put(
            '/waived',
            (draft.waived ?? []).filter((w) => w.about !== doubt.about),
          )
        }
      >
        Ask again
      </button>
    </p>
  )
}
