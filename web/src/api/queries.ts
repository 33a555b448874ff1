// What is asked of the server: each key together with its fetcher.
import { queryOptions, useQuery } from '@tanstack/react-query'
import type { Unit } from '../domain/schema'
import { answer, server } from './client'

export const useShop = () =>
  useQuery({ queryKey: ['shop'], queryFn: () => answer(server.GET('/api/shop')), staleTime: Infinity })

/** When the last backup was made; asked again now and then, for a bench stands open for days. */
export const useBackups = () =>
  useQuery({
    queryKey: ['backups'],
    queryFn: () => answer(server.GET('/api/backups')),
    refetchInterval: 600_000,
  })

export const boxQuery = (jobNo: number) =>
  queryOptions({
    queryKey: ['job', jobNo],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}', { params: { path: { job_no: jobNo } } })),
  })

export const useBox = (jobNo: number) => useQuery(boxQuery(jobNo))

export const checkQuery = (jobNo: number, key: string) =>
  queryOptions({
    queryKey: ['check', jobNo, key],
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/checks/{check_key}', {
          params: { path: { job_no: jobNo, check_key: key } },
        }),
      ),
  })

/** What is typed at another screen is here within two seconds, while somebody looks. */
export const useGap = (jobNo: number, key: string) =>
  useQuery({ ...checkQuery(jobNo, key), refetchInterval: 1_500 })

export const buildQuery = (jobNo: number) =>
  queryOptions({
    queryKey: ['build', jobNo],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/build', { params: { path: { job_no: jobNo } } })),
  })

/** What is done at another screen is here within two seconds, while somebody looks. */
export const useBuild = (jobNo: number) => useQuery({ ...buildQuery(jobNo), refetchInterval: 2_000 })

/** The parts of a job's box. */
export const useParts = (jobNo: number, enabled = true) =>
  useQuery({
    queryKey: ['parts', jobNo],
    enabled,
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/parts', { params: { path: { job_no: jobNo } } })),
  })

/** A job's box beside those that parts can come out of. */
export const useDonors = (jobNo: number) =>
  useQuery({
    queryKey: ['donors', jobNo],
    // Other jobs give and take as well.
    staleTime: 0,
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/donors', { params: { path: { job_no: jobNo } } })),
  })

/** The shelf of used parts. */
export const useShelf = () =>
  useQuery({ queryKey: ['shelf'], staleTime: 0, queryFn: () => answer(server.GET('/api/shelf')) })

/** What has to be got for the jobs on the bench. */
export const useBenchParts = (enabled: boolean) =>
  useQuery({ queryKey: ['bench-parts'], enabled, queryFn: () => answer(server.GET('/api/parts')) })

/** What a size would say of a part's wear; asked as it is typed. */
export const useWear = (jobNo: number, part: string, size: string, unit: Unit, gauge_key?: string) =>
  useQuery({
    queryKey: ['wear', jobNo, part, size, unit, gauge_key],
    enabled: size !== '',
    retry: false,
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/parts/{part}/wear', {
          params: { path: { job_no: jobNo, part }, query: { size, unit, gauge_key } },
        }),
      ),
  })

/** What the stack sums that hold a part would come to with another width of it; asked as it is typed. */
export const useWidth = (jobNo: number, part: string, width: string, unit: Unit) =>
  useQuery({
    queryKey: ['width', jobNo, part, width, unit],
    enabled: width !== '',
    retry: false,
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/parts/{part}/width', {
          params: { path: { job_no: jobNo, part }, query: { width, unit } },
        }),
      ),
  })

/** What comes out to get at a step, a part, or what sets a check. */
export const useTearBack = (jobNo: number, of: { step?: string; part?: string; check?: string } | null) =>
  useQuery({
    queryKey: ['tear-back', jobNo, of],
    enabled: of !== null,
    retry: false,
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/build/tear-back', {
          params: { path: { job_no: jobNo }, query: of ?? {} },
        }),
      ),
  })

/** What somebody may complain of with a box of a sheet. */
export const useSymptoms = (sheet: string) =>
  useQuery({
    queryKey: ['symptoms', sheet],
    enabled: sheet !== '',
    queryFn: () => answer(server.GET('/api/sheets/{key}/complaints', { params: { path: { key: sheet } } })),
  })

/** What was found worth knowing at the steps of a sheet. */
export const useStepNotes = (key: string) =>
  useQuery({
    queryKey: ['step-notes', key],
    enabled: key !== '',
    queryFn: () => answer(server.GET('/api/sheets/{key}/notes', { params: { path: { key } } })),
  })

export const reportQuery = (jobNo: number) =>
  queryOptions({
    queryKey: ['report', jobNo],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/report', { params: { path: { job_no: jobNo } } })),
  })

export const useReport = (jobNo: number) => useQuery(reportQuery(jobNo))

export const drawersQuery = queryOptions({
  queryKey: ['drawers'],
  queryFn: () => answer(server.GET('/api/drawers')),
})

export const useDrawers = () => useQuery(drawersQuery)

/** Where sheets and drawers do not say the same of a family. */
export const useConflicts = () =>
  useQuery({ queryKey: ['conflicts'], queryFn: () => answer(server.GET('/api/drawers/conflicts')) })

export const useSheets = () =>
  useQuery({ queryKey: ['sheets'], queryFn: () => answer(server.GET('/api/sheets')) })

/** A sheet as one build of the box; the usual one where none is named. */
export const sheetQuery = (key: string, variant?: string) =>
  queryOptions({
    queryKey: variant ? ['sheet', key, variant] : ['sheet', key],
    queryFn: () => answer(server.GET('/api/sheets/{key}', { params: { path: { key }, query: { variant } } })),
  })

export const useSheet = (key: string, variant?: string) => useQuery(sheetQuery(key, variant))

/** A sheet as it is written: this revision of it, or the newest. */
export const sheetFileQuery = (key: string, revision?: number) =>
  queryOptions({
    queryKey: ['sheet-file', key, revision],
    enabled: key !== '',
    staleTime: Infinity,
    queryFn: () =>
      answer(server.GET('/api/sheets/{key}/file', { params: { path: { key }, query: { revision } } })),
  })

export const useRevisions = (key: string) =>
  useQuery({
    queryKey: ['revisions', key],
    queryFn: () => answer(server.GET('/api/sheets/{key}/revisions', { params: { path: { key } } })),
  })

export const useChanges = (key: string, from: number, to: number) =>
  useQuery({
    queryKey: ['changes', key, from, to],
    enabled: from > 0 && to > 0,
    queryFn: () =>
      answer(server.GET('/api/sheets/{key}/changes', { params: { path: { key }, query: { from, to } } })),
  })

/** What moving a job to another revision, build or sheet would do. */
export const useRevising = (jobNo: number, to: { to?: number; sheet?: string; variant?: string }) =>
  useQuery({
    queryKey: ['job', jobNo, 'revising', to],
    retry: false,
    queryFn: () =>
      answer(server.GET('/api/jobs/{job_no}/revision', { params: { path: { job_no: jobNo }, query: to } })),
  })

/** What became of a job's box since it was here last. */
export const useSince = (jobNo: number) =>
  useQuery({
    queryKey: ['job', jobNo, 'since'],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/since', { params: { path: { job_no: jobNo } } })),
  })

/** What was found on the finished boxes of a sheet, by what they came in with. */
export const useFound = (sheet: string) =>
  useQuery({
    queryKey: ['found', sheet],
    queryFn: () => answer(server.GET('/api/sheets/{key}/found', { params: { path: { key: sheet } } })),
  })

/** What the box of a job is taken for, and what its answers say of that. */
export const useIdentity = (jobNo: number) =>
  useQuery({
    queryKey: ['identity', jobNo],
    // What was shown before may be older than the last answer by less than it takes to come back.
    staleTime: 0,
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/identity', { params: { path: { job_no: jobNo } } })),
  })

export const useOrder = (jobNo: number | undefined, unmeasured: boolean) =>
  useQuery({
    queryKey: ['order', jobNo, unmeasured],
    queryFn: () => answer(server.GET('/api/order', { params: { query: { job_no: jobNo, unmeasured } } })),
    placeholderData: (before) => before,
  })

/** What is chosen and not on hand: to order, or on order since when. */
export const useAwaited = () =>
  useQuery({
    queryKey: ['awaited'],
    queryFn: () => answer(server.GET('/api/order/awaited')),
    staleTime: 5_000,
  })

export const usePlan = (of: { job: number } | { sheet: string }) =>
  useQuery({
    queryKey: ['plan', of],
    queryFn: () =>
      'job' in of
        ? answer(server.GET('/api/jobs/{job_no}/plan', { params: { path: { job_no: of.job } } }))
        : answer(server.GET('/api/sheets/{key}/plan', { params: { path: { key: of.sheet } } })),
  })

/** The chance of each closing of a job; asked anew where the box has changed. */
export const useClosings = (job: number) =>
  useQuery({
    // Below the job's own, so that what changes the box changes this.
    queryKey: ['job', job, 'closings'],
    queryFn: () => answer(server.GET('/api/jobs/{job_no}/closings', { params: { path: { job_no: job } } })),
  })

/** A check's figure beside those of the other boxes of its sheet; asked where it has a figure to be signed. */
export const useSisters = (job: number, check: string, version: number, on: boolean) =>
  useQuery({
    queryKey: ['sisters', job, check, version],
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/checks/{check_key}/sisters', {
          params: { path: { job_no: job, check_key: check } },
        }),
      ),
    enabled: on,
  })

/** Where an answer by hand and a figure of its job cannot both be so; asked where the sheet says that they could clash. */
export const useClashes = (job: number, check: string, version: number, on: boolean) =>
  useQuery({
    queryKey: ['job', job, 'clashes', check, version],
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/checks/{check_key}/clashes', {
          params: { path: { job_no: job, check_key: check } },
        }),
      ),
    enabled: on,
  })

/** What could be fitted at both ends of the shaft at once, where the split of its pieces sets a mesh. */
export const useSplit = (job: number, check: string, version: number) =>
  useQuery({
    queryKey: ['split', job, check, version],
    queryFn: () =>
      answer(
        server.GET('/api/jobs/{job_no}/checks/{check_key}/split', {
          params: { path: { job_no: job, check_key: check } },
        }),
      ),
  })

export const usePast = (key: string, check?: string) =>
  useQuery({
    queryKey: ['past', key, check],
    queryFn: () =>
      answer(server.GET('/api/sheets/{key}/past', { params: { path: { key }, query: { check } } })),
  })

export const useGauges = () =>
  useQuery({ queryKey: ['gauges'], queryFn: () => answer(server.GET('/api/gauges')) })
