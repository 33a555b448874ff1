// @vitest-environment happy-dom
// What was seen before is shown when a page is loaded again, and asked for again.
import { QueryClient, QueryObserver } from '@tanstack/react-query'
import { persistQueryClientRestore, persistQueryClientSave } from '@tanstack/react-query-persist-client'
import { expect, test, vi } from 'vitest'
import { persister } from './seen'

const place = new Map<string, unknown>()
vi.mock('idb-keyval', () => ({
  get: (key: string) => Promise.resolve(structuredClone(place.get(key))),
  set: (key: string, value: unknown) => Promise.resolve(void place.set(key, value)),
  del: (key: string) => Promise.resolve(void place.delete(key)),
}))

test('what was kept a moment ago is asked for again, and shown meanwhile', async () => {
  const before = new QueryClient()
  before.setQueryData(['pictures', 1], ['first'])
  await persistQueryClientSave({ queryClient: before, persister })
  await vi.waitFor(() => expect(place.size).toBe(1), { timeout: 5_000 })

  const after = new QueryClient({ defaultOptions: { queries: { staleTime: 60_000 } } })
  await persistQueryClientRestore({ queryClient: after, persister })
  expect(after.getQueryData(['pictures', 1])).toEqual(['first'])
  const looking = new QueryObserver(after, {
    queryKey: ['pictures', 1],
    queryFn: () => ['first', 'put back'],
  })
  const end = looking.subscribe(() => {})
  await vi.waitFor(() => expect(looking.getCurrentResult().data).toEqual(['first', 'put back']))
  end()
})
