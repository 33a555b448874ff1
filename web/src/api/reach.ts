// Whether the server answers, and what its clock says.

let isReached = true
/** By how much the server's clock is ahead of this device's, in milliseconds. */
let ahead = 0
const told = new Set<() => void>()

function note(reached: boolean) {
  if (reached === isReached) return
  isReached = reached
  for (const tell of told) tell()
}

/** Whether the last request was answered. */
export const reached = () => isReached

/** Tells of every change; returns what ends it. */
export function onReach(tell: () => void) {
  told.add(tell)
  return () => {
    told.delete(tell)
  }
}

/** The time by the server's clock, in milliseconds: a device may be a day off. */
export const serverNow = () => Date.now() + ahead

/** Less than this is the way of an answer, not a clock that is off. */
const WAY_MS = 5_000

/** Sends requests and notes whether they are answered. */
export const watched =
  (send: (request: Request) => Promise<Response>) =>
  async (request: Request): Promise<Response> => {
    try {
      const response = await send(request)
      const date = Date.parse(response.headers.get('Date') ?? '')
      if (!Number.isNaN(date)) {
        const off = date - Date.now()
        ahead = Math.abs(off) > WAY_MS ? off : 0
      }
      note(true)
      return response
    } catch (error) {
      if (!request.signal.aborted) note(false)
      throw error
    }
  }
