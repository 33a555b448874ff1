// Every write says who does it. Where nobody is at the bench yet, it is asked for, and then the write goes on.
import { askWho } from '../domain/who'

/** Nobody said who is at the bench. */
export class Nobody extends Error {}

/** Sends requests; asks who is at the bench where a write names nobody. */
export function signed(send: (request: Request) => Promise<Response>, ask = askWho) {
  return async (request: Request): Promise<Response> => {
    if (!request.headers.get('Idempotency-Key')) return send(request)
    // A file's bytes say nothing of who sends it: that stands in the address.
    const at = new URL(request.url)
    if (at.searchParams.has('who')) {
      if (at.searchParams.get('who') !== '') return send(request)
      const who = await ask()
      if (!who) throw new Nobody()
      at.searchParams.set('who', who)
      const { method, headers, signal } = request
      return send(new Request(at, { method, headers, signal, body: await request.blob() }))
    }
    const body: unknown = await request
      .clone()
      .json()
      .catch(() => null)
    if (!body || typeof body !== 'object' || !('who' in body) || body.who !== '') return send(request)
    const who = await ask()
    if (!who) throw new Nobody()
    return send(new Request(request, { body: JSON.stringify({ ...body, who }) }))
  }
}
