// What is typed in a sum lives in the address, so that it can be kept, sent and gone back to.
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import type { Unit } from '../../domain/schema'
import { useBench } from '../../domain/session'

/** The fields of a sum with what they start from, and how to change one. */
export function useFields<T extends Record<string, string>>(start: T) {
  const [params, setParams] = useSearchParams()
  const fields = Object.fromEntries(
    Object.entries(start).map(([name, first]) => [name, params.get(name) ?? first]),
  ) as T
  const set = (name: keyof T & string) => (value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before)
        next.set(name, value)
        return next
      },
      { replace: true },
    )
  return { fields, set }
}

/** A plain figure as typed: null where there is none, NaN where it is no figure. */
export const figureOf = (text: string) => {
  const plain = text.trim().replace(',', '.').replace('−', '-')
  return plain === '' ? null : /^-?\d*\.?\d+$/.test(plain) ? Number(plain) : NaN
}

/** Works a sum out as it is typed; the last answer stays while the next is on its way. */
export function useSum<T>(name: string, fields: object, run: (unit: Unit) => Promise<T>) {
  const { unit } = useBench()
  const { data, error } = useQuery<T, Refused>({
    queryKey: ['sum', name, fields, unit],
    queryFn: () => run(unit),
    placeholderData: (before) => before,
    staleTime: Infinity,
  })
  const problem = error?.problem
  const placed = (field: string) => (problem?.field === field ? problem.title : undefined)
  return { data: error ? undefined : data, error, fault: placed }
}
