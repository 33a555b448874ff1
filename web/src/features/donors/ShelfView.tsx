// The shelf of used parts: what is left of boxes that were taken apart, with its sizes.
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'
import type { Refused } from '../../api/client'
import { useShelf } from '../../api/queries'
import type { Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { useDonorAct } from '../../ui/acts'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import { UsedShape } from './UsedShape'
import { stateWords, usedWords } from './words'

type Part = Schemas['ShelfPart']

export function ShelfView() {
  useTitle('Shelf')
  const { data, error } = useShelf()
  const [search, setSearch] = useState('')
  const words = useDeferredValue(search).toLowerCase().split(/\s+/).filter(Boolean)
  if (error && !data) return <Trouble error={error as unknown as Refused} />
  if (!data) return <Loading what="the shelf" />
  const has = (p: Part) => {
    const text = [p.name, p.sheet, p.place, `job ${p.job_no}`, p.title].join(' ').toLowerCase()
    return words.every((w) => text.includes(w))
  }
  const found = data.filter(has)
  const sheets = [...new Set(found.map((p) => p.sheet))]
  return (
    <main className="mx-auto max-w-[70rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end justify-between gap-4 py-5">
        <div>
          <h1 className="text-3xl">Shelf</h1>
          <p className="text-dim">Used parts that are sound, out of boxes that were taken apart</p>
        </div>
        <label className="block">
          <span className="block text-sm text-dim">Find on the shelf</span>
          <input className="field w-64" value={search} onChange={(e) => setSearch(e.target.value)} />
        </label>
      </div>
      {data.length === 0 && (
        <p className="text-lg">
          Nothing lies on the shelf. Open a job for a box that is for parts, look its parts over under Strip,
          and put there what is sound.
        </p>
      )}
      {data.length > 0 && found.length === 0 && (
        <p className="text-lg">Nothing on the shelf has these words.</p>
      )}
      {sheets.map((sheet) => {
        const parts = found.filter((p) => p.sheet === sheet)
        return (
          <section key={sheet} aria-label={sheet} className="mt-4">
            <h2 className="text-lg">
              {sheet}: {parts.length}
            </h2>
            <ul className="ruled mt-1">
              {parts.map((p) => (
                <Line key={`${p.job_no}/${p.part}`} part={p} />
              ))}
            </ul>
          </section>
        )
      })}
    </main>
  )
}

function Line({ part }: { part: Part }) {
  const { unit } = useBench()
  const shelving = useDonorAct()
  const off = () =>
    shelving.mutate({ job: part.job_no, did: { act: 'shelve', parts: [part.part], place: '' } })
  return (
    <li className="grid items-center gap-x-4 gap-y-1 py-2 sm:grid-cols-[1fr_14rem_auto]">
      <div>
        <p className="flex items-center gap-2 font-bold">
          <UsedShape state={part.state} />
          {part.count > 1 && `${part.count} × `}
          {part.name}
        </p>
        <p className="text-sm text-dim">
          {[stateWords(part), ...usedWords({ ...part, place: '' }, unit)].join(', ')} · out of{' '}
          <Link className="link" to={`/jobs/${part.job_no}`}>
            job {part.job_no}, {part.title}
          </Link>
          {part.stays_with.length > 0 && ` · stays with ${part.stays_with.join(', ')}`}
        </p>
        <Trouble error={shelving.error} />
      </div>
      <p>{part.place}</p>
      <button className="press-quiet" disabled={shelving.isPending} onClick={off}>
        Not there any more
      </button>
    </li>
  )
}
