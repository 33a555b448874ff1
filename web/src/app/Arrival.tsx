import { useEffect, useRef } from 'react'
import { useLocation, useNavigationType } from 'react-router'
import { focusOnArrival, keepFocus, noteFocus } from '../ui/focus'

/** How long a place may take to be drawn before the focus is no longer given to it. */
const LATE_MS = 4000

/** Takes the focus along from place to place, and back to what had it. */
export function Arrival() {
  const { key, pathname } = useLocation()
  const isBack = String(useNavigationType()) === 'POP'
  const first = useRef(true)
  useEffect(() => keepFocus(), [])
  useEffect(() => {
    const note = () => noteFocus(key)
    document.addEventListener('focusin', note)
    return () => document.removeEventListener('focusin', note)
  }, [key])
  useEffect(() => {
    // The browser itself begins at the top of a page that is opened.
    if (first.current) {
      first.current = false
      return
    }
    if (focusOnArrival(key, isBack)) return
    const watch = new MutationObserver(() => {
      if (focusOnArrival(key, isBack)) stop()
    })
    const late = setTimeout(() => stop(), LATE_MS)
    const stop = () => {
      watch.disconnect()
      clearTimeout(late)
    }
    watch.observe(document.body, { childList: true, subtree: true })
    return stop
    // What only changes words behind the address (a filter, a search) is no other place.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pathname])
  return null
}
