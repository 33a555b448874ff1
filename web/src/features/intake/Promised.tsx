// The day for which a job is promised, and how late it is.
import { dayText } from '../../domain/units'

const DAY_MS = 86_400_000

/** How many whole days a day lies back, by the calendar of whoever looks. */
export function daysLate(promised: string, now: Date) {
  const [year = 0, month = 1, day = 1] = promised.split('-').map(Number)
  const today = Date.UTC(now.getFullYear(), now.getMonth(), now.getDate())
  return Math.round((today - Date.UTC(year, month - 1, day)) / DAY_MS)
}

/** A day by itself, as it is shown wherever somebody looks. */
export const calendarDay = (day: string) => dayText(`${day}T12:00:00`)

export function Promised({ day, done }: { day: string | null | undefined; done: boolean }) {
  if (!day) return null
  const late = done ? 0 : daysLate(day, new Date())
  const words = late > 0 ? `${late} ${late === 1 ? 'day' : 'days'} late` : late === 0 && !done ? 'today' : ''
  return (
    <span className={late > 0 ? 'font-bold text-oxide' : ''}>
      promised {calendarDay(day)}
      {words && `, ${words}`}
    </span>
  )
}
