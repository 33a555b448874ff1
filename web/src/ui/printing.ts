// Whether the page is being printed: what only paper shows is put together then, and not at every press.
import { useSyncExternalStore } from 'react'

const onPaper = () => window.matchMedia('print')

function subscribe(tell: () => void) {
  const paper = onPaper()
  paper.addEventListener('change', tell)
  return () => paper.removeEventListener('change', tell)
}

export const usePrinting = () => useSyncExternalStore(subscribe, () => onPaper().matches)
