// Sharing the drawers out.
import { useSearch, type Search } from '../../api/search'
import type { Schemas } from '../../domain/schema'

export type Share = Search<Schemas['ShareProgress'], Schemas['AllocationView']>

/** Shares out whenever what is pinned changes, and when asked again. */
export const useShare = (jobNo: number | undefined, pinned: Schemas['Pin'][]): Share =>
  useSearch('/api/share', { job_no: jobNo, pinned }, 'shared')
