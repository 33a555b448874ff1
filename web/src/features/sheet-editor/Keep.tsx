// Keeping what was written as the sheet's next revision; what hinders it is listed, each fault a way to its field.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { useSheet } from '../../api/queries'
import { Ask, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import type { Sheet } from './draft'
import { ToPlace } from './ToPlace'

interface Props {
  draft: Sheet
  over: number
  list: Schemas['Fault'][]
  /** The faults of the draft with its last change, once that has been looked at. */
  faultsNow: () => Promise<Schemas['Fault'][]>
  /** The server is out of reach: nothing is looked at until it is back. */
  lost: boolean
  goTo: (place: string) => void
  onTried: () => void
  onKept: (key: string) => void
}

export function Keep({ draft, over, list, faultsNow, lost, goTo, onTried, onKept }: Props) {
  const { who } = useBench()
  const [listed, setListed] = useState(false)
  const keep = useMutation<Schemas['TakenIn'], Refused, number>({
    mutationFn: (over) =>
      answer(
        server.POST('/api/sheets', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { text: JSON.stringify(draft), who, over },
        }),
      ),
    onSuccess: (kept) => onKept(kept.key),
  })
  const [waiting, setWaiting] = useState(false)
  const press = async () => {
    onTried()
    setWaiting(true)
    const hindering = lost ? list : await faultsNow()
    setWaiting(false)
    if (hindering.length > 0) setListed(true)
    else keep.mutate(over)
  }
  const n = list.length
  return (
    <>
      {n > 0 && (
        <button className="press-quiet" onClick={() => setListed(true)}>
          {n} to see to
        </button>
      )}
      <button className="press" disabled={waiting || keep.isPending} onClick={() => void press()}>
        {over > 0 ? `Keep as revision ${over + 1}` : 'Keep the sheet'}
      </button>
      <Ask
        open={listed && n > 0}
        onClose={() => setListed(false)}
        title={n === 1 ? 'One thing to see to' : `${n} things to see to`}
      >
        <ul className="ruled">
          {list.slice(0, 60).map((f, i) => (
            <li key={i}>
              <ToPlace
                of={f}
                draft={draft}
                onPress={() => {
                  setListed(false)
                  goTo(f.place)
                }}
              />
            </li>
          ))}
        </ul>
      </Ask>
      <Ask open={keep.isError} onClose={() => keep.reset()} title="It is not kept yet">
        <Trouble error={keep.error} />
        {keep.error?.problem.type === 'sheet-changed' && over > 0 && (
          <Changed draft={draft} over={over} keep={(now) => keep.mutate(now)} />
        )}
      </Ask>
    </>
  )
}

/** Somebody else kept a revision meanwhile. */
function Changed({ draft, over, keep }: { draft: Sheet; over: number; keep: (now: number) => void }) {
  const { data } = useSheet(draft.key)
  if (!data) return null
  return (
    <div className="flex flex-wrap gap-3">
      <Link
        className="press-quiet"
        target="_blank"
        to={`/sheets/${draft.key}/changes?from=${over}&to=${data.revision}`}
      >
        See what changed
      </Link>
      <button className="press" onClick={() => keep(data.revision)}>
        Keep mine as revision {data.revision + 1}
      </button>
    </div>
  )
}
