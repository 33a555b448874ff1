// What can be done once the first view stands.

/** So long at the latest, where the browser is never idle or cannot tell. */
const LATEST_MS = 3_000

/** Does something once there is nothing else to do; returns what gives it up. */
export function onceIdle(work: () => void) {
  if (typeof requestIdleCallback === 'undefined') {
    const timer = setTimeout(work, LATEST_MS)
    return () => clearTimeout(timer)
  }
  const id = requestIdleCallback(work, { timeout: LATEST_MS })
  return () => cancelIdleCallback(id)
}
