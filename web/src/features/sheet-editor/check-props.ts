import type { Sheet } from './draft'

/** What the forms of a check are given. */
export interface CheckProps {
  sheet: Sheet
  faults: Map<string, string>
  check: Sheet['checks'][number]
  of: string
}
