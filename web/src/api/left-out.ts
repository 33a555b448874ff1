// What a list leaves out because the server cannot read it: said wherever that list is shown.

/** A job that a list leaves out. */
export interface LeftOut {
  job_no: number
  why: string
}

const byList = new Map<string, LeftOut[]>()
let all: LeftOut[] = []
const told = new Set<() => void>()

/** All that lists of this screen leave out, each job once. */
export const leftOut = () => all

/** Tells of every change; returns what ends it. */
export function onLeftOut(tell: () => void) {
  told.add(tell)
  return () => {
    told.delete(tell)
  }
}

/** Sends requests and notes what their answers leave out; a list that is whole again says so. */
export const sorted =
  (send: (request: Request) => Promise<Response>) =>
  async (request: Request): Promise<Response> => {
    const response = await send(request)
    const named = response.headers.get('Left-Out')
    if (!response.ok || (!named && !byList.has(request.url))) return response
    if (named) byList.set(request.url, JSON.parse(decodeURIComponent(named)) as LeftOut[])
    else byList.delete(request.url)
    all = [...new Map([...byList.values()].flat().map((of) => [of.job_no, of])).values()]
    for (const tell of told) tell()
    return response
  }
