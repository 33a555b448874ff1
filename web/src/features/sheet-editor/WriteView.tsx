// A spec sheet written in the program: the rail drawn as it is typed, every fault at its field.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Tabs } from 'radix-ui'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import type { Refused } from '../../api/client'
import { sheetFileQuery, useSheet } from '../../api/queries'
import { Loading, Trouble } from '../../ui/Parts'
import { focusOnceDrawn } from '../../ui/focus'
import { ShaftRail } from '../../charts/ShaftRail'
import { useTitle } from '../../ui/title'
import { useSoon } from '../../ui/soon'
import { whenText } from '../../domain/units'
import { About } from './About'
import { Build } from './Build'
import { Checks, freshCheck } from './Checks'
import { Doubts } from './Doubts'
import { Items } from './Items'
import { Keep } from './Keep'
import { Packs } from './Packs'
import { Pieces } from './Pieces'
import { Shafts } from './Shafts'
import { Variants } from './Variants'
import { blank, copied, unitSign, type Sheet } from './draft'
import { Writing, keepDraft, keptDraft, useDraft, useLook, type Kept } from './writing'

/** A new sheet, a copy of one, or one that is there. */
export function WriteView() {
  const { sheetKey } = useParams()
  const [search] = useSearchParams()
  const from = sheetKey ?? search.get('copy') ?? ''
  const revision = Number(search.get('from')) || undefined
  const { data: there } = useSheet(from)
  const { data: fetched, error } = useQuery(sheetFileQuery(from, revision))
  const data = useSoon(fetched)
  if (!data && error) return <Trouble error={error as unknown as Refused} />
  if (from && (!data || !there)) return <Loading what="the sheet" />
  const start = !data ? blank() : sheetKey ? data : copied(data)
  const name = sheetKey ?? (from ? `copy of ${from}` : 'new')
  return <Open key={name} name={name} start={start} over={sheetKey ? (there?.revision ?? 0) : 0} />
}

/** Looks for what was written before and not kept. */
function Open({ name, start, over }: { name: string; start: Sheet; over: number }) {
  const [before] = useState(() => keptDraft(name))
  const [fresh, setFresh] = useState(0)
  const on = fresh === 0 ? before : null
  return (
    <Write
      key={fresh}
      name={name}
      start={on?.sheet ?? start}
      over={on?.over ?? over}
      isNew={over === 0}
      before={on}
      startAfresh={() => {
        keepDraft(name, null)
        setFresh(fresh + 1)
      }}
    />
  )
}

const TABS = ['Box', 'Identity', 'Shafts', 'Parts', 'Pieces', 'Checks', 'Packs', 'Build'] as const
type Tab = (typeof TABS)[number]
const tabOf: Record<string, Tab> = {
  variants: 'Identity',
  identify: 'Identity',
  shafts: 'Shafts',
  families: 'Pieces',
  checks: 'Checks',
  packs: 'Packs',
  items: 'Parts',
  positions: 'Parts',
  gears: 'Parts',
  input_turns: 'Parts',
  look_at: 'Parts',
  build: 'Build',
}

interface Props {
  name: string
  start: Sheet
  over: number
  isNew: boolean
  before: Kept | null
  startAfresh: () => void
}

function Write({ name, start, over, isNew, before, startAfresh }: Props) {
  const { draft, put, nameIt, rest, undo, redo } = useDraft(start)
  const { rail, packs, proposed, faults, list, doubts, faultsNow, lost, trouble } = useLook(draft)
  const [tab, setTab] = useState<Tab>(isNew && !before ? 'Box' : 'Shafts')
  const [shown, setShown] = useState<Record<string, number>>({})
  const [showAll, setShowAll] = useState(false)
  const [shelved, setShelved] = useState(true)
  const navigate = useNavigate()
  const client = useQueryClient()
  const title = draft.name || 'A new sheet'
  useTitle(`${title}, being written`)
  // Kept on this machine soon after each change.
  useEffect(() => {
    if (draft === start) return
    const timer = setTimeout(
      () => setShelved(keepDraft(name, { sheet: draft, over, at: new Date().toISOString() })),
      250,
    )
    return () => clearTimeout(timer)
  }, [draft, start, name, over])
  useKeys(undo, redo)
  useEffect(() => {
    if (isNew && !before) document.getElementById('/name')?.focus()
  }, [isNew, before])
  const open = useCallback((tab: Tab, index?: number) => {
    setTab(tab)
    if (index !== undefined) setShown((s) => ({ ...s, [tab]: index }))
  }, [])
  /** Goes to a place of the sheet, as its faults name them. */
  const goTo = (place: string) => {
    const [, section = '', index] = place.split('/')
    open(tabOf[section] ?? 'Box', index === undefined ? undefined : Number(index))
    setShowAll(true)
    requestAnimationFrame(() =>
      requestAnimationFrame(() => {
        const field =
          document.getElementById(place) ?? document.querySelector<HTMLElement>(`[id^="${place}/"]`)
        field?.focus()
        field?.scrollIntoView({ block: 'center' })
      }),
    )
  }
  const show = useCallback((index: number) => open(tab, index), [open, tab])
  const at = shown[tab] ?? 0
  const latest = useRef(draft)
  useEffect(() => {
    latest.current = draft
  })
  const cut = useCallback(
    (shaft: number, part: number) => {
      const now = latest.current
      const [left, right] = now.shafts[shaft]?.parts.slice(part, part + 2) ?? []
      if (!left || !right) return
      put('/checks', [...now.checks, freshCheck(now, [left.key, right.key])])
      open('Checks', now.checks.length)
      focusOnceDrawn(`/checks/${now.checks.length}/name`)
    },
    [put, open],
  )
  const onPart = useCallback(
    (key: string) => {
      const shaft = latest.current.shafts.findIndex((s) => s.parts.some((p) => p.key === key))
      const part = latest.current.shafts[shaft]?.parts.findIndex((p) => p.key === key)
      open('Shafts', shaft)
      requestAnimationFrame(() =>
        document.getElementById(`/shafts/${shaft}/parts/${part ?? 0}/width`)?.focus(),
      )
    },
    [open],
  )
  const onCut = useCallback(
    (key: string) =>
      open(
        'Checks',
        latest.current.checks.findIndex((c) => c.key === key),
      ),
    [open],
  )
  const checks = useMemo(
    () =>
      draft.checks.map((c) => ({
        check_key: c.key,
        name: c.name,
        phase: 'measure' as const,
        call: null,
        shown_nm: null,
        label:
          c.kind === 'pass_fail'
            ? 'yes or no'
            : limits(c.window) || (c.chart && c.set_by ? 'by the chart' : 'no window yet'),
      })),
    [draft.checks],
  )
  const writing = useMemo(
    () => ({ put, nameIt, rest, unit: unitSign[draft.unit], showAll }),
    [put, nameIt, rest, draft.unit, showAll],
  )
  // Not drawn again where only the drawing above is: a key pressed asks for both, one after the other.
  const panel = useMemo(
    () => (
      <>
        {tab === 'Box' && <About sheet={draft} {...{ faults, isNew }} />}
        {tab === 'Identity' && <Variants sheet={draft} faults={faults} />}
        {tab === 'Shafts' && <Shafts sheet={draft} {...{ faults, show, cut }} shown={at} />}
        {tab === 'Pieces' && <Pieces sheet={draft} {...{ faults, show }} shown={at} />}
        {tab === 'Checks' && <Checks sheet={draft} {...{ faults, show }} shown={at} />}
        {tab === 'Packs' && <Packs sheet={draft} drawn={packs} {...{ faults, show }} shown={at} />}
        {tab === 'Build' && <Build sheet={draft} {...{ faults, show, proposed }} shown={at} />}
        {tab === 'Parts' && <Items sheet={draft} faults={faults} />}
      </>
    ),
    [tab, draft, faults, isNew, show, cut, at, packs, proposed],
  )
  return (
    <Writing.Provider value={writing}>
      <main className="mx-auto max-w-[90rem] px-3 pb-24 sm:px-6">
        <div className="flex flex-wrap items-end gap-3 py-4">
          <div className="mr-auto min-w-0 wrap-anywhere">
            <h1 className="text-2xl">{title}</h1>
            <p className="text-dim" role="status">
              {over > 0 ? `Written over revision ${over}. ` : 'A new sheet. '}
              {lost
                ? 'The server does not answer; what is typed is kept on this machine.'
                : shelved
                  ? 'Kept on this machine as you type, until it is kept as a revision.'
                  : 'This browser keeps nothing: do not close the window before it is kept.'}
            </p>
          </div>
          <button className="press-quiet" disabled={!undo} onClick={undo}>
            Undo
          </button>
          <button className="press-quiet" disabled={!redo} onClick={redo}>
            Redo
          </button>
          <Doubts {...{ draft, doubts, goTo }} />
          <Keep
            {...{ draft, over, list, faultsNow, lost, goTo }}
            onTried={() => setShowAll(true)}
            onKept={(key) => {
              keepDraft(name, null)
              void client.invalidateQueries()
              void navigate(`/sheets/${key}`)
            }}
          />
        </div>
        <Trouble error={trouble} />
        {before && (
          <p className="mb-3 flex flex-wrap items-center gap-3 border-l-4 border-blue bg-card px-4 py-2">
            You go on with what was written on {whenText(before.at)} and not kept.
            <button className="press-quiet" onClick={startAfresh}>
              Begin from {isNew ? 'nothing' : 'the newest revision'} instead
            </button>
          </p>
        )}
        <section
          aria-label="Shafts, drawn"
          tabIndex={0}
          className={`z-10 max-h-[38vh] ${rail ? '' : 'min-h-[38vh]'} overflow-y-auto border-y border-line bg-paper py-2 ${tab === 'Shafts' || tab === 'Checks' ? 'sticky top-0 will-change-transform' : ''}`}
          hidden={
            tab === 'Packs' ||
            tab === 'Identity' ||
            (tab === 'Box' && !draft.shafts.some((s) => s.parts.length > 0))
          }
        >
          {rail && (
            <ShaftRail
              {...{ rail, checks, onPart, onCut }}
              next={tab === 'Checks' ? draft.checks[at]?.key : null}
              only={onlyOf(draft, tab, at)}
            />
          )}
        </section>
        <Tabs.Root value={tab} onValueChange={(t) => setTab(t as Tab)}>
          <Tabs.List aria-label="Parts of the sheet" className="my-3 flex flex-wrap border-b-2 border-ink">
            {TABS.map((t) => (
              <Tabs.Trigger
                key={t}
                value={t}
                className="min-h-12 px-4 font-semibold data-[state=inactive]:hover:bg-card data-[state=active]:bg-ink data-[state=active]:text-paper"
              >
                {t}
                {counts(draft)[t] !== undefined && (
                  <span className="ml-2 font-normal">{counts(draft)[t]}</span>
                )}
              </Tabs.Trigger>
            ))}
            <p className="ml-auto self-center text-sm text-dim max-lg:hidden">
              <kbd>Esc</kbd> leads from a field back here
            </p>
          </Tabs.List>
          <Tabs.Content
            value={tab}
            aria-label={tab}
            className="[&_.field]:scroll-mt-[42vh]"
            onKeyDown={(e) => {
              const panel = e.currentTarget
              // Dialogs opened from here lie elsewhere on the page, and have an Escape of their own.
              if (e.defaultPrevented || !panel.contains(e.target as Node)) return
              if (e.key === 'Enter' && goOn(panel, e.target)) e.preventDefault()
              if (e.key === 'Escape')
                panel.parentElement?.querySelector<HTMLElement>('[role=tab][aria-selected=true]')?.focus()
            }}
          >
            {panel}
          </Tabs.Content>
        </Tabs.Root>
      </main>
    </Writing.Provider>
  )
}

/** From a field to the next one that must be filled in, or to what adds to a list. Whether there is one. */
function goOn(panel: HTMLElement, from: EventTarget): boolean {
  if (!(from instanceof HTMLInputElement || from instanceof HTMLSelectElement) || from.form) return false
  const stops = [...panel.querySelectorAll<HTMLElement>('.field:not([data-optional]), button[data-adds]')]
  const next = stops.find((e) => from.compareDocumentPosition(e) & Node.DOCUMENT_POSITION_FOLLOWING)
  next?.focus()
  return next !== undefined
}

const counts = (sheet: Sheet): Partial<Record<Tab, number>> => ({
  Identity: sheet.variants?.length ?? 0,
  Shafts: sheet.shafts.length,
  Pieces: sheet.families?.length ?? 0,
  Checks: sheet.checks.length,
  Packs: sheet.packs?.length ?? 0,
  Build: sheet.build?.length ?? 0,
  Parts: sheet.items?.length ?? 0,
})

/** A window as it is written, without its units. */
const limits = (window: Sheet['checks'][number]['window']) => {
  const [low, high] = [window?.low, window?.high].map((limit) => limit?.replace(/[^\d.,/−-]+$/, ''))
  // A preload is said, never shown as less than nothing.
  const below = /^[-−]/
  if (low && high && below.test(low) && /^[-−]|^0*[.,]?0*$/.test(high))
    return `${high.replace(below, '')} to ${low.replace(below, '')} p`
  if (low && high) return `${low} to ${high}`
  return low ? `${low} or more` : high && `up to ${high}`
}

/** The shaft that is being worked on, where one is: it alone is drawn. */
function onlyOf(sheet: Sheet, tab: Tab, at: number): string | undefined {
  if (tab === 'Shafts') return sheet.shafts[at]?.key
  const part = tab === 'Checks' ? sheet.checks[at]?.between?.[0] : undefined
  return sheet.shafts.find((s) => s.parts.some((p) => p.key === part))?.key
}

/** Ctrl+Z and Ctrl+Y, or with Shift. */
function useKeys(undo: (() => void) | undefined, redo: (() => void) | undefined) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return
      const key = event.key.toLowerCase()
      const back = key === 'z' && !event.shiftKey
      const forth = key === 'y' || (key === 'z' && event.shiftKey)
      if (!back && !forth) return
      event.preventDefault()
      // What is half typed in the field is in the sheet already.
      if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur()
      if (back) undo?.()
      else redo?.()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [undo, redo])
}
