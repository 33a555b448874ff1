import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { useShop } from '../api/queries'
import { useBench } from '../domain/session'
import { whoIsAskedBy } from '../domain/who'
import { Ask } from './Parts'

interface Props {
  open: boolean
  onClose: () => void
  /** Told of the initials before it closes. */
  onChosen?: (who: string) => void
  /** What waits for the answer. */
  waits?: boolean
}

/** Who is at the bench: goes on every record. */
export function AskWho({ open, onClose, onChosen, waits }: Props) {
  const { data: shop } = useShop()
  const { who, setWho, theme, setTheme } = useBench()
  return (
    <Ask open={open} onClose={onClose} title="Who is at the bench?" unasked={waits}>
      <p className="mb-4 text-dim">
        {waits
          ? 'What you pressed goes on once this is said. The initials go on every reading, choice and signature from here on.'
          : 'The initials go on every reading, choice and signature from here on.'}
      </p>
      <div className="grid gap-2">
        {shop?.people
          .filter((p) => !p.gone)
          .map((p) => (
            <button
              key={p.initials}
              className={`flex min-h-14 items-center gap-4 border-[1.5px] border-ink px-4 text-left ${p.initials === who ? 'bg-blue-soft' : ''}`}
              onClick={() => {
                setWho(p.initials)
                onChosen?.(p.initials)
                onClose()
              }}
            >
              <span className="figure w-14 text-xl font-bold">{p.initials}</span>
              <span className="min-w-0 break-words">{p.name}</span>
            </button>
          ))}
      </div>
      <Link className="link mt-3 inline-flex min-h-12 items-center" to="/shop" onClick={onClose}>
        Somebody else, or the shop itself
      </Link>
      <button
        className="link mt-5 block min-h-12 sm:hidden"
        onClick={() => setTheme(theme === 'dark' ? 'light' : 'dark')}
      >
        {theme === 'dark' ? 'Light theme' : 'Dark theme'}
      </button>
    </Ask>
  )
}

/** Asks wherever a write finds nobody at the bench; one question for all that waits. */
export function WhoWhereNeeded() {
  const [open, setOpen] = useState(false)
  const waiting = useRef<((who: string) => void)[]>([])
  useEffect(() => {
    whoIsAskedBy(() => {
      setOpen(true)
      return new Promise((told) => waiting.current.push(told))
    })
    return () => whoIsAskedBy(() => Promise.resolve(''))
  }, [])
  const tell = (who: string) => {
    const all = waiting.current
    waiting.current = []
    for (const told of all) told(who)
  }
  return (
    <AskWho
      waits
      open={open}
      onChosen={tell}
      onClose={() => {
        setOpen(false)
        tell('')
      }}
    />
  )
}
