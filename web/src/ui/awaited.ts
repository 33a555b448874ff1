// What checks wait for: to order, or on order since when. One list for every view.
import { useAwaited } from '../api/queries'
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { dayText, showStated, unitName } from '../domain/units'

/** How many pieces are chosen and nobody has ordered. */
export const countToOrder = (awaited: Schemas['AwaitedSize'][]) =>
  awaited.flatMap((size) => size.held_by).reduce((n, held) => n + held.to_order, 0)

/** What one check waits for, in words: still to order, and on order; each none where there is none. */
export function useWaits(jobNo: number, checkKey: string | null | undefined) {
  const { unit } = useBench()
  const { data } = useAwaited()
  const mine = (data ?? []).flatMap((size) =>
    size.held_by
      .filter((h) => h.job_no === jobNo && h.check_key === checkKey && h.awaited > 0)
      .map((held) => ({ size, held })),
  )
  const words = ({ size }: (typeof mine)[number], count: number) =>
    `${count > 1 ? `${count} of ` : ''}${showStated(size.thickness_nm, unit)} ${unitName[unit]}`
  const toOrder = mine.filter((m) => m.held.to_order > 0).map((m) => words(m, m.held.to_order))
  const onOrder = mine
    .filter((m) => m.held.awaited > m.held.to_order)
    .map(
      (m) =>
        `${words(m, m.held.awaited - m.held.to_order)} on order${m.size.ordered_at ? ` since ${dayText(m.size.ordered_at)}` : ''}`,
    )
  return { toOrder: toOrder.join(', '), onOrder: onOrder.join(', ') }
}
