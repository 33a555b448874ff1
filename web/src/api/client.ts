// The server, typed by its own description.
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Gap = Schemas['GapView']
export type Box = Schemas['BoxView']
export type JobRow = Schemas['JobRow']
export type Drawer = Schemas['Drawer']
export type Problem = Schemas['Problem']
export type Unit = 'thou' | 'mm' | 'um'

export const server = createClient<paths>({ baseUrl: '' })

/** What was typed for a reading, in a line; empty where nothing was. */
export const entryOf = (entry: Schemas['Entry']): string => {
  switch (entry.kind) {
    case 'travel':
      return entry.travel.trim()
    case 'pair':
      return [entry.home.trim(), entry.out.trim()].filter(Boolean).join(' to ')
    case 'leaf':
      return entry.leaves.trim()
    case 'depth':
      return entry.depth.trim()
    case 'term':
      return entry.length.trim()
    case 'known_shim':
      return entry.float.trim() && `${entry.shim.trim() || 'none'} in, float ${entry.float.trim()}`
    case 'torque':
      return entry.torque.trim()
    case 'pull':
      return entry.force.trim()
    case 'pinion':
      return entry.play.trim()
    case 'gaps':
      return [entry.left.trim(), entry.right.trim()].filter(Boolean).join(' and ')
    case 'by_hand':
      return [entry.from.trim(), (entry.to ?? '').trim()].filter(Boolean).join(' to ')
  }
}

/** Pieces as they are asked for: which size, and how many. */
export const sizeCounts = (pieces: Schemas['SizeCount'][]): Schemas['SizeCount'][] =>
  pieces.map(({ thickness_nm, grade, count }) => ({ thickness_nm, grade, count }))

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

export const lost: Problem = {
  type: 'out-of-reach',
  title: 'The server does not answer. Nothing is lost; it goes on as soon as the server is back.',
  status: 0,
}

/** The answer's data; throws what the server refused with. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result
  try {
    result = await call
  } catch {
    throw new Refused(lost)
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

/** A new key for a write; the same key sent twice does the write once. */
export const writeKey = () => {
  const bytes = crypto.getRandomValues(new Uint8Array(12))
  return `web-${Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')}`
}
