// Always in the same place: where am I, the unit, who is at the bench.
import { Suspense, lazy, useEffect, useState } from 'react'
import { Link, NavLink, useLocation } from 'react-router'
import { useAwaited, useBox } from '../api/queries'
import { AskWho } from '../ui/AskWho'
import { countToOrder } from '../ui/awaited'
import { Ask } from '../ui/Parts'
import { useBench } from '../domain/session'
import { unitName } from '../domain/units'
import { Waiting } from './Waiting'

// Fetched when somebody looks for something.
const Find = lazy(async () => ({ default: (await import('./Find')).Find }))

const place = ({ isActive }: { isActive: boolean }) =>
  `inline-flex min-h-12 items-center px-1.5 sm:px-2 ${isActive ? 'font-bold underline decoration-2 underline-offset-8' : ''}`

function Crumb() {
  const match = /^\/jobs\/(\d+)/.exec(useLocation().pathname)
  return match ? <JobCrumb jobNo={Number(match[1])} /> : null
}

function JobCrumb({ jobNo }: { jobNo: number }) {
  const { data } = useBox(jobNo)
  if (!data) return null
  return (
    <Link
      to={`/jobs/${jobNo}`}
      className="order-last w-full truncate py-3 text-dim underline underline-offset-4 lg:order-none lg:w-auto"
    >
      Job {jobNo} · {data.title}
    </Link>
  )
}

/** What is chosen and nobody has ordered, one press away from everywhere. */
function ToOrder() {
  const { data } = useAwaited()
  const count = countToOrder(data ?? [])
  if (count === 0) return null
  return (
    <Link
      className="inline-flex min-h-12 items-center border-[1.5px] border-brass bg-brass-soft px-3 font-semibold"
      to="/order"
    >
      {count} to order
    </Link>
  )
}

export function Header() {
  const { unit, setUnit, who, theme, setTheme } = useBench()
  const [asking, setAsking] = useState<'who' | 'keys' | 'find' | null>(null)
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)
      if (event.key === '?' && !typing) setAsking('keys')
      if (event.key === '/' && !typing) {
        event.preventDefault()
        setAsking('find')
      }
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
  return (
    <header className="no-print flex flex-wrap items-center gap-x-2 border-b-2 border-ink px-3 sm:gap-x-4 sm:px-6">
      <nav aria-label="Places" className="flex flex-wrap sm:gap-x-2">
        <NavLink to="/" end className={place}>
          Bench
        </NavLink>
        <NavLink to="/drawers" className={place}>
          Drawers
        </NavLink>
        <NavLink to="/gauges" className={place}>
          Gauges
        </NavLink>
        <NavLink to="/sheets" className={place}>
          Sheets
        </NavLink>
        <NavLink to="/sums" className={place}>
          Sums
        </NavLink>
      </nav>
      <Crumb />
      <div className="ml-auto flex flex-wrap items-center gap-2 py-1">
        <button
          className="min-h-12 border-[1.5px] border-ink px-3 font-semibold"
          onClick={() => setAsking('find')}
        >
          Find <kbd className="font-sans text-dim max-sm:hidden">/</kbd>
        </button>
        <Waiting />
        <ToOrder />
        <div role="radiogroup" aria-label="Unit" className="flex">
          {(['thou', 'mm', 'um'] as const).map((u) => (
            <label
              key={u}
              className={`relative -ml-px inline-flex min-h-12 items-center border-[1.5px] border-ink px-3 font-semibold first:ml-0 ${u === unit ? 'bg-ink text-paper' : ''}`}
              data-state={u === unit ? 'on' : 'off'}
            >
              <input
                type="radio"
                name="unit"
                className="absolute inset-0 size-full cursor-pointer appearance-none"
                checked={u === unit}
                onChange={() => setUnit(u)}
              />
              {unitName[u]}
            </label>
          ))}
        </div>
        <button
          className="min-h-12 min-w-12 border-[1.5px] border-ink px-2 font-bold"
          onClick={() => setAsking('who')}
          aria-label={who ? `${who} is at the bench: change` : 'Who? Choose your initials'}
        >
          {who || 'Who?'}
        </button>
        <button
          className="hidden min-h-12 min-w-12 border-[1.5px] border-ink px-2 sm:block"
          onClick={() => setTheme(theme === 'dark' ? 'light' : 'dark')}
          aria-label={theme === 'dark' ? 'Light theme' : 'Dark theme'}
        >
          <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true" className="mx-auto">
            <circle cx="10" cy="10" r="8" fill="none" stroke="currentColor" strokeWidth="2" />
            <path d="M10 2a8 8 0 0 1 0 16z" fill="currentColor" />
          </svg>
        </button>
      </div>
      {asking === 'find' && (
        <Suspense>
          <Find onClose={() => setAsking(null)} />
        </Suspense>
      )}
      <AskWho open={asking === 'who'} onClose={() => setAsking(null)} />
      <Ask open={asking === 'keys'} onClose={() => setAsking(null)} title="Keys">
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
          <dt className="figure font-bold">Enter</dt>
          <dd>keep a reading; press what has the focus</dd>
          <dt className="figure font-bold">Tab</dt>
          <dd>on to the next thing; Shift and Tab back</dd>
          <dt className="figure font-bold">/</dt>
          <dd>find a job, a sheet, a drawer</dd>
          <dt className="figure font-bold">⇧ Enter</dt>
          <dd>with leaves: it does not go; Ctrl and Enter: it just fills it</dd>
          <dt className="figure font-bold">Alt U</dt>
          <dd>to what was just done, and its undoing</dd>
          <dt className="figure font-bold">Esc</dt>
          <dd>put a question away; from a field of a sheet being written to its tabs</dd>
          <dt className="figure font-bold">?</dt>
          <dd>this list</dd>
        </dl>
      </Ask>
    </header>
  )
}
