import type { Schemas } from './schema'

/** Pieces as they are asked for: which size, and how many. */
export const sizeCounts = (pieces: Schemas['SizeCount'][]): Schemas['SizeCount'][] =>
  pieces.map(({ thickness_nm, grade, count }) => ({ thickness_nm, grade, count }))
