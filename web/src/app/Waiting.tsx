// What waits for the server and what it refused, one press away from everywhere.
import { useEffect, useState, useSyncExternalStore } from 'react'
import { Link } from 'react-router'
import { onReach, reached } from '../api/reach'
import { outbox, type Turned, type Write } from '../api/outbox'
import { Ask } from '../ui/Parts'

const useOutbox = () => useSyncExternalStore(outbox.onChange, outbox.now)

/** What is kept in this window only is lost with it: the browser asks before it is closed. */
function useStay(onlyHere: number) {
  useEffect(() => {
    if (onlyHere === 0) return
    const ask = (event: BeforeUnloadEvent) => event.preventDefault()
    addEventListener('beforeunload', ask)
    return () => removeEventListener('beforeunload', ask)
  }, [onlyHere])
}

/** A write on its way is told of once it takes so long. */
const LATE_MS = 1_000

/** Whether the first that waits has been the first for long. */
function useLate(first: string | undefined) {
  const [late, setLate] = useState<string>()
  useEffect(() => {
    if (first === undefined) return
    const timer = setTimeout(() => setLate(first), LATE_MS)
    return () => clearTimeout(timer)
  }, [first])
  return first !== undefined && late === first
}

export function Waiting() {
  const { waiting, refused, unreachable, onlyHere } = useOutbox()
  const isReached = useSyncExternalStore(onReach, reached)
  const [open, setOpen] = useState(false)
  useStay(onlyHere)
  const late = useLate(waiting[0]?.key)
  const waits = unreachable || !isReached || late ? waiting.length : 0
  const label = [
    !isReached && 'no server',
    waits > 0 && `${waits} ${waits === 1 ? 'waits' : 'wait'}`,
    refused.length > 0 && `${refused.length} not taken`,
  ]
    .filter(Boolean)
    .join(' · ')
  return (
    <>
      <span aria-live="polite">
        {label && (
          <button
            className={`min-h-12 border-[1.5px] px-3 font-semibold ${refused.length > 0 ? 'border-oxide bg-card text-oxide' : 'border-brass bg-brass-soft'}`}
            onClick={() => setOpen(true)}
          >
            {label}
          </button>
        )}
      </span>
      <Ask open={open} onClose={() => setOpen(false)} title="On the way to the server">
        {!isReached && (
          <p className="mb-3">
            The server does not answer. What is on the screen is as it was last seen. What is done on a job is
            kept and goes by itself, in its order, as soon as it does. What rests on what others may have
            changed (pieces chosen, a signature, a hand-over) is judged then, and where it has changed it is
            not done and stands here. Drawers, sheets, gauges and pictures are not kept: they are done when
            they are pressed again.
          </p>
        )}
        {onlyHere > 0 && (
          <p role="alert" className="mb-3 font-semibold text-oxide">
            This browser keeps nothing (its storage is full, or off): {onlyHere} of these{' '}
            {onlyHere === 1 ? 'is' : 'are'} in this window only. Leave it open until{' '}
            {onlyHere === 1 ? 'it is' : 'they are'} sent.
          </p>
        )}
        {waiting.length > 0 && <Waits of={waiting.map((w) => w.write)} />}
        {refused.length > 0 && <NotTaken refused={refused} onClose={() => setOpen(false)} />}
        {waiting.length + refused.length === 0 && <p>Nothing waits.</p>}
      </Ask>
    </>
  )
}

/** Writes of one place together, in the order of the first of each. */
function byPlace<T>(all: T[], writeOf: (one: T) => Write): [Write, T[]][] {
  const places = new Map<string, [Write, T[]]>()
  for (const one of all) {
    const write = writeOf(one)
    const found = places.get(addressOf(write))
    if (found) found[1].push(one)
    else places.set(addressOf(write), [write, [one]])
  }
  return [...places.values()]
}

const addressOf = (write: Write) => `/jobs/${write.job}${write.check ? `/checks/${write.check}` : ''}`

function Waits({ of }: { of: Write[] }) {
  return (
    <section aria-label="Waiting">
      <h3>Waiting, in this order</h3>
      <ul className="ruled mb-4">
        {byPlace(of, (write) => write).map(([write, all]) => (
          <li key={addressOf(write)} className="py-2 wrap-anywhere">
            <span className="text-dim">{write.of}: </span>
            <span className="figure">{all.map((w) => w.said).join(', ')}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function NotTaken({ refused, onClose }: { refused: [string, Turned][]; onClose: () => void }) {
  return (
    <section aria-label="Not taken">
      <h3 className="text-oxide">Not taken</h3>
      <ul className="ruled">
        {byPlace(refused, ([, turned]) => turned.write).map(([write, all]) => (
          <li key={addressOf(write)} className="py-3 wrap-anywhere">
            <p>
              <Link className="link" to={addressOf(write)} onClick={onClose}>
                {write.of}
              </Link>
              , by {write.body.who}:
            </p>
            <p className="figure mt-1">{all.map(([, turned]) => turned.write.said).join(', ')}</p>
            {[...new Set(all.map(([, turned]) => turned.problem.title))].map((why) => (
              <p key={why} className="mt-1 font-semibold">
                {why}
              </p>
            ))}
            <p className="mt-2 flex flex-wrap gap-2">
              <button
                className="press-quiet"
                onClick={() => all.forEach(([key]) => outbox.again(key))}
                aria-label={`Send again what is of ${write.of}`}
              >
                Send again
              </button>
              <button
                className="press-quiet"
                onClick={() => all.forEach(([key]) => outbox.dismiss(key))}
                aria-label={`Strike off what is of ${write.of}`}
              >
                Seen: strike off this list
              </button>
            </p>
          </li>
        ))}
      </ul>
    </section>
  )
}
