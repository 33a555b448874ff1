// A part of a form that is closed until it holds something.
import type { ReactNode } from 'react'

export function Part({
  title,
  count,
  open,
  children,
}: {
  title: string
  count?: number
  open?: boolean
  children: ReactNode
}) {
  return (
    <details className="group" open={open || (count ?? 0) > 0}>
      <summary className="flex min-h-12 items-center gap-2 font-semibold">
        <span aria-hidden="true" className="group-open:rotate-90">
          ▸
        </span>{' '}
        {title}
        {count ? <span className="font-normal text-dim">({count})</span> : null}
      </summary>
      <div className="pt-1">{children}</div>
    </details>
  )
}
