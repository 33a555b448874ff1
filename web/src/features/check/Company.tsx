// Somebody else is at this check as well: told by what they did last.
import { useEffect, useState } from 'react'
import { serverNow } from '../../api/reach'
import type { CheckView } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { clockText } from '../../domain/units'

/** The time by the server's clock, looked at now and then. */
function useNow() {
  const [now, setNow] = useState(serverNow)
  useEffect(() => {
    const look = setInterval(() => setNow(serverNow()), 10_000)
    return () => clearInterval(look)
  }, [])
  return now
}

/** So long after what somebody did last they are taken to be there still. */
const THERE_MS = 5 * 60_000

export function Company({ check }: { check: CheckView }) {
  const { who } = useBench()
  const now = useNow()
  const others = check.history.filter((l) => l.who !== who && now - Date.parse(l.at) < THERE_MS)
  const last = others.at(-1)
  if (!last) return null
  return (
    <p role="status" className="mx-3 border-l-4 border-blue bg-blue-soft px-3 py-1 text-sm sm:mx-6">
      {last.who} is at this check as well, last at {clockText(last.at)}.
    </p>
  )
}
