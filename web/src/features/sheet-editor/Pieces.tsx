// The families of selective pieces: each is a drawer, shared by the sheets that name it.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, type Refused } from '../../api/client'
import { useDrawers } from '../../api/queries'
import type { Unit } from '../../domain/schema'
import { Labelled } from '../../ui/Parts'
import { showStated } from '../../domain/units'
import { Cell, type Column } from './Cell'
import { Chips } from './Chips'
import { Rows } from './Rows'
import { freshKey, type Sheet } from './draft'
import { PART_KINDS } from './names'
import { useWriting } from './writing'

const FIELDS: readonly Column[] = [
  { field: 'name', label: 'What the pieces are called', as: 'text', names: true },
  { field: 'kind', label: 'Kind', as: 'choice', options: PART_KINDS },
  { field: 'tolerance', label: 'How far one may be off its mark, ±', as: 'length' },
]
const SIZES: readonly Column[] = [
  { field: 'thickness', label: 'Thickness', as: 'length' },
  { field: 'number', label: 'Maker’s number', as: 'text', optional: true },
  { field: 'discontinued', label: 'No longer made', as: 'tick', track: '9rem' },
]

/** The bench's units, by their signs; what is in inches is typed with its sign. */
const UNIT_OF: Record<string, Unit> = { mm: 'mm', µm: 'um', thou: 'thou' }

interface Props {
  sheet: Sheet
  faults: Map<string, string>
  shown: number
  show: (index: number) => void
}

export function Pieces({ sheet, faults, shown, show }: Props) {
  const { put } = useWriting()
  const families = sheet.families ?? []
  const family = families[shown]
  const of = `/families/${shown}`
  return (
    <>
      <Chips
        of="/families"
        label="Families of pieces"
        names={families.map((f) => f.name)}
        faulty={(i) => [...faults.keys()].some((place) => place.startsWith(`/families/${i}/`))}
        noun="family"
        {...{ shown, show }}
        add={() => {
          put('/families', [
            ...families,
            { key: freshKey(sheet), name: '', kind: 'shim', tolerance: '', sizes: [] },
          ])
          show(families.length)
        }}
        move={(order) =>
          put(
            '/families',
            order.map((i) => families[i]),
          )
        }
      />
      <FromDrawers sheet={sheet} onTaken={() => show(families.length)} />
      {family && (
        <>
          <div className="my-4 grid max-w-4xl gap-x-6 gap-y-3 sm:grid-cols-3">
            {FIELDS.map((column) => (
              <Cell
                key={column.field}
                {...{ column, of }}
                value={family[column.field as keyof typeof family]}
                fault={faults.get(`${of}/${column.field}`)}
                labelled
              />
            ))}
          </div>
          <h2 className="text-lg">The sizes made</h2>
          <Several
            add={(sizes) => {
              const there = new Set(family.sizes?.map((s) => s.thickness.replace(/\s/g, '')))
              const fresh = sizes.filter((s) => !there.has(s.replace(/\s/g, '')))
              put(`${of}/sizes`, [...(family.sizes ?? []), ...fresh.map((thickness) => ({ thickness }))])
            }}
          />
          <div className="max-w-3xl">
            <Rows
              of={`${of}/sizes`}
              rows={family.sizes}
              columns={SIZES}
              noun="size"
              faults={faults}
              optional
              fresh={() => ({ thickness: '' })}
            />
          </div>
        </>
      )}
    </>
  )
}

/** Sizes as catalogues write them, several in one line. */
function Several({ add }: { add: (sizes: string[]) => void }) {
  const { unit } = useWriting()
  const [typed, setTyped] = useState('')
  const of = UNIT_OF[unit] ?? 'mm'
  const read = useMutation<number[], Refused>({
    mutationFn: () => answer(server.POST('/api/calc/sizes', { body: { sizes: typed, unit: of } })),
    onSuccess: (sizes) => {
      add(sizes.map((nm) => `${showStated(nm, of)} ${unit}`))
      setTyped('')
    },
  })
  return (
    <form
      className="mt-1 max-w-3xl"
      noValidate
      onSubmit={(e) => {
        e.preventDefault()
        read.mutate()
      }}
    >
      <Labelled
        label="Several at once"
        hint="From to by, and single ones after a semicolon: 1.10 to 1.25 by 0.05; 1.40"
        error={read.error?.problem.title}
      >
        {(id) => (
          <span className="flex gap-2">
            <input
              id={id}
              className="field figure"
              value={typed}
              placeholder={`in ${unit}`}
              autoComplete="off"
              maxLength={1000}
              onChange={(e) => setTyped(e.target.value)}
            />
            <button className="press-quiet shrink-0" disabled={!typed.trim() || read.isPending}>
              Add them
            </button>
          </span>
        )}
      </Labelled>
    </form>
  )
}

/** A drawer that is there already, from another sheet. */
function FromDrawers({ sheet, onTaken }: { sheet: Sheet; onTaken: () => void }) {
  const { put } = useWriting()
  const { data: drawers = [] } = useDrawers()
  const families = sheet.families ?? []
  const others = drawers.filter((d) => !families.some((f) => f.key === d.key))
  if (others.length === 0) return null
  return (
    <label className="mt-3 flex max-w-xl flex-wrap items-center gap-3">
      <span className="text-dim">Or use a drawer that is there:</span>
      <select
        className="field w-auto"
        value=""
        onChange={(e) => {
          const drawer = others.find((d) => d.key === e.target.value)
          if (!drawer) return
          const sizes = [
            ...new Set(drawer.sizes.filter((s) => s.grade === 'marked').map((s) => s.thickness_nm)),
          ]
          put('/families', [
            ...families,
            {
              key: drawer.key,
              name: drawer.name,
              kind: drawer.kind,
              tolerance: `${showStated(drawer.tolerance_nm, 'mm')} mm`,
              sizes: sizes.map((nm) => ({ thickness: `${showStated(nm, 'mm')} mm` })),
            },
          ])
          onTaken()
        }}
      >
        <option value="">choose</option>
        {others.map((d) => (
          <option key={d.key} value={d.key}>
            {d.name}
          </option>
        ))}
      </select>
    </label>
  )
}
