// What is asked of the server, and kept for as long as the browser keeps what it has seen.
import { QueryClient } from '@tanstack/react-query'
import { outOfReach } from '../api/client'
import { KEPT_MS } from './seen'

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => outOfReach(error) && count < 60,
      retryDelay: 1500,
      refetchOnWindowFocus: true,
      // What came just now, for a view that is still being fetched, is not asked for again.
      staleTime: 1_000,
      // As long as it is kept in the browser.
      gcTime: KEPT_MS,
      networkMode: 'always',
    },
    // What is pressed without a network is kept, or says that it is not done: never held back unseen.
    mutations: { networkMode: 'always' },
  },
})
