// A press is one write, however often its answer is lost: sent again it has the key that it had.

/** So long a press is the same one, where it is pressed again because the answer was lost. */
const SAME_MS = 120_000
/** The pauses before it is sent again by itself. */
const PAUSES_MS = [300, 1200]

const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** A write that nobody answered: whether it was done is not known, and pressed again it has the key that it had. */
export class NotAnswered extends Error {}

/** As much of a file tells it from another of its length. */
const TELLS = 2_097_152

/** What is sent, told from everything else that is. */
async function nameOf(request: Request) {
  const body = await request.clone().blob()
  return `${request.method} ${request.url} ${body.size} ${await body.slice(-TELLS).text()}`
}

/** Answers that say nothing of whether it was done. */
const unsure = (status: number) => status >= 500 || status === 408

/**
 * Sends requests so that a write whose answer is lost goes again under its key, by itself and where it is pressed
 * again.
 */
export function pressing(
  send: (request: Request) => Promise<Response>,
  { now = Date.now, pause = wait }: { now?: () => number; pause?: (ms: number) => Promise<void> } = {},
) {
  const lost = new Map<string, { key: string; until: number }>()
  return async (request: Request): Promise<Response> => {
    if (!request.headers.get('Idempotency-Key')) return send(request)
    const name = await nameOf(request)
    const before = lost.get(name)
    if (before && before.until > now()) request.headers.set('Idempotency-Key', before.key)
    const key = request.headers.get('Idempotency-Key') ?? ''
    const known = (response: Response) => {
      if (unsure(response.status)) return false
      lost.delete(name)
      return true
    }
    for (const ms of PAUSES_MS) {
      try {
        const response = await send(request.clone())
        if (known(response)) return response
      } catch (error) {
        if (request.signal.aborted) throw error
      }
      lost.set(name, { key, until: now() + SAME_MS })
      await pause(ms)
    }
    const last = await send(request).catch((error: unknown) => {
      throw request.signal.aborted ? error : new NotAnswered()
    })
    known(last)
    return last
  }
}
