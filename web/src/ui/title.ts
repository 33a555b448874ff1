import { useEffect } from 'react'
import { keep, keptJson } from '../domain/session'

/** A place that was looked at. */
export interface Recent {
  path: string
  title: string
}

const RECENT = 'recent'
const MOST = 8

/** What was looked at last, the newest first. */
export function recents(): Recent[] {
  const found = keptJson(RECENT)
  return Array.isArray(found) ? (found as Recent[]) : []
}

/** Names the window after what it shows, and keeps it among what was looked at last. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    document.title = title ? `${title} · Dry Anvil` : 'Dry Anvil'
    const path = location.pathname
    if (!title || !/^\/(jobs|sheets)\/[^/]+/.test(path)) return
    const others = recents().filter((r) => r.path !== path)
    keep(RECENT, JSON.stringify([{ path, title }, ...others].slice(0, MOST)))
  }, [title])
}
