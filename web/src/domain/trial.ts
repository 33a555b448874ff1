// What differs between the trial build that is measured and the final one.
import type { CheckView } from './schema'

/** How much the clearance grows from what is measured now to the final build, in nanometres. */
export const toFinal = (check: CheckView) =>
  check.adjustments.reduce((sum, a) => (a.as_final ? sum : sum + a.by_nm), 0)
