// What a job waits for outside the shop, since when, and by when it is expected.
import type { Schemas } from '../../domain/schema'
import { calendarDay, daysLate } from './Promised'

export function WaitsFor({ of }: { of: Schemas['WaitsFor'] | null | undefined }) {
  if (!of) return null
  const over = of.until ? daysLate(of.until, new Date()) : 0
  return (
    <span className={over > 0 ? 'font-bold text-oxide' : ''}>
      waits for {of.what}
      {of.since && ` since ${calendarDay(of.since)}`}
      {of.until && `, expected ${calendarDay(of.until)}`}
      {over > 0 && `, ${over} ${over === 1 ? 'day' : 'days'} over`}
    </span>
  )
}
