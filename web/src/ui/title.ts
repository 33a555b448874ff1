import { useEffect } from 'react'

/** Names the window after what it shows. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    document.title = title ? `${title} · Dry Anvil` : 'Dry Anvil'
  }, [title])
}
