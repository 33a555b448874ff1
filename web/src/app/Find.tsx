// Everything found from everywhere: jobs on the bench, finished and put away, sheets, drawers, places.
import { useQuery } from '@tanstack/react-query'
import { useCombobox } from 'downshift'
import { useDeferredValue, useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, server } from '../api/client'
import { useDrawers, useSheets } from '../api/queries'
import { boxName } from '../domain/labels'
import { hasWords } from '../domain/words'
import { Ask } from '../ui/Parts'
import { recents } from '../ui/title'

interface Found {
  to: string
  name: string
  what: string
}

const PLACES: Found[] = [
  { to: '/', name: 'Bench', what: 'place' },
  { to: '/drawers', name: 'Drawers', what: 'place' },
  { to: '/shelf', name: 'Shelf of used parts', what: 'place' },
  { to: '/gauges', name: 'Gauges', what: 'place' },
  { to: '/sheets', name: 'Sheets', what: 'place' },
  { to: '/sums/piece', name: 'Sums', what: 'place' },
  { to: '/order', name: 'What to order', what: 'place' },
  { to: '/together', name: 'Choose for the whole bench', what: 'place' },
  { to: '/shop', name: 'People and shop', what: 'place' },
]

/** The jobs of one half of the bench that have these words. */
function useJobsFound(words: string, half: 'open' | 'finished' | 'put_away') {
  const { data } = useQuery({
    queryKey: ['jobs', 'found', words, half],
    enabled: words !== '',
    placeholderData: (before) => before,
    queryFn: () =>
      answer(
        server.GET('/api/jobs', {
          params: {
            query: {
              search: words,
              finished: half === 'finished' || undefined,
              put_away: half === 'put_away' || undefined,
            },
          },
        }),
      ),
  })
  const state = { open: '', finished: ', finished', put_away: ', put away' }[half]
  return (words === '' ? [] : (data?.jobs ?? [])).map((job) => ({
    to: `/jobs/${job.job_no}`,
    name: `${job.job_no} · ${job.title}`,
    what: `${job.customer}, ${job.sheet}${state}`,
  }))
}

function useFound(typed: string): Found[] {
  const words = useDeferredValue(typed.trim())
  const open = useJobsFound(words, 'open')
  const finished = useJobsFound(words, 'finished')
  const away = useJobsFound(words, 'put_away')
  const { data: sheets } = useSheets()
  const { data: drawers } = useDrawers()
  if (words === '')
    return [...recents().map((r) => ({ to: r.path, name: r.title, what: 'looked at last' })), ...PLACES]
  const has = (found: Found) => hasWords(`${found.name} ${found.what}`, words)
  const jobs = [...open, ...finished, ...away]
  // The job of that very number comes before all that only has it somewhere.
  const exact = jobs.filter((j) => j.to === `/jobs/${words}`)
  const rest = [
    ...jobs.filter((j) => !exact.includes(j)).slice(0, 12),
    ...(sheets ?? []).map((s) => ({
      to: `/sheets/${s.key}`,
      name: s.name,
      what: `sheet, ${boxName[s.kind]}`,
    })),
    ...(drawers ?? []).map((d) => ({ to: `/drawers#${d.key}`, name: d.name, what: 'drawer' })),
    ...PLACES,
  ]
  return [...exact, ...rest.filter((f) => f.to.startsWith('/jobs/') || has(f))].slice(0, 24)
}

export function Find({ onClose }: { onClose: () => void }) {
  return (
    <Ask open onClose={onClose} title="Find">
      <Finder onClose={onClose} />
    </Ask>
  )
}

function Finder({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate()
  const [typed, setTyped] = useState('')
  const found = useFound(typed)
  const { getLabelProps, getInputProps, getMenuProps, getItemProps, highlightedIndex } = useCombobox({
    items: found,
    inputValue: typed,
    isOpen: true,
    defaultHighlightedIndex: 0,
    itemToString: (item) => item?.name ?? '',
    onSelectedItemChange: ({ selectedItem }) => {
      if (!selectedItem) return
      onClose()
      void navigate(selectedItem.to)
    },
  })
  const label = getLabelProps()
  return (
    <>
      <label {...label} htmlFor={label.htmlFor} className="mb-1 block font-semibold">
        A job by number, box or customer; a sheet; a drawer
      </label>
      <input
        {...getInputProps({
          autoFocus: true,
          // At once, or letters typed fast are lost.
          onChange: (e) => setTyped(e.currentTarget.value),
        })}
        className="field"
        type="search"
      />
      <ul {...getMenuProps()} className="ruled mt-2">
        {found.map((item, index) => (
          <li
            key={`${item.to} ${item.what}`}
            {...getItemProps({ item, index })}
            className={`flex min-h-12 cursor-pointer flex-wrap items-center gap-x-3 px-2 py-1 wrap-anywhere ${index === highlightedIndex ? 'bg-blue-soft' : ''}`}
          >
            <strong>{item.name}</strong>
            <span className="text-sm text-dim">{item.what}</span>
          </li>
        ))}
      </ul>
      {found.length === 0 && (
        <p className="py-4" role="status">
          Nothing here has “{typed}” in it.
        </p>
      )}
    </>
  )
}
