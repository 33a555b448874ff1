// The selective stock by family: what there is along the range, size by size; in and out as CSV.
import { useState } from 'react'
import { Link } from 'react-router'
import type { Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { useDrawers } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { useRoving } from '../../ui/roving'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { dayText, gradeWords, showStated, unitName } from '../../domain/units'
import { Conflicts } from './Conflicts'
import { DoneLine, type Done } from './DoneLine'
import { DrawerScale } from '../../charts/DrawerScale'
import { MikePiece } from './MikePiece'
import { Moves } from './Moves'
import { AddSizes, NewDrawer } from './NewDrawer'
import { SizeCard } from './SizeCard'
import { StockTaking } from './StockTaking'
import { TakeIn } from './TakeIn'

type Size = Schemas['DrawerSize']

/** What is laid over the drawers. */
type Over = { drawer: string; size: Pick<Size, 'thickness_nm' | 'grade'> | null; miking?: boolean }

export function DrawersView() {
  useTitle('Drawers')
  const { data, error } = useDrawers()
  const drawers = useSoon(data)
  const [over, setOver] = useState<Over | null>(null)
  const [opening, setOpening] = useState(false)
  const [done, setDone] = useState<Done | null>(null)
  const drawer = drawers?.find((d) => d.key === over?.drawer)
  const size = drawer?.sizes.find(
    (s) => s.thickness_nm === over?.size?.thickness_nm && s.grade === over.size.grade,
  )
  const finish = (what: Done) => {
    setDone(what)
    setOver(null)
    setOpening(false)
  }
  const props = { onClose: () => setOver(null), onDone: finish }
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <div className="flex flex-wrap items-end gap-3 py-5">
        <div className="mr-auto min-w-0 wrap-anywhere">
          <h1 className="text-3xl">Drawers</h1>
          <p className="text-dim">
            Selective washers, shims, spacers and rings. Press a size to count, take, order or measure it.
          </p>
        </div>
        <button className="press-quiet" onClick={() => setOpening(true)}>
          Open a drawer
        </button>
        <a className="press-quiet" href="/api/drawers.csv" download>
          Save as CSV
        </a>
        <TakeIn onDone={(said) => setDone({ said })} />
      </div>
      {done && <DoneLine key={done.actKey ?? done.said} done={done} onUndone={setDone} />}
      <Trouble error={error as Refused | null} />
      {!drawers && !error && <Loading what="the drawers" />}
      {drawers?.length === 0 && (
        <p className="py-6 text-lg">
          There are no drawers yet. A spec sheet brings one for each family of selective parts that it names;
          or open one here.
        </p>
      )}
      {drawers && drawers.length > 1 && <JumpList drawers={drawers} />}
      <div className="grid gap-x-10 lg:grid-cols-2">
        {drawers?.map((d) => (
          <DrawerTable
            key={d.key}
            drawer={d}
            onEdit={(size, miking) => setOver({ drawer: d.key, size, miking })}
            onDone={finish}
          />
        ))}
      </div>
      {drawer && over?.miking && <MikePiece drawer={drawer} {...props} />}
      {drawer && !over?.miking && !over?.size && <AddSizes drawer={drawer} {...props} />}
      {opening && <NewDrawer onClose={() => setOpening(false)} onDone={finish} />}
      {drawer && size && <SizeCard key={`${drawer.key} ${size.version}`} {...{ drawer, size }} {...props} />}
    </main>
  )
}

/** One press to each drawer. */
function JumpList({ drawers }: { drawers: Drawer[] }) {
  return (
    <nav aria-label="Drawers" className="no-print mb-4 flex flex-wrap gap-x-5">
      {drawers.map((d) => (
        <a
          key={d.key}
          className="link inline-flex min-h-11 items-center"
          href={`#${d.key}`}
          onClick={(e) => {
            e.preventDefault()
            const section = document.getElementById(d.key)
            section?.scrollIntoView()
            const size = section?.querySelector<HTMLElement>('ul button[tabindex="0"]')
            const first = size ?? section?.querySelector<HTMLElement>('button')
            first?.focus({ preventScroll: true })
          }}
        >
          {d.name}
        </a>
      ))}
    </nav>
  )
}

function DrawerTable({
  drawer,
  onEdit,
  onDone,
}: {
  drawer: Drawer
  onEdit: (size: Size | null, miking?: boolean) => void
  onDone: (done: Done) => void
}) {
  const { unit } = useBench()
  const [counting, setCounting] = useState(false)
  const roving = useRoving()
  const places = [...new Set(drawer.sizes.map((s) => s.place).filter(Boolean))]
  // A measured piece that has gone leaves no place behind.
  const sizes = drawer.sizes.filter((s) => s.grade === 'marked' || s.on_hand > 0)
  return (
    <section id={drawer.key} aria-label={drawer.name} className="far border-t-2 border-ink py-4">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-xl">{drawer.name}</h2>
        <p className="mr-auto text-dim">
          {drawer.key} · marked to ± {showStated(drawer.tolerance_nm, unit)} {unitName[unit]}
          {places.length > 0 && ` · drawer ${places.join(', ')}`}
        </p>
        <button className="link min-h-12" onClick={() => onEdit(null, true)}>
          Put in a measured piece
        </button>
        <button className="link min-h-12" onClick={() => onEdit(null)}>
          Add sizes
        </button>
        {sizes.length > 0 && !counting && (
          <button className="link min-h-12" onClick={() => setCounting(true)}>
            Count it through
          </button>
        )}
      </div>
      <Figures drawer={drawer} />
      <Conflicts family={drawer.key} />
      <DrawerScale drawer={{ ...drawer, sizes }} />
      {counting ? (
        <StockTaking {...{ drawer, sizes, onDone }} onClose={() => setCounting(false)} />
      ) : (
        <ul
          className="mt-2 grid grid-cols-3 sm:grid-cols-5"
          aria-label={`Sizes of ${drawer.name}`}
          {...roving.list}
        >
          {sizes.map((s, i) => (
            <li key={`${s.thickness_nm} ${s.grade}`} className="border-r border-b border-line">
              <SizeTile size={s} tabIndex={roving.tabIndex(i, sizes.length)} onPress={() => onEdit(s)} />
            </li>
          ))}
        </ul>
      )}
      <Moves family={drawer.key} />
    </section>
  )
}

/** Where the drawer's limits come from, once they have changed. */
function Figures({ drawer: { figures } }: { drawer: Drawer }) {
  if (figures.revision === 1) return null
  return (
    <p className="text-sm text-dim">
      Figures: revision {figures.revision}, by{' '}
      <Link className="link" to={`/sheets/${figures.sheet_key}`}>
        sheet {figures.sheet_key}
      </Link>{' '}
      revision {figures.sheet_revision}, {figures.who}, {dayText(figures.at)}
    </p>
  )
}

function SizeTile({ size, tabIndex, onPress }: { size: Size; tabIndex: number; onPress: () => void }) {
  const { unit } = useBench()
  const grade = gradeWords[size.grade]
  const more = [
    size.reserved > 0 && `${size.reserved} set aside`,
    size.awaited > 0 && `${size.awaited} awaited`,
    size.on_order > 0 && `${size.on_order} on order`,
  ].filter(Boolean)
  const label = [
    `${showStated(size.thickness_nm, unit)} ${unitName[unit]}: ${size.on_hand} on hand`,
    `${size.reserved} set aside`,
    ...more.slice(size.reserved > 0 ? 1 : 0),
    grade,
    size.discontinued && 'no longer made',
  ]
  return (
    <button
      className="block min-h-16 w-full p-2 text-left hover:bg-card"
      tabIndex={tabIndex}
      onClick={onPress}
      aria-label={label.filter(Boolean).join(', ')}
    >
      <span className={`figure block text-lg font-semibold ${size.on_hand === 0 ? 'text-dim' : ''}`}>
        {showStated(size.thickness_nm, unit)}
      </span>
      <span className="block text-sm text-dim">
        {[size.on_hand === 0 ? 'none' : String(size.on_hand), ...more].join(', ')}
        {grade && ` · ${grade}`}
        {size.nominal_nm != null && ` · marked ${showStated(size.nominal_nm, unit)}`}
        {size.discontinued && ' · no longer made'}
      </span>
    </button>
  )
}
