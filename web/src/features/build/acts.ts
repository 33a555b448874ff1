// What is done with a job's build.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import type { BuildAct } from '../../api/acts'
import type { Schemas } from '../../domain/schema'
import { useBuildDoing, useKept, type Doing as ActDoing } from '../../ui/acts'

export type Build = Schemas['BuildView']
export type StepView = Schemas['StepView']

/** Does something with a job's build. The next step is drawn as the server foretold it while this one is on its way. */
export function useBuildAct(jobNo: number): Doing {
  const client = useQueryClient()
  const known = () => client.getQueryData<Build>(['build', jobNo])
  const nameOf = (step: string) => known()?.steps.find((of) => of.step.key === step)?.step.what ?? step
  return useBuildDoing(jobNo, nameOf, async (act) => {
    const build = known()
    const then = build && onceDone(build, act)
    if (!then) return
    // What was asked before the press would bring the step back.
    await client.cancelQueries({ queryKey: ['build', jobNo] })
    client.setQueryData(['build', jobNo], then)
  })
}

export type Doing = ActDoing<BuildAct>

/** The steps of which something was said that waits for the server. */
export function useKeptSteps(jobNo: number): ReadonlySet<string> {
  const kept = useKept(jobNo)
  return useMemo(() => {
    const steps = kept.flatMap((act) => (act.of === 'build' && 'step' in act.did ? [act.did.step] : []))
    return new Set(steps)
  }, [kept])
}

/** The build as the server foretold it for when the next step is done as the sheet has it: what is drawn while that is on
 *  its way. Nothing where this is another act, or something is asked first. */
export function onceDone(build: Build, act: BuildAct): Build | undefined {
  const { next, then } = build
  if (!then || next.kind !== 'step' || act.act !== 'done') return undefined
  const done = build.steps[next.step]
  if (!done || JSON.stringify(act) !== JSON.stringify(plainly(done.step.key))) return undefined
  const steps = build.steps.map((of, at) => {
    if ('step' in then.next && at === then.next.step) return then.step ?? of
    return at === next.step ? { ...of, state: 'done' as const } : of
  })
  return { ...build, ...then, steps, then: undefined }
}

/** An act of this very step is on its way. */
export const isOnItsWay = (doing: Doing, step: string) =>
  doing.isPending &&
  doing.variables !== undefined &&
  'step' in doing.variables &&
  doing.variables.step === step

/** A step done as the sheet has it. */
export const plainly = (step: string): BuildAct => ({ act: 'done', step })

/** The time by the server's clock, which the times on record go by, told again every second while something takes its
 *  time. */
export function useNow(server: string, runs: boolean) {
  const [now, setNow] = useState(() => Date.parse(server))
  useEffect(() => {
    if (!runs) return
    const from = Date.parse(server)
    const since = performance.now()
    const clock = setInterval(() => setNow(from + performance.now() - since), 500)
    return () => clearInterval(clock)
  }, [server, runs])
  return now
}

/** How many seconds are left of the time that a step takes; none where it was not begun. */
export function secondsLeft(step: StepView, now: number) {
  const wait = step.step.wait
  if (!wait || !step.began_at) return null
  return Math.round((Date.parse(step.began_at) + wait.minutes * 60_000 - now) / 1000)
}

/** A time as a clock shows it: minutes and seconds, hours before them where there are any. */
export function asClock(seconds: number) {
  const two = (n: number) => String(n).padStart(2, '0')
  const s = Math.max(0, seconds)
  const hours = Math.floor(s / 3600)
  return `${hours ? `${hours}:` : ''}${two(Math.floor((s % 3600) / 60))}:${two(s % 60)}`
}

/** A length of time in words. */
export const minutesWords = (minutes: number) =>
  minutes < 90 ? `${Math.round(minutes)} min` : `${(minutes / 60).toFixed(1)} h`
