// The selective stock by family: size, count on hand, set aside; in and out as CSV.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Drawer, type Refused, type Schemas } from '../api/client'
import { useDrawers } from '../api/hooks'
import { ImportFile } from '../ui/ImportFile'
import { Ask, Labelled, Loading, Trouble } from '../ui/Parts'
import { useBench } from '../ui/bench-state'
import { useTitle } from '../ui/title'
import { showStated, unitName } from '../ui/units'

type Size = Schemas['DrawerSize']

export function DrawersView() {
  useTitle('Drawers')
  const { data: drawers, error } = useDrawers()
  const { who } = useBench()
  const client = useQueryClient()
  const [editing, setEditing] = useState<{ drawer: Drawer; size: Size | null } | null>(null)
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-3 py-5">
        <div className="mr-auto">
          <h1 className="text-3xl">Drawers</h1>
          <p className="text-dim">Selective washers, shims, spacers and rings. Press a size to count it.</p>
        </div>
        <a className="press-quiet" href="/api/drawers.csv" download>
          Save as CSV
        </a>
        <ImportFile
          label="Take in CSV"
          accept=".csv,text/csv"
          done={(r: { rows: number }) => `${r.rows} sizes counted.`}
          send={(text) =>
            answer(
              server.POST('/api/drawers/import', {
                params: { header: { 'Idempotency-Key': writeKey() } },
                body: { text, who },
              }),
            )
          }
          onDone={() => void client.invalidateQueries()}
        />
      </div>
      <Trouble error={error as Refused | null} />
      {!drawers && !error && <Loading what="the drawers" />}
      {drawers?.length === 0 && (
        <p className="py-6 text-lg">
          There are no drawers yet. A spec sheet brings one for each family of selective parts that it names.
        </p>
      )}
      <div className="grid gap-x-10 lg:grid-cols-2">
        {drawers?.map((d) => (
          <DrawerTable key={d.key} drawer={d} onEdit={(size) => setEditing({ drawer: d, size })} />
        ))}
      </div>
      {editing && <CountSize {...editing} onClose={() => setEditing(null)} />}
    </main>
  )
}

function DrawerTable({ drawer, onEdit }: { drawer: Drawer; onEdit: (size: Size | null) => void }) {
  const { unit } = useBench()
  const places = [...new Set(drawer.sizes.map((s) => s.place).filter(Boolean))]
  return (
    <section id={drawer.key} aria-label={drawer.name} className="border-t-2 border-ink py-4">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-xl">{drawer.name}</h2>
        <p className="mr-auto text-dim">
          {drawer.key} · ± {showStated(drawer.tolerance_nm, unit)} {unitName[unit]}
          {places.length > 0 && ` · drawer ${places.join(', ')}`}
        </p>
        <button className="link min-h-12" onClick={() => onEdit(null)}>
          Add a size
        </button>
      </div>
      <ul className="mt-2 grid grid-cols-3 sm:grid-cols-5" aria-label={`Sizes of ${drawer.name}`}>
        {drawer.sizes.map((s) => (
          <li key={s.thickness_nm} className="border-r border-b border-line">
            <button
              className="block min-h-20 w-full p-2 text-left hover:bg-card"
              onClick={() => onEdit(s)}
              aria-label={`${showStated(s.thickness_nm, unit)} ${unitName[unit]}: ${s.on_hand} on hand, ${s.reserved} set aside${s.awaited ? `, ${s.awaited} awaited` : ''}${s.discontinued ? ', no longer made' : ''}`}
            >
              <span className={`figure block text-lg font-semibold ${s.on_hand === 0 ? 'text-dim' : ''}`}>
                {showStated(s.thickness_nm, unit)}
              </span>
              <Pieces size={s} />
              <span className="block text-sm text-dim">
                {s.on_hand === 0 ? 'none' : s.on_hand}
                {s.reserved > 0 && `, ${s.reserved} set aside`}
                {s.awaited > 0 && `, ${s.awaited} awaited`}
                {s.discontinued && ' · no longer made'}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** One stroke for each piece: solid free, hollow set aside. A gap in the range is a bare line. */
function Pieces({ size }: { size: Size }) {
  const most = 12
  const shown = Math.min(size.on_hand, most)
  return (
    <svg
      width="100%"
      height="18"
      viewBox="0 0 110 18"
      preserveAspectRatio="xMinYMid meet"
      aria-hidden="true"
      className="my-1"
    >
      <line x1="0" x2="110" y1="17" y2="17" stroke="var(--line)" strokeWidth="2" />
      {Array.from({ length: shown }, (_, i) => {
        const aside = i >= size.on_hand - size.reserved
        return (
          <rect
            key={i}
            x={i * 8 + 1}
            y="2"
            width="4.5"
            height="14"
            fill={aside ? 'none' : 'var(--ink)'}
            stroke="var(--ink)"
            strokeWidth="1.2"
          />
        )
      })}
      {size.on_hand > most && (
        <text x="98" y="13" fontSize="13" fill="var(--ink)">
          …
        </text>
      )}
    </svg>
  )
}

function CountSize({ drawer, size, onClose }: { drawer: Drawer; size: Size | null; onClose: () => void }) {
  const { unit, who } = useBench()
  const client = useQueryClient()
  const [thickness, setThickness] = useState(size ? `${size.thickness_nm / 1e6} mm` : '')
  const [count, setCount] = useState(String(size?.on_hand ?? ''))
  const [place, setPlace] = useState(size?.place ?? drawer.sizes.find((s) => s.place)?.place ?? '')
  const [discontinued, setDiscontinued] = useState(size?.discontinued ?? false)
  const [countFault, setCountFault] = useState('')
  const save = useMutation<Drawer[], Refused>({
    mutationFn: () =>
      answer(
        server.PUT('/api/drawers/{family}', {
          params: {
            path: { family: drawer.key },
            header: { 'Idempotency-Key': writeKey(), 'If-Match': `"${size?.version ?? 0}"` },
          },
          body: { thickness, unit, on_hand: Number(count), place, discontinued, who },
        }),
      ),
    onSuccess: (drawers) => {
      client.setQueryData(['drawers'], drawers)
      void client.invalidateQueries({ queryKey: ['gap'] })
      void client.invalidateQueries({ queryKey: ['job'] })
      onClose()
    },
  })
  const fault = (field: string) =>
    save.error?.problem.field === field ? save.error.problem.title : undefined
  return (
    <Ask
      open
      onClose={onClose}
      title={
        size
          ? `Count ${showStated(size.thickness_nm, unit)} ${unitName[unit]}, ${drawer.name.toLowerCase()}`
          : `Add a size to ${drawer.name.toLowerCase()}`
      }
    >
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          if (!/^\d{1,6}$/.test(count.trim())) {
            setCountFault('Count whole pieces, such as 4.')
            return
          }
          setCountFault('')
          save.mutate()
        }}
      >
        {!size && (
          <Labelled label="Thickness" error={fault('thickness')}>
            {(id) => (
              <input
                id={id}
                className="field figure"
                value={thickness}
                placeholder={`in ${unitName[unit]}`}
                onChange={(e) => setThickness(e.target.value)}
              />
            )}
          </Labelled>
        )}
        <Labelled
          label="How many are in the drawer"
          hint={size?.reserved ? `${size.reserved} of them set aside for checks; they count too.` : undefined}
          error={countFault || fault('on_hand')}
        >
          {(id) => (
            <input
              id={id}
              className="field figure"
              inputMode="numeric"
              value={count}
              onChange={(e) => setCount(e.target.value)}
            />
          )}
        </Labelled>
        <Labelled label="Where the drawer is">
          {(id) => (
            <input id={id} className="field" value={place} onChange={(e) => setPlace(e.target.value)} />
          )}
        </Labelled>
        <label className="mb-4 flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6"
            checked={discontinued}
            onChange={(e) => setDiscontinued(e.target.checked)}
          />
          This size is no longer made
        </label>
        {!fault('thickness') && !fault('on_hand') && <Trouble error={save.error} />}
        <div className="flex justify-end gap-3">
          <button type="button" className="press-quiet" onClick={onClose}>
            Leave it
          </button>
          <button className="press" disabled={save.isPending}>
            Keep the count
          </button>
        </div>
      </form>
    </Ask>
  )
}
