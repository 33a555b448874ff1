// Whatever is done on a job goes through here. One queue for the whole program, kept across reloads, seen by every window of
// the browser, sent in order as soon as the server answers. What is refused later is kept as well, with what was typed,
// until somebody has seen it.
import { forget, keep, kept, keptJson, keptNames } from '../domain/session'
import { askWho } from '../domain/who'
import type { Problem, Schemas } from '../domain/schema'
import { Refused, answer, isFault, nobody, notRefused, writeKey } from './client'
import { earlierWrites } from './order'
import { watched } from './reach'
import { WriteQueue, type Waiting } from './write-queue'

/** A write that can wait. */
export interface Write {
  method: 'POST'
  url: string
  body: Record<string, unknown> & { who: string }
  /** What was typed or pressed, in a line. */
  said: string
  /** What it is of, in a line. */
  of: string
  job: number
  /** The check it is of, where of one. */
  check?: string
  /** The version that was seen of what it is done to, where it rests on that: it is refused where that has changed. */
  seen?: number
}

/** What came of something that was done: the server's answer, or that it waits for the server, or that another window has
 *  sent it. */
export type Done = Schemas['Acted'] | 'waits' | 'elsewhere'

/** A write that the server has refused. */
export interface Turned {
  write: Write
  problem: Problem
}

const AGAIN_MS = 1500

/** Things kept under names that sort in their order, whatever the clock says. */
export function shelf<T>(name: string) {
  // Where the browser keeps nothing, they are in this window only.
  const own = new Map<string, T>()
  const places = () => keptNames(`${name}.`)
  const keyOf = (at: string) => at.slice(name.length + 14)
  return {
    /** Key and thing, the oldest first. */
    list: (): [string, T][] => {
      const list: [string, T][] = []
      for (const at of places()) {
        const thing = keptJson(at) as T | null
        if (thing !== null) list.push([keyOf(at), thing])
      }
      const there = new Set(list.map(([key]) => key))
      return [...list, ...[...own].filter(([key]) => !there.has(key))]
    },
    keep: (key: string, thing: T) => {
      const last = places().at(-1)
      const number = last ? Number(last.slice(name.length + 1, name.length + 13)) + 1 : 1
      const at = `${name}.${String(number).padStart(12, '0')}.${key}`
      keep(at, JSON.stringify(thing))
      if (kept(at) === null) own.set(key, thing)
    },
    drop: (key: string) => {
      own.delete(key)
      for (const at of places().filter((place) => keyOf(place) === key)) forget(at)
    },
    /** How many are lost with this window. */
    onlyHere: () => own.size,
  }
}

const waits = shelf<Waiting<Write>>('out')
const turned = shelf<Turned>('refused')
const list = () => waits.list().map(([, one]) => one)

/** Alone among the windows of this browser, where it can tell. */
async function alone(work: () => Promise<void>) {
  if ('locks' in navigator) await navigator.locks.request('dry-anvil.outbox', work)
  else await work()
}

export interface OutboxNow {
  waiting: Waiting<Write>[]
  refused: [string, Turned][]
  unreachable: boolean
  /** How many the browser does not keep: they are lost with this window. */
  onlyHere: number
}

const told = new Set<() => void>()
let now: OutboxNow = { waiting: list(), refused: turned.list(), unreachable: false, onlyHere: 0 }

function look() {
  letGo()
  now = {
    waiting: list(),
    refused: turned.list(),
    unreachable: queue.unreachable,
    onlyHere: waits.onlyHere(),
  }
  for (const tell of told) tell()
}

/** Who waits in this window for what comes of a write. */
const live = new Map<string, { done: (done: Done) => void; fail: (refused: Refused) => void }>()

/** Nobody waits any longer than the server is out of reach. */
function letGo() {
  if (!queue.unreachable) return
  for (const { done } of live.values()) done('waits')
  live.clear()
}

let onKept: (write: Write, fresh: unknown) => void = () => {}
let versionNow: (write: Write) => number | undefined = () => undefined
let onSentElsewhere: (write: Write) => void = () => {}
/** Who takes a refused write up at once, by what it is of: the field that it was typed into. */
const takers = new Map<string, (write: Write, problem: Problem) => boolean>()

const placeOf = (write: { job: number; check?: string }) => `${write.job}/${write.check ?? ''}`

const send = watched((request) => fetch(request))

const queue: WriteQueue<Write, unknown> = new WriteQueue<Write, unknown>({
  list,
  keep: (one) => waits.keep(one.key, one),
  drop: (key) => waits.drop(key),
  alone,
  send: ({ key, write }) =>
    answer(
      send(
        new Request(new URL(write.url, location.href), {
          method: write.method,
          headers: {
            'Content-Type': 'application/json',
            'Idempotency-Key': key,
            ...(write.seen !== undefined && { 'If-Match': `"${write.seen}"` }),
          },
          body: JSON.stringify(write.body),
        }),
      ).then(async (response) => {
        const said: unknown = await response.json().catch(() => null)
        return response.ok ? { data: said, response } : { error: said, response }
      }),
    ),
  isOutOfReach: notRefused,
  isFault,
  onKept: (fresh, { key, write }) => {
    onKept(write, fresh)
    live.get(key)?.done(fresh as Done)
    live.delete(key)
  },
  onChange: look,
  pause: () => new Promise((done) => setTimeout(done, AGAIN_MS)),
})

queue.refusalsGoTo(({ key, write }, error) => {
  const problem =
    error instanceof Refused ? error.problem : { type: 'fault', title: String(error), status: 0 }
  const waited = live.get(key)
  live.delete(key)
  waited?.fail(error instanceof Refused ? error : new Refused(problem))
  const takenUp = waited !== undefined || (takers.get(placeOf(write))?.(write, problem) ?? false)
  if (!takenUp) turned.keep(key, { write, problem })
  look()
})

// Another window has typed or sent.
addEventListener('storage', (event) => {
  if (!/^dry-anvil\.(out|refused)\./.test(event.key ?? '')) return
  look()
  // Sent there, it is on a record that this window has not seen.
  if (event.newValue === null && event.oldValue && event.key?.startsWith('dry-anvil.out.')) {
    const { key, write } = JSON.parse(event.oldValue) as Waiting<Write>
    live.get(key)?.done('elsewhere')
    live.delete(key)
    onSentElsewhere(write)
  }
  void queue.run()
})

/** Comes back when all that waits is sent, or the server is out of reach. */
const settled = () =>
  new Promise<void>((done) => {
    const isSettled = () => list().length === 0 || queue.unreachable
    if (isSettled()) return done()
    const end = outbox.onChange(() => {
      if (!isSettled()) return
      end()
      done()
    })
    void queue.run()
  })

earlierWrites(async () => {
  await settled()
  return list().length === 0
})

export const outbox = {
  /** Waits for what is on its way, where there is anything; whether there was. */
  settled: async () => {
    if (list().length === 0) return false
    await settled()
    return true
  },
  /** What waits and what was refused, now. */
  now: () => now,
  /** Tells of every change; returns what ends it. */
  onChange: (tell: () => void) => {
    told.add(tell)
    return () => {
      told.delete(tell)
    }
  },
  /** Sends what was left waiting; hands on what the server answers, and what another window has sent. */
  begin: (told: {
    kept: (write: Write, fresh: unknown) => void
    sentElsewhere: (write: Write) => void
    /** The version that is known now of what a write is done to. */
    version: (write: Write) => number | undefined
  }) => {
    onKept = told.kept
    onSentElsewhere = told.sentElsewhere
    versionNow = told.version
    void queue.run()
  },
  /** Keeps a write and sends it in its turn; `false` where nobody says who does it. */
  add: async (write: Write): Promise<boolean> => {
    const who = write.body.who || (await askWho())
    if (!who) return false
    queue.add({ key: writeKey(), write: { ...write, body: { ...write.body, who } } })
    return true
  },
  /** Keeps a write, sends it in its turn, and waits for what comes of it, but no longer than the server is out of reach. */
  send: async (write: Write): Promise<Done> => {
    const who = write.body.who || (await askWho())
    if (!who) throw new Refused(nobody)
    const key = writeKey()
    return new Promise((done, fail) => {
      live.set(key, { done, fail })
      queue.add({ key, write: { ...write, body: { ...write.body, who } } })
    })
  },
  /** Hands refused writes of one place to who can put them right; returns what ends it. */
  refusalsGoTo: (
    place: { job: number; check?: string },
    take: (write: Write, problem: Problem) => boolean,
  ) => {
    takers.set(placeOf(place), take)
    return () => {
      if (takers.get(placeOf(place)) === take) takers.delete(placeOf(place))
    }
  },
  /** A refused write is seen to. */
  dismiss: (key: string) => {
    turned.drop(key)
    look()
  },
  /** A refused write goes once more, under a key of its own. */
  again: (key: string) => {
    const found = turned.list().find(([at]) => at === key)
    turned.drop(key)
    // Whoever sends it again has looked again.
    if (found) {
      const { write } = found[1]
      const seen = write.seen === undefined ? undefined : (versionNow(write) ?? write.seen)
      queue.add({ key: writeKey(), write: { ...write, seen } })
    }
    look()
  },
}
