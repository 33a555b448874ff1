// The acts on a check.
import { useMutation, useQueryClient, type UseMutationResult } from '@tanstack/react-query'
import type { CheckView, Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { answer, server, writeKey, type Refused } from './client'
import { outbox } from './outbox'

/** An act on a check under way, with what it was refused with. */
export type Acting = UseMutationResult<CheckView, Refused, Act, CheckView>

/** What can be done to a check and cannot wait for the server. */
export type Act =
  | { act: 'way'; way: Schemas['Method'] }
  | { act: 'fitted'; typed: string }
  | { act: 'aim'; aiming: Omit<Schemas['TargetOverrideInput'], 'unit' | 'who'> }
  | { act: 'usual'; counts: boolean }
  | { act: 'lay'; plates: Schemas['PartKind'][]; soaked: boolean; springs: number | null }
  | {
      act: 'choose'
      pieces: Schemas['SizeCount'][]
      insteadOf?: { family: string; out: number }
      stays?: boolean
    }
  | { act: 'shims'; left: string; right: string; moved: boolean }
  | { act: 'ground'; marked_nm: number | null; measured: string; gauge_key?: string; putBack: boolean }
  | { act: 'bench'; bench_c: number }
  | { act: 'let-go' | 'undo-fit' }
  | { act: 'fit'; putBack?: boolean }
  | { act: 'sign' | 'reopen'; reason: string }

/** Does something to a check; its new state comes back with the answer. */
export function useAct(check: CheckView) {
  const client = useQueryClient()
  const { who, unit } = useBench()
  const path = { job_no: check.job_no, check_key: check.check_key }
  const run = async (act: Act): Promise<CheckView> => {
    // Pressed while a reading typed here is on its way: it is done on the check with that reading.
    const seen = (await outbox.settled())
      ? client.getQueryData<CheckView>(['check', check.job_no, check.check_key])
      : undefined
    const header = { 'Idempotency-Key': writeKey(), 'If-Match': `"${(seen ?? check).version}"` }
    const params = { path, header }
    switch (act.act) {
      case 'way':
        return answer(
          server.PUT('/api/jobs/{job_no}/checks/{check_key}/way', { params, body: { way: act.way, who } }),
        )
      case 'bench':
        return answer(
          server.PUT('/api/jobs/{job_no}/checks/{check_key}/bench', {
            params,
            body: { bench_c: act.bench_c, who },
          }),
        )
      case 'fitted':
        return answer(
          server.PUT('/api/jobs/{job_no}/checks/{check_key}/fitted', {
            params,
            body: { typed: act.typed, unit, who },
          }),
        )
      case 'aim':
        return answer(
          server.PUT('/api/jobs/{job_no}/checks/{check_key}/aim', {
            params,
            body: { ...act.aiming, unit, who },
          }),
        )
      case 'usual':
        return answer(
          server.PUT('/api/jobs/{job_no}/checks/{check_key}/usual', {
            params,
            body: { counts: act.counts, who },
          }),
        )
      case 'lay': {
        const { plates, soaked, springs } = act
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/pack', {
            params,
            body: { plates, soaked, springs, who },
          }),
        )
      }
      case 'choose':
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/choose', {
            params,
            body: {
              pieces: act.pieces,
              family_key: act.insteadOf?.family,
              out_nm: act.insteadOf?.out,
              stays: act.stays,
              who,
            },
          }),
        )
      case 'shims': {
        const { left, right, moved } = act
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/shims', {
            params,
            body: { left, right, unit, moved, who },
          }),
        )
      }
      case 'ground': {
        const { marked_nm, measured, gauge_key, putBack } = act
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/ground', {
            params,
            body: { marked_nm, measured, unit, gauge_key, put_back: putBack, who },
          }),
        )
      }
      case 'let-go':
        return answer(server.POST('/api/jobs/{job_no}/checks/{check_key}/let-go', { params, body: { who } }))
      case 'fit':
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/fit', {
            params,
            body: { who, put_back: act.putBack ?? false },
          }),
        )
      case 'undo-fit':
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/undo-fit', { params, body: { who } }),
        )
      case 'sign':
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/sign', {
            params,
            body: { who, reason: act.reason },
          }),
        )
      case 'reopen':
        return answer(
          server.POST('/api/jobs/{job_no}/checks/{check_key}/reopen', {
            params,
            body: { who, reason: act.reason },
          }),
        )
    }
  }
  return useMutation<CheckView, Refused, Act, CheckView>({
    // How it stood, for what undoes it.
    onMutate: () => check,
    mutationFn: run,
    onSuccess: (fresh) => {
      client.setQueryData(['check', check.job_no, check.check_key], fresh)
      void client.invalidateQueries({ queryKey: ['job', check.job_no] })
      void client.invalidateQueries({ queryKey: ['awaited'] })
    },
    onError: () => {
      // What was refused may be because the screen is behind: show what is so now.
      void client.invalidateQueries({ queryKey: ['check', check.job_no, check.check_key] })
    },
  })
}

/** What can be done to a check and can wait for the server: it is kept, and sent in its turn. */
export function useLater(check: CheckView) {
  const { who } = useBench()
  const { job_no: job, check_key, name } = check
  const add = (path: string, body: Record<string, unknown>, said: string) =>
    outbox.add({
      method: 'POST',
      url: `/api/jobs/${job}/checks/${check_key}/${path}`,
      body: { ...body, who },
      said,
      of: `job ${job}, ${name}`,
      job,
      check: check_key,
    })
  return {
    read: (reading: Omit<Schemas['ReadingIn'], 'who'>, said: string) => add('readings', reading, said),
    tick: (tick: string, done: boolean) =>
      add('ticks', { tick, done }, `${done ? 'seen to' : 'not seen to'}: ${tick}`),
    mark: (reading: number, mark: Schemas['ReadingMark'], reason: string, said: string) =>
      add(`readings/${reading}/marks`, { mark, reason }, said),
  }
}
