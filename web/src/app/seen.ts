// What the server has answered is kept in the browser, so that the program opens and can be read without it.
import type { Query, QueryClient } from '@tanstack/react-query'
import type { PersistedClient, Persister } from '@tanstack/react-query-persist-client'
import { del, get, set } from 'idb-keyval'
import { actOf, boxAgain, keyOf, lookAgain, takeUp, versionOf } from '../api/acts'
import { outbox } from '../api/outbox'
import { onReach, reached, watched } from '../api/reach'
import type { Schemas } from '../domain/schema'

const PLACE = 'dry-anvil.seen'
/** Written so long after a change, with all that came meanwhile: a row of readings is written once. */
const AFTER_MS = 1_000
/** What is older is fetched before it is shown. */
export const KEPT_MS = 7 * 24 * 3_600_000

/** What is worked out for one look, or changes while nobody looks, is not kept. */
const PASSING = new Set(['swaps', 'laid', 'share', 'live'])
export const isKept = (query: Query) =>
  query.state.status === 'success' && !PASSING.has(String(query.queryKey[0]))

let newest: PersistedClient | undefined

/** Keeps in IndexedDB; a browser that has none, or is full, keeps nothing and works all the same. */
export const persister: Persister = {
  persistClient: (client) => {
    if (!newest)
      setTimeout(() => {
        void set(PLACE, newest).catch(() => {})
        newest = undefined
      }, AFTER_MS)
    newest = client
  },
  restoreClient: () =>
    get<PersistedClient>(PLACE).then(
      (kept) => kept && asSeenBefore(kept),
      () => undefined,
    ),
  removeClient: () => del(PLACE).catch(() => {}),
}

/** What was seen before a page was loaded is shown, and asked for again, however short a while ago that was: what was done
 *  since may not have been kept any more. */
function asSeenBefore(kept: PersistedClient): PersistedClient {
  const queries = kept.clientState.queries.map((q) => ({ ...q, state: { ...q.state, isInvalidated: true } }))
  return { ...kept, clientState: { ...kept.clientState, queries } }
}

/** So often a server that does not answer is asked whether it does again. */
const ASK_AGAIN_MS = 3_000

/** Sends what was left waiting, and takes up what the server answers. */
export function beginSending(client: QueryClient) {
  const look = watched((request) => fetch(request))
  let asking: ReturnType<typeof setInterval> | undefined
  onReach(() => {
    clearInterval(asking)
    // What was seen meanwhile may be as it was.
    if (reached()) void client.invalidateQueries()
    else asking = setInterval(() => void look(new Request('/api/shop')).catch(() => {}), ASK_AGAIN_MS)
  })
  outbox.begin({
    kept: (write, fresh) => {
      const { job, check, url } = write
      if (url.endsWith('/acts')) return takeUp(client, job, fresh as Schemas['Acted'])
      // Kept by an earlier version of this program.
      client.setQueryData(keyOf(write), fresh)
      if (check !== undefined) boxAgain(client, job)
    },
    sentElsewhere: (write) => {
      const act = actOf(write)
      if (act) lookAgain(client, write.job, act)
      boxAgain(client, write.job)
    },
    version: (write) => versionOf(client, write),
  })
}
