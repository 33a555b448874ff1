// The server, typed by its own description.
import createClient from 'openapi-fetch'
import { v7 as uuid } from 'uuid'
import type { Problem } from '../domain/schema'
import { Earlier, inOrder } from './order'
import { sorted } from './left-out'
import { NotAnswered, pressing } from './presses'
import { serverNow, watched } from './reach'
import type { paths } from './schema'
import { Nobody, signed } from './signed'

export const server = createClient<paths>({
  baseUrl: '',
  // Asked for at each call: tests put another in its place.
  fetch: signed(inOrder(pressing(sorted(watched((request) => fetch(request)))))),
})

/** A problem the server answered with, or a server that did not answer at all. */
export class Refused extends Error {
  problem: Problem
  constructor(problem: Problem) {
    super(problem.title)
    this.problem = problem
  }
}

/** The server did not answer, or said that it cannot just now: worth trying again. */
export const outOfReach = (error: unknown) =>
  !(error instanceof Refused) || error.problem.status === 503 || error.problem.status === 0

/** What was sent is not refused: the server does not answer, is at fault, or has no time. It is not given up. */
export const notRefused = (error: unknown) =>
  outOfReach(error) ||
  (error instanceof Refused && (error.problem.status >= 500 || [408, 429].includes(error.problem.status)))

/** The server failed at what was sent: sent again it may do it, or fail at it for ever. */
export const isFault = (error: unknown) =>
  error instanceof Refused && error.problem.status >= 500 && error.problem.status !== 503

export const lost: Problem = {
  type: 'out-of-reach',
  title: 'The server does not answer. It is asked again by itself.',
  status: 0,
}

const notDone: Problem = {
  type: 'not-done',
  title: 'Not done: the server does not answer. Press again when it does.',
  status: 0,
}

const earlier: Problem = {
  type: 'earlier-waits',
  title: 'Not done: what was pressed before it still waits for the server. Press again when that is sent.',
  status: 0,
}

export const nobody: Problem = {
  type: 'nobody',
  title: 'Not done: nobody is at the bench. Press again, and choose your initials.',
  status: 428,
}

/** The answer's data; throws what the server refused with. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result
  try {
    result = await call
  } catch (error) {
    if (error instanceof Nobody) throw new Refused(nobody)
    if (error instanceof Earlier) throw new Refused(earlier)
    throw new Refused(error instanceof NotAnswered ? notDone : lost)
  }
  if (result.response.ok) return result.data as T
  const body = result.error
  if (body && typeof body === 'object' && 'title' in body) throw new Refused(body as Problem)
  throw new Refused({
    ...lost,
    status: result.response.status,
    title: `The server answered ${result.response.status}.`,
  })
}

/**
 * A new key for a write; the same key sent twice does the write once. The time stands in it, by the server's clock, so
 * that one which comes after its key was forgotten is refused rather than done again.
 */
export const writeKey = () => uuid({ msecs: serverNow() })

/** What is sent of a file: its bytes, as they are. */
export const asItIs = (file: File) => ({
  body: file as unknown as number[],
  bodySerializer: (file: unknown) => file as Blob,
  headers: { 'Content-Type': 'application/octet-stream' },
})
