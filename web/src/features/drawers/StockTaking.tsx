// A drawer gone through: how many there are of each size, typed down with Enter and kept in one go.
import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { forget, keep, keptJson, useBench } from '../../domain/session'
import { gradeWords, showStated, unitName } from '../../domain/units'
import { Trouble } from '../../ui/Parts'
import type { Done } from './DoneLine'
import { useDrawersWritten } from './writes'

type Size = Schemas['DrawerSize']

const keyOf = (s: Size) => `${s.thickness_nm} ${s.grade}`

/** What is typed of a drawer's counts, kept until they are. */
function useTyped(name: string) {
  const [typed, setTyped] = useState<Record<string, string>>(() => {
    const found = keptJson(name)
    return found && typeof found === 'object' ? (found as Record<string, string>) : {}
  })
  const put = (next: Record<string, string>) => {
    setTyped(next)
    if (Object.values(next).some(Boolean)) keep(name, JSON.stringify(next))
    else forget(name)
  }
  return [typed, put] as const
}

interface Props {
  drawer: Drawer
  sizes: Size[]
  onClose: () => void
  onDone: (done: Done) => void
}

export function StockTaking({ drawer, sizes, onClose, onDone }: Props) {
  const { unit, who } = useBench()
  const written = useDrawersWritten()
  const [typed, setTyped] = useTyped(`counts.${drawer.key}`)
  const list = useRef<HTMLFormElement>(null)
  const fields = () => [...(list.current?.querySelectorAll<HTMLInputElement>('input') ?? [])]
  useEffect(
    () =>
      fields()
        .find((f) => !f.value)
        ?.focus(),
    [],
  )
  const text = (s: Size) => (typed[keyOf(s)] ?? '').trim()
  const counted = sizes.filter((s) => text(s) !== '')
  const faulty = counted.find((s) => !/^\d{1,6}$/.test(text(s)))
  const differ = counted.filter((s) => Number(text(s)) !== s.on_hand)
  const save = useMutation<Drawer[], Refused, string>({
    mutationFn: (key) =>
      answer(
        server.POST('/api/drawers/{family}/counts', {
          params: { path: { family: drawer.key }, header: { 'Idempotency-Key': key } },
          body: {
            lines: counted.map((s) => ({
              thickness_nm: s.thickness_nm,
              grade: s.grade,
              on_hand: Number(text(s)),
              version: s.version,
            })),
            who,
          },
        }),
      ),
    onSuccess: (drawers, actKey) => {
      setTyped({})
      written(drawers)
      const as = differ.length === 0 ? 'all as they were' : `${differ.length} otherwise than they were`
      onDone({
        said: `${drawer.name}: ${counted.length} of ${sizes.length} sizes counted, ${as}.`,
        ...(differ.length > 0 && { actKey }),
      })
      onClose()
    },
  })
  return (
    <form
      ref={list}
      noValidate
      aria-label={`Count ${drawer.name}`}
      className="mt-2"
      onSubmit={(e) => {
        e.preventDefault()
        if (counted.length > 0 && !faulty) save.mutate(writeKey())
      }}
    >
      <p className="text-dim">
        Type what lies there, Enter goes to the next size. What is left empty stays as it is.
      </p>
      <ol className="mt-2 gap-x-8 sm:columns-2">
        {sizes.map((s) => {
          const value = text(s)
          const off = value !== '' && s !== faulty && Number(value) !== s.on_hand
          return (
            <li
              key={keyOf(s)}
              className="flex min-h-12 break-inside-avoid items-center gap-3 border-b border-line py-1"
            >
              <label className="flex grow items-center gap-3">
                <span className="figure w-20 text-right font-semibold">
                  {showStated(s.thickness_nm, unit)}
                </span>
                <span className="text-sm text-dim">
                  {unitName[unit]}
                  {gradeWords[s.grade] && `, ${gradeWords[s.grade]}`}
                </span>
                <input
                  className="field figure ml-auto w-20 text-right"
                  inputMode="numeric"
                  enterKeyHint="next"
                  autoComplete="off"
                  maxLength={6}
                  aria-invalid={s === faulty}
                  value={typed[keyOf(s)] ?? ''}
                  onChange={(e) => setTyped({ ...typed, [keyOf(s)]: e.target.value })}
                  onKeyDown={(e) => {
                    const step = e.key === 'ArrowUp' ? -1 : e.key === 'Enter' || e.key === 'ArrowDown' ? 1 : 0
                    if (step === 0) return
                    const all = fields()
                    const next = all[all.indexOf(e.currentTarget) + step]
                    if (!next && e.key === 'Enter') return
                    e.preventDefault()
                    next?.select()
                  }}
                />
              </label>
              <span className={`w-16 text-sm ${off ? 'font-semibold text-oxide' : 'text-dim'}`}>
                {off ? `was ${s.on_hand}` : value === '' ? s.on_hand : 'as it was'}
              </span>
            </li>
          )
        })}
      </ol>
      {faulty && (
        <p role="alert" className="mt-2 font-semibold text-oxide">
          {showStated(faulty.thickness_nm, unit)} {unitName[unit]}: whole pieces, such as 4.
        </p>
      )}
      <Trouble error={save.error} />
      <div className="mt-3 flex flex-wrap justify-end gap-3">
        <button type="button" className="press-quiet" onClick={onClose}>
          Leave it for now
        </button>
        <button className="press" disabled={counted.length === 0 || !!faulty || save.isPending}>
          Keep {counted.length === 1 ? 'the count' : `${counted.length} counts`}
        </button>
      </div>
    </form>
  )
}
