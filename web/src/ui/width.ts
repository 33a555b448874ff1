import { useEffect, useRef, useState } from 'react'

/** The width of an element as it is laid out, so that drawings keep their lettering legible. */
export function useWidth<T extends HTMLElement>(first: number, least: number) {
  const ref = useRef<T>(null)
  const [width, setWidth] = useState(first)
  useEffect(() => {
    if (!ref.current) return
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(Math.round(entry.contentRect.width), least))
    })
    watch.observe(ref.current)
    return () => watch.disconnect()
  }, [least])
  return { ref, width }
}
