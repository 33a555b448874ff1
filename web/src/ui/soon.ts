import { useDeferredValue } from 'react'

/**
 * What is fetched, for a view that is large: drawn the first time in many short turns of the browser's, between which a
 * press is heard, and at once from then on.
 */
export function useSoon<T>(data: T | undefined): T | undefined {
  const there = useDeferredValue(data !== undefined)
  return there ? data : undefined
}
