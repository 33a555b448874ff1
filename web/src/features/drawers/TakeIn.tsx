// A file of drawers: first what it would change, then the change.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Ask, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { readFile } from '../../ui/files'
import { gradeWords, showStated, unitName } from '../../domain/units'

type Change = Schemas['ChangeView']

export function TakeIn({ onDone }: { onDone: (said: string) => void }) {
  const { who } = useBench()
  const client = useQueryClient()
  const input = useRef<HTMLInputElement>(null)
  const [text, setText] = useState('')
  const look = useMutation<Schemas['Preview'], Refused, File>({
    mutationFn: async (file) => {
      const text = await readFile(file)
      setText(text)
      return answer(server.POST('/api/drawers/preview', { body: { text } }))
    },
  })
  const take = useMutation<{ rows: number }, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/drawers/import', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { text, who },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries()
      const n = look.data?.changes.length ?? 0
      onDone(`${n} ${n === 1 ? 'size' : 'sizes'} changed by the file.`)
      close()
    },
  })
  const close = () => {
    look.reset()
    take.reset()
  }
  const n = look.data?.changes.length ?? 0
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".csv,text/csv"
        className="sr-only"
        tabIndex={-1}
        aria-label="Take in CSV"
        onChange={(e) => {
          const file = e.target.files?.[0]
          e.target.value = ''
          if (file) look.mutate(file)
        }}
      />
      <button className="press-quiet" disabled={look.isPending} onClick={() => input.current?.click()}>
        {look.isPending ? 'Reading it …' : 'Take in CSV'}
      </button>
      <Ask
        open={!look.isIdle && !look.isPending}
        onClose={close}
        title={look.isError ? 'Nothing was taken in' : 'What the file would change'}
      >
        <Trouble error={look.error ?? take.error} />
        {look.data && (
          <p className="text-lg">
            {n === 0 ? 'Nothing. ' : `${n} ${n === 1 ? 'size' : 'sizes'}. `}
            {look.data.unchanged > 0 && `${look.data.unchanged} stay as they are.`}
          </p>
        )}
        {n > 0 && <Changes changes={look.data?.changes ?? []} />}
        <div className="mt-4 flex justify-end gap-3">
          {n > 0 ? (
            <>
              <button className="press-quiet" onClick={close}>
                Leave it
              </button>
              <button className="press" disabled={take.isPending} onClick={() => take.mutate()}>
                Take in {n} {n === 1 ? 'change' : 'changes'}
              </button>
            </>
          ) : (
            <button className="press" onClick={close}>
              Done
            </button>
          )}
        </div>
      </Ask>
    </>
  )
}

function Changes({ changes }: { changes: Change[] }) {
  const { unit } = useBench()
  return (
    <table className="mt-3 w-full">
      <caption className="sr-only">What the file would change</caption>
      <thead>
        <tr>
          <th className="th">Size, {unitName[unit]}</th>
          <th className="th text-right">Now</th>
          <th className="th text-right">Then</th>
          <th className="th">Besides</th>
        </tr>
      </thead>
      <tbody>
        {changes.map((c) => (
          <tr key={`${c.family_key} ${c.thickness_nm} ${c.grade}`}>
            <td className="td">
              <span className="figure text-lg font-semibold">{showStated(c.thickness_nm, unit)}</span>
              <span className="block text-sm text-dim">
                {[c.family_name, gradeWords[c.grade]].filter(Boolean).join(' · ')}
              </span>
            </td>
            <td className="td figure text-right">{c.was ? c.was.on_hand : 'new'}</td>
            <td className="td figure text-right font-bold">{c.is.on_hand}</td>
            <td className="td text-sm">{besides(c)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** What changes apart from the count. */
function besides({ was, is }: Change) {
  const said = []
  if (was && was.place !== is.place) said.push(`place ${was.place || 'none'} becomes ${is.place || 'none'}`)
  if (!was && is.place) said.push(`place ${is.place}`)
  if ((was?.on_order ?? 0) !== is.on_order) said.push(`on order ${was?.on_order ?? 0} becomes ${is.on_order}`)
  if ((was?.discontinued ?? false) !== is.discontinued)
    said.push(is.discontinued ? 'no longer made' : 'made again')
  return said.join('; ')
}
