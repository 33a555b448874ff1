// The house's own small parts.
import { Suspense, lazy, useEffect, useId, useState, type ReactNode } from 'react'
import type { Refused } from '../api/client'
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { clearance, percent, show, showStated } from '../domain/units'
import { onceIdle } from './idle'
import type { SheetProps } from './Sheet'

/** A measured length in the person's unit. */
export function Len({ nm, stated }: { nm: number; stated?: boolean }) {
  const { unit } = useBench()
  return <span className="figure">{stated ? showStated(nm, unit) : show(nm, unit)}</span>
}

/** The arithmetic behind an answer. */
export function Working({ lines, kind }: { lines: Schemas['Token'][][]; kind?: Schemas['CheckKind'] }) {
  const { unit } = useBench()
  const word = (token: Schemas['Token']) => {
    switch (token.kind) {
      case 'length':
        return show(token.nm, unit)
      case 'clearance': {
        const c = clearance(token.nm, unit, false, kind)
        return token.nm < 0 && Number(c.figure) !== 0 ? `${c.figure} ${c.word}` : c.figure
      }
      case 'number':
        return token.value.toFixed(token.decimals)
      case 'chance':
        return percent(token.value)
      case 'text':
        return token.text
    }
  }
  return (
    <div className="working" data-testid="working">
      {lines.map((line, i) => (
        <div key={i}>{line.map(word).join('')}</div>
      ))}
    </div>
  )
}

/** What the server refused, in its own words. */
export function Trouble({ error, what }: { error: Refused | null; what?: string }) {
  if (!error) return null
  const { title, faults, incident } = error.problem
  return (
    <div role="alert" className="my-3 border-l-4 border-oxide bg-card px-4 py-3">
      <p className="font-semibold">
        {what ? `${what}: ` : ''}
        {title}
      </p>
      {incident && <p className="text-dim">Number in the log: {incident}</p>}
      {faults && faults.length > 0 && (
        <ul className="mt-2 space-y-1">
          {faults.map((f, i) => (
            <li key={i}>
              <code className="figure font-semibold">{f.place}</code> {f.message}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

/** What can hurt somebody or the box, where it belongs. */
export function Cautions({ of }: { of: string[] }) {
  return of.map((c) => (
    <p key={c} className="mt-3 flex gap-2 text-ink">
      <span aria-hidden="true" className="font-bold text-oxide">
        △
      </span>
      <span>
        <span className="sr-only">Caution: </span>
        {c}
      </span>
    </p>
  ))
}

/** What is waited for; beyond a second with how long that has been, so that nobody thinks it stands still. */
export function Loading({ what, doing = 'Fetching' }: { what: string; doing?: string }) {
  const [seconds, setSeconds] = useState(0)
  useEffect(() => {
    const clock = setInterval(() => setSeconds((s) => s + 1), 1000)
    return () => clearInterval(clock)
  }, [])
  return (
    <div className="p-6 text-dim">
      <p role="status">
        {doing} {what} …
      </p>
      {seconds > 0 && (
        <p className="mt-2 flex items-center gap-3" aria-hidden="true">
          <span className="under-way" />
          <span className="figure">{seconds} s</span>
        </p>
      )}
    </div>
  )
}

// Not needed to draw the first view, and there before it is wanted: the server may be gone by then.
const fetchSheet = () => import('./Sheet')
const Sheet = lazy(async () => ({ default: (await fetchSheet()).Sheet }))
onceIdle(() => void fetchSheet().catch(() => {}))

/** A sheet of paper laid over the bench: one question, answered or put away with Escape. */
export function Ask({ open, ...sheet }: SheetProps & { open: boolean }) {
  if (!open) return null
  return (
    <Suspense fallback={null}>
      <Sheet {...sheet} />
    </Suspense>
  )
}

interface ReasonProps {
  title: string
  label: string
  press: string
  suggestions?: string[]
  onGive: (reason: string) => void
  onClose: () => void
}

/** Asks for a reason. */
export function AskReason({ title, label, press, suggestions = [], onGive, onClose }: ReasonProps) {
  const [reason, setReason] = useState('')
  const id = useId()
  const give = (text: string) => {
    if (text.trim()) {
      onGive(text.trim())
      onClose()
    }
  }
  return (
    <Ask open onClose={onClose} title={title}>
      {suggestions.length > 0 && (
        <div className="mb-4 flex flex-wrap gap-2">
          {suggestions.map((s) => (
            <button key={s} type="button" className="press-quiet" onClick={() => give(s)}>
              {s}
            </button>
          ))}
        </div>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault()
          give(reason)
        }}
      >
        <label htmlFor={id} className="mb-1 block font-semibold">
          {label}
        </label>
        <input
          id={id}
          className="field"
          value={reason}
          maxLength={500}
          onChange={(e) => setReason(e.target.value)}
        />
        <div className="mt-4 flex justify-end gap-3">
          <button type="button" className="press-quiet" onClick={onClose}>
            Leave it
          </button>
          <button className="press" disabled={!reason.trim()}>
            {press}
          </button>
        </div>
      </form>
    </Ask>
  )
}

export function Labelled({
  label,
  hint,
  error,
  children,
}: {
  label: string
  hint?: string
  error?: string
  children: (id: string) => ReactNode
}) {
  const id = useId()
  return (
    <div className="mb-4">
      <label htmlFor={id} className="mb-1 block font-semibold">
        {label}
      </label>
      {children(id)}
      {hint && <p className="mt-1 text-sm text-dim">{hint}</p>}
      {error && (
        <p role="alert" className="mt-1 font-semibold text-oxide">
          {error}
        </p>
      )}
    </div>
  )
}
