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
  /** The version of it that was drawn, where it rests on that. */
  drawn?: number
}

/** The version that is known of what an act is done to. */
function versionOf(client: QueryClient, job: number, act: Act) {
  const key = act.of === 'check' ? ['check', job, act.check] : act.of === 'job' ? ['job', job] : null
  return key ? client.getQueryData<{ version: number }>(key)?.version : undefined
}

const writeOf = ({ job, act, of, said }: Pressed, who: string, seen?: number): Write => ({
  method: 'POST',
  url: `/api/jobs/${job}/acts`,
  body: { act, who },
  said,
  of,
  job,
  check: act.of === 'check' ? act.check : undefined,
  seen,
})

/** Does something on a job: what the server answers, or that it waits for it. */
export async function send(client: QueryClient, pressed: Pressed, who: string): Promise<Done> {
  // Pressed while a reading typed here is on its way: it is done on the check with that reading.
  const drawn = (await outbox.settled()) ? undefined : pressed.drawn
  const seen = drawn ?? versionOf(client, pressed.job, pressed.act)
  return outbox.send(writeOf(pressed, who, seen))
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
const KEYS: Record<Schemas['View'], (job: number) => string[][] | (string | number)[][]> = {
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
  const queryKey = on.of === 'check' ? ['check', job, on.view.check_key] : [on.of, job]
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

/** What was refused may be because the screen is behind: what is so now is asked for. */
export function lookAgain(client: QueryClient, job: number, act: Act) {
  const keys = {
    check: () => [['check', job, ...(act.of === 'check' ? [act.check] : [])]],
    job: () => [['job', job]],
    build: () => [['build', job]],
    part: () => [['parts', job], ['bench-parts']],
    donor: () => [['donors'], ['parts', job], ['shelf']],
    identity: () => [['identity', job]],
  }
  for (const queryKey of keys[act.of]()) void client.invalidateQueries({ queryKey })
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
