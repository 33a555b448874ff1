// What a person takes up for a kind of check: kept in the browser, so that the next box begins with it.
import { keep, keptJson } from '../../../domain/session'
import type { Schemas } from '../../../domain/schema'

interface Hand {
  gauge?: string
}

export function handOf(who: string, kind: Schemas['CheckKind']): Hand {
  const hand = keptJson(`hand.${who}.${kind}`)
  return typeof hand === 'object' && hand !== null ? hand : {}
}

/** The gauge that this person took for such a check last, and how to keep another. */
export function useHand(who: string, kind: Schemas['CheckKind']) {
  return {
    ...handOf(who, kind),
    keep: (more: Hand) => keep(`hand.${who}.${kind}`, JSON.stringify({ ...handOf(who, kind), ...more })),
  }
}
