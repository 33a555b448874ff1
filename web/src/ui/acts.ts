// What is done on a job, from the screen that it is done on: sent or kept, drawn, said, and undone with what the server
// says undoes it.
import { useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query'
import { useMemo, useSyncExternalStore } from 'react'
import {
  actOf,
  facts,
  lookAgain,
  send,
  type Act,
  type BuildAct,
  type CheckAct,
  type DonorAct,
  type IdentityAct,
  type JobAct,
  type PartAct,
  type Pressed,
} from '../api/acts'
import type { Refused } from '../api/client'
import { outbox, type Done } from '../api/outbox'
import { actWords } from '../domain/act-words'
import type { CheckView, Schemas, Unit } from '../domain/schema'
import { useBench } from '../domain/session'
import { piecesText, unitName } from '../domain/units'
import { useNotice } from './Notices'

/** Something under way on a job, with what it was refused with. */
export type Doing<D> = UseMutationResult<Done, Refused, D>

/** What was done, with the pieces that it was done with. */
const wordsOf = ({ said, pieces }: Schemas['Undoing'], unit: Unit) =>
  pieces?.length ? `${piecesText(pieces, unit)} ${unitName[unit]} ${said}` : said

interface Own<D> {
  /** Drawn as done at once, before the server says so. */
  foretell?: (did: D) => Promise<void> | void
  /** Several are done as one, and whoever does them says so. */
  quiet?: boolean
}

/** Does what is pressed, says so, and offers what undoes it. */
function useDoing<D>(pressed: (did: D) => Pressed, { foretell, quiet }: Own<D> = {}): Doing<D> {
  const client = useQueryClient()
  const notice = useNotice()
  const { who, unit } = useBench()
  return useMutation<Done, Refused, D>({
    onMutate: foretell,
    mutationFn: (did) => send(client, pressed(did), who),
    onSuccess: (done, did) => {
      const { job, of, said } = pressed(did)
      if (done === 'waits') notice({ said: `Waits for the server: ${said}.` })
      else if (done !== 'elsewhere' && !quiet && done.undoing) {
        const { undoing } = done
        notice({
          said: wordsOf(undoing, unit),
          undo: () => send(client, { job, act: undoing.act, of, said: `undone: ${said}` }, who),
        })
      }
    },
    onError: (_, did) => {
      const { job, act } = pressed(did)
      lookAgain(client, job, act)
    },
  })
}

/** Does something to a check. */
export function useCheckAct(check: CheckView): Doing<CheckAct> {
  const { job_no: job, check_key, name, version } = check
  return useDoing((did) => ({
    job,
    act: { of: 'check', check: check_key, did },
    of: `job ${job}, ${name}`,
    said: actWords(did),
    drawn: version,
  }))
}

/** Does something with a job as a whole. */
export function useJobAct(job: number): Doing<JobAct> {
  return useDoing((did) => ({
    job,
    act: { of: 'job', did },
    of: `job ${job}`,
    said: actWords(did),
  }))
}

/** Does something with a job's build; `nameOf` has a step's name. */
export function useBuildDoing(
  job: number,
  nameOf: (step: string) => string,
  foretell: (did: BuildAct) => Promise<void>,
): Doing<BuildAct> {
  return useDoing(
    (did) => ({
      job,
      act: { of: 'build', did },
      of: `job ${job}, build`,
      said: 'step' in did ? `${nameOf(did.step)}, ${actWords(did)}` : actWords(did),
    }),
    { foretell },
  )
}

/** Says something of a part of any job; `quiet` where several are said as one. */
export function useAnyPartAct(quiet = false): Doing<{ job: number; act: PartAct; name: string }> {
  return useDoing(
    ({ job, act, name }) => ({
      job,
      act: { of: 'part', did: act },
      of: `job ${job}, parts`,
      said: `${name}, ${actWords(act)}`,
    }),
    { quiet },
  )
}

/** Does something with used parts, of any job. */
export function useDonorAct(): Doing<{ job: number; did: DonorAct }> {
  return useDoing(({ job, did }) => ({
    job,
    act: { of: 'donor', did },
    of: `job ${job}, used parts`,
    said: actWords(did),
  }))
}

/** Says something of what a job's box is. */
export function useIdentityAct(job: number): Doing<IdentityAct> {
  return useDoing((did) => ({
    job,
    act: { of: 'identity', did },
    of: `job ${job}, what it is`,
    said: actWords(did),
  }))
}

/** What was done on a job and waits for a server that is out of reach: what is drawn of it says so. */
export function useKept(job: number): Act[] {
  const { waiting, unreachable } = useSyncExternalStore(outbox.onChange, outbox.now)
  return useMemo(() => {
    const own = unreachable ? waiting.filter((w) => w.write.job === job) : []
    return own.map((w) => actOf(w.write)).filter((act) => act !== undefined)
  }, [waiting, unreachable, job])
}

/** Facts of a check, kept and sent in their turn. */
export function useFacts(check: CheckView) {
  const { who } = useBench()
  return facts(check, who)
}
