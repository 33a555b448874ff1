// A search that is under way: its turn, how far it is, and its end.
import type { ReactNode } from 'react'
import type { Search } from '../api/search'

export function Searching({
  of: { before, progress, stop },
  doing,
  children,
}: {
  of: Search<{ looked_at: number }, unknown>
  /** What it does, before anything is known of it. */
  doing: string
  /** What is found so far. */
  children: ReactNode
}) {
  return (
    <div
      role="status"
      className="mt-3 flex flex-wrap items-center gap-4 border-l-4 border-blue bg-card px-4 py-3"
    >
      <p className="mr-auto min-w-0 wrap-anywhere">
        {before !== null ? (
          `Waiting for ${before === 1 ? 'another search' : `${before} other searches`} of this shop to end …`
        ) : progress ? (
          <>
            Searching: {children}; {progress.looked_at} branches looked at.
          </>
        ) : (
          doing
        )}
      </p>
      <button className="press-quiet" onClick={stop}>
        Stop
      </button>
    </div>
  )
}
