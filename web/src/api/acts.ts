// Whatever somebody does on a job: one way to send it, to keep it while the server is out of reach, and to take up what
// the server answers.
import type { QueryClient } from '@tanstack/react-query'
import type { CheckView, Schemas } from '../domain/schema'
import { outbox, type Done, type Write } from './outbox'

export type Act = Schemas['Act']
export type CheckAct = Schemas['CheckAct']
export type JobAct = Schemas['JobAct']
export type BuildAct = Schemas['BuildAct']
export type PartAct = Schemas['PartAct']
export type IdentityAct = Schemas['IdentityAct']
export type DonorAct = Schemas['DonorAct']

/** Something done on a job, with what is said of it while it waits. */
export interface Pressed {
  job: number
  act: Act
  /** What it is of, in a line. */
  of: string
  /** What was pressed, in a line. */
  said: string
  /** The version of it that was drawn, where that may be older than what is known of it by then. */
  drawn?: number
}

/** Where a job's own view is kept, or that of one of its checks. */
export const keyOf = ({ job, check }: Pick<Write, 'job' | 'check'>) =>
  check === undefined ? ['job', job] : ['check', job, check]

/** The version that is known of a job, or of one of its checks. */
export const versionOf = (client: QueryClient, of: Pick<Write, 'job' | 'check'>) =>
  client.getQueryData<{ version: number }>(keyOf(of))?.version

const writeOf = ({ job, act, of, said }: Omit<Pressed, 'drawn'>, who: string): Write => ({
  method: 'POST',
  url: `/api/jobs/${job}/acts`,
  body: { act, who },
  said,
  of,
  job,
  check: act.of === 'check' ? act.check : undefined,
})

/** Does something on a job: what the server answers, or that it waits for it. */
export async function send(client: QueryClient, pressed: Pressed, who: string): Promise<Done> {
  // Pressed while a reading typed here is on its way: it is done on the check with that reading.
  const drawn = (await outbox.settled()) ? undefined : pressed.drawn
  const write = writeOf(pressed, who)
  const hasVersion = pressed.act.of === 'check' || pressed.act.of === 'job'
  const seen = drawn ?? (hasVersion ? versionOf(client, write) : undefined)
  return outbox.send({ ...write, seen })
}

/** The act that waits; what an earlier version of this program has kept is told as one as well. */
export function actOf({ url, body, check, job }: Write): Act | undefined {
  if (url.endsWith('/acts')) return body.act as Act
  if (check === undefined) return undefined
  const mark = /\/readings\/(\d+)\/marks$/.exec(url)
  const act = mark ? 'mark' : url.endsWith('/ticks') ? 'tick' : 'read'
  const did = { ...body, act, ...(mark && { reading_no: Number(mark[1]) }) }
  return url.includes(`/jobs/${job}/`) ? { of: 'check', check, did: did as unknown as CheckAct } : undefined
}

/** What is shown of each view, by the name that the server has for it: what is asked for again once it is not so. */
const KEYS: Record<Schemas['View'], (job: number) => (string | number)[][]> = {
  job: (job) => [['job', job]],
  jobs: () => [['jobs']],
  check: (job) => [['check', job]],
  awaited: () => [['awaited']],
  drawers: () => [['drawers']],
  build: (job) => [['build', job]],
  parts: (job) => [['parts', job]],
  bench_parts: () => [['bench-parts']],
  donors: () => [['donors'], ['shelf']],
  identity: (job) => [['identity', job]],
}

const LATER_MS = 400
let boxLater: ReturnType<typeof setTimeout> | undefined

/** Asks for a job's box again once the readings pause. */
export function boxAgain(client: QueryClient, job: number) {
  clearTimeout(boxLater)
  boxLater = setTimeout(() => void client.invalidateQueries({ queryKey: ['job', job] }), LATER_MS)
}

/** Draws what the server has answered to an act, and asks again for what is not so any more. */
export function takeUp(client: QueryClient, job: number, { on, stale }: Schemas['Acted']) {
  const queryKey = on.of === 'check' ? keyOf({ job, check: on.view.check_key }) : [on.of, job]
  // What was asked before it was done, and is still on its way, would bring back how it was.
  const older = client.isFetching({ queryKey, exact: true }) > 0
  client.setQueryData(queryKey, on.view)
  if (older) void client.invalidateQueries({ queryKey, exact: true })
  const again = () => {
    if (on.of === 'build') void client.invalidateQueries({ queryKey: ['tear-back', job] })
    for (const view of stale) {
      if (view === 'job' && on.of === 'check') boxAgain(client, job)
      else for (const queryKey of KEYS[view](job)) void client.invalidateQueries({ queryKey })
    }
  }
  // What was done is drawn first; what follows from it is asked for after that.
  requestAnimationFrame(() => setTimeout(again))
}

/** What an act is pressed on, by its kind; one on a check, on that check alone. */
const PRESSED_ON: Record<Exclude<Act['of'], 'check'>, Schemas['View'][]> = {
  job: ['job'],
  build: ['build'],
  part: ['parts', 'bench_parts'],
  donor: ['donors', 'parts'],
  identity: ['identity'],
}

/** What was refused may be because the screen is behind: what is so now is asked for. */
export function lookAgain(client: QueryClient, job: number, act: Act) {
  const keys =
    act.of === 'check'
      ? [keyOf({ job, check: act.check })]
      : PRESSED_ON[act.of].flatMap((view) => KEYS[view](job))
  for (const queryKey of keys) void client.invalidateQueries({ queryKey })
}

/** Facts of a check: kept and sent in their turn, whatever has changed; nobody waits for the answer. */
export function facts(check: CheckView, who: string) {
  const { job_no: job, check_key, name } = check
  const keep = (did: CheckAct, said: string) =>
    outbox.add(
      writeOf({ job, act: { of: 'check', check: check_key, did }, of: `job ${job}, ${name}`, said }, who),
    )
  return {
    read: (reading: Schemas['NewReading'], said: string) => keep({ act: 'read', ...reading }, said),
    tick: (tick: string, done: boolean) =>
      keep({ act: 'tick', tick, done }, `${done ? 'seen to' : 'not seen to'}: ${tick}`),
    mark: (reading_no: number, mark: Schemas['ReadingMark'], reason: string, said: string) =>
      keep({ act: 'mark', reading_no, mark, reason }, said),
  }
}
