// A list of things of one kind, a row each: typed along, moved, taken out. Enter goes on to the next field that must be
// filled in, and from the last of the last row to a new one; Alt with an arrow moves the row.
import { memo, useEffect, useRef, type KeyboardEvent, type ReactNode } from 'react'
import { Cell, type Column } from './Cell'
import { useWriting } from './writing'

type Row = Record<string, unknown>

interface Props {
  /** The place of the list. */
  of: string
  rows: readonly unknown[] | undefined
  columns: readonly Column[]
  /** A row with nothing in it. */
  fresh: () => Row
  /** What one is called, such as “part”. */
  noun: string
  faults: Map<string, string>
  /** The list is left out of the sheet where it is empty. */
  optional?: boolean
  /** What else can be done with a row. Stays the same function. */
  more?: (row: Row, index: number) => ReactNode
}

/** So many rows are left out of layout and painting together while none of them is in sight: each on its own
 *  would be a layer of its own to weigh up at every key. */
const TOGETHER = 8
/** A list that takes no time to draw. */
const SHORT = 4 * TOGETHER

/** The fields of a row that must be filled in. */
const wanted = (columns: readonly Column[]) => columns.filter((c) => !c.optional && c.as !== 'tick')

const nameOf = (row: Row) =>
  [row.name, row.what, row.tick, row.thickness].find((n) => typeof n === 'string' && n)

export function Rows({ of, rows = [], columns, fresh, noun, faults, optional, more }: Props) {
  const { put, showAll } = useWriting()
  const list = rows as Row[]
  // Rows that did not change are not drawn again, and still work on the list as it is now.
  const latest = useRef(list)
  useEffect(() => {
    latest.current = list
  })
  const set = (next: Row[]) => put(of, optional && next.length === 0 ? undefined : next)
  const focus = (index: number, field: string) =>
    // After the row is drawn.
    requestAnimationFrame(() => document.getElementById(`${of}/${index}/${field}`)?.focus())
  const add = (field = columns[0]?.field ?? '') => {
    set([...list, fresh()])
    focus(list.length, field)
  }
  const move = (from: number, by: number, field?: string) => {
    const to = from + by
    const next = [...latest.current]
    if (to < 0 || to >= next.length) return
    const [row] = next.splice(from, 1)
    if (row) next.splice(to, 0, row)
    set(next)
    if (field) focus(to, field)
  }
  const onKey = (event: KeyboardEvent<HTMLDivElement>) => {
    const id = event.target instanceof HTMLElement ? event.target.id : ''
    if (!id.startsWith(`${of}/`)) return
    const [index, field] = id.slice(of.length + 1).split('/')
    if (index === undefined || field === undefined) return
    if (event.key === 'Enter' && !(event.target instanceof HTMLButtonElement)) {
      event.preventDefault()
      const next = wanted(columns.slice(columns.findIndex((c) => c.field === field) + 1))[0]
      if (next) focus(Number(index), next.field)
      else if (Number(index) === list.length - 1) add()
      else focus(Number(index) + 1, columns[0]?.field ?? field)
    }
    if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault()
      move(Number(index), event.key === 'ArrowUp' ? -1 : 1, field)
    }
  }
  const tracks = `${columns.map((c) => c.track ?? 'minmax(0,1fr)').join(' ')} auto`
  const own = faults.get(of)
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- keys bubble up from the fields in it
    <div onKeyDown={onKey} style={{ '--tracks': tracks } as React.CSSProperties}>
      {list.length > 0 && (
        <div
          aria-hidden="true"
          className="hidden gap-2 text-sm font-semibold lg:grid lg:grid-cols-[var(--tracks)]"
        >
          {columns.map((c) => (
            <span key={c.field}>{c.label}</span>
          ))}
          <span className="w-[11rem]" />
        </div>
      )}
      {Array.from({ length: Math.ceil(list.length / TOGETHER) }, (_, g) => (
        <div
          key={g}
          // A short list is drawn whole: what is guessed of its height would move what is pressed below it.
          className={list.length > SHORT ? '[content-visibility:auto]' : undefined}
          style={{
            containIntrinsicBlockSize: `auto ${4 * Math.min(TOGETHER, list.length - g * TOGETHER)}rem`,
          }}
        >
          {list.slice(g * TOGETHER, (g + 1) * TOGETHER).map((row, j) => {
            const i = g * TOGETHER + j
            return (
              <OneRow
                key={i}
                {...{ of, row, columns, noun, more }}
                index={i}
                last={i === list.length - 1}
                faults={faultsUnder(faults, `${of}/${i}/`)}
                move={move}
                remove={(at) => set(latest.current.filter((_, k) => k !== at))}
              />
            )
          })}
        </div>
      ))}
      {own && (showAll || list.length > 0) && <p className="mt-1 font-semibold text-oxide">{own}</p>}
      <button type="button" data-adds="" className="press-quiet mt-2" onClick={() => add()}>
        Add a {noun}
      </button>
    </div>
  )
}

/** The faults of a row's own fields, as text so that two alike are the same. */
const faultsUnder = (faults: Map<string, string>, prefix: string) => {
  const own = [...faults].filter(([place]) => place.startsWith(prefix))
  return own.length === 0 ? '' : JSON.stringify(own.map(([p, m]) => [p.slice(prefix.length), m]))
}

interface RowProps {
  of: string
  row: Row
  index: number
  last: boolean
  columns: readonly Column[]
  noun: string
  faults: string
  more?: Props['more']
  move: (from: number, by: number) => void
  remove: (at: number) => void
}

const OneRow = memo(
  function OneRow({ of, row, index, last, columns, noun, faults, more, move, remove }: RowProps) {
    const mine = new Map<string, string>(faults ? (JSON.parse(faults) as [string, string][]) : [])
    const name = nameOf(row)
    const thing = typeof name === 'string' && name ? `${noun} ${index + 1}, ${name}` : `${noun} ${index + 1}`
    const small = 'min-h-12 min-w-11 px-1 font-bold hover:bg-card disabled:opacity-30'
    return (
      <div
        role="group"
        aria-label={thing}
        className="grid grid-cols-2 items-start gap-x-2 gap-y-1 border-b border-line py-1.5 lg:grid-cols-[var(--tracks)]"
      >
        {columns.map((column) => (
          <Cell
            key={column.field}
            {...{ column, thing }}
            of={`${of}/${index}`}
            value={row[column.field]}
            fault={mine.get(column.field)}
          />
        ))}
        <div className="flex items-center justify-end lg:w-[11rem]">
          {more?.(row, index)}
          <button
            type="button"
            className={small}
            disabled={index === 0}
            aria-label={`Move ${thing} up`}
            onClick={() => move(index, -1)}
          >
            ↑
          </button>
          <button
            type="button"
            className={small}
            disabled={last}
            aria-label={`Move ${thing} down`}
            onClick={() => move(index, 1)}
          >
            ↓
          </button>
          <button
            type="button"
            className={small}
            aria-label={`Take out ${thing}`}
            onClick={() => remove(index)}
          >
            ×
          </button>
        </div>
      </div>
    )
  },
  (a, b) =>
    a.row === b.row &&
    a.index === b.index &&
    a.last === b.last &&
    a.of === b.of &&
    a.columns === b.columns &&
    a.faults === b.faults &&
    a.more === b.more,
)
