import { PersistQueryClientProvider } from '@tanstack/react-query-persist-client'
import { useEffect, useMemo, useState } from 'react'
import { Outlet, RouterProvider, ScrollRestoration, createBrowserRouter, useNavigation } from 'react-router'
import { useShop } from '../api/queries'
import type { Unit } from '../domain/schema'
import { Bench, keep, kept, type Theme } from '../domain/session'
import { WhoWhereNeeded } from '../ui/AskWho'
import { NoticesProvider } from '../ui/Notices'
import { LeftOut } from './LeftOut'
import { Loading } from '../ui/Parts'
import { Arrival } from './Arrival'
import { Header } from './Header'
import { client } from './asked'
import { KEPT_MS, beginSending, isKept, persister } from './seen'
import { routes } from './views'

beginSending(client)

const isUnit = (text: string | null): text is Unit => text === 'thou' || text === 'mm' || text === 'um'

function BenchProvider({ children }: { children: React.ReactNode }) {
  const { data: shop } = useShop()
  const [chosenUnit, setChosenUnit] = useState(kept('unit'))
  const [who, setWhoState] = useState(kept('who') ?? '')
  const [theme, setThemeState] = useState<Theme>(() => {
    const choice = kept('theme')
    if (choice === 'light' || choice === 'dark') return choice
    return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
  })
  useEffect(() => {
    document.documentElement.dataset.theme = theme
  }, [theme])
  const shopUnit = shop?.unit === 'thou' || shop?.unit === 'um' ? shop.unit : 'mm'
  const unit = isUnit(chosenUnit) ? chosenUnit : shopUnit
  const known = shop ? shop.people.some((p) => p.initials === who && !p.gone) : true
  const state = useMemo(
    () => ({
      unit,
      setUnit: (next: Unit) => {
        keep('unit', next)
        setChosenUnit(next)
      },
      who: known ? who : '',
      setWho: (next: string) => {
        keep('who', next)
        setWhoState(next)
      },
      theme,
      setTheme: (next: Theme) => {
        keep('theme', next)
        setThemeState(next)
      },
    }),
    [unit, who, known, theme],
  )
  return <Bench.Provider value={state}>{children}</Bench.Provider>
}

/** What stands around every view. */
function Around() {
  // A press that leads on says so, where the view is slow to come.
  const slow = useNavigation().state === 'loading'
  return (
    <BenchProvider>
      <NoticesProvider>
        <a href="#work" className="skip" onClick={toTheWork}>
          To the work
        </a>
        <Header />
        {slow && <div role="progressbar" aria-label="Fetching the page" className="no-print fetching" />}
        <LeftOut />
        <div id="work" tabIndex={-1} className="outline-none">
          <Outlet />
        </div>
        <Arrival />
        <ScrollRestoration />
        <WhoWhereNeeded />
      </NoticesProvider>
    </BenchProvider>
  )
}

function toTheWork(event: React.MouseEvent) {
  event.preventDefault()
  const main = document.querySelector('main')
  if (!main) return
  main.tabIndex = -1
  main.focus()
}

const router = createBrowserRouter([
  { element: <Around />, hydrateFallbackElement: <Loading what="the bench" />, children: routes },
])

export function App() {
  return (
    <PersistQueryClientProvider
      client={client}
      persistOptions={{
        persister,
        maxAge: KEPT_MS,
        buster: __BUILD__,
        dehydrateOptions: { shouldDehydrateQuery: isKept, shouldDehydrateMutation: () => false },
      }}
    >
      <RouterProvider router={router} />
    </PersistQueryClientProvider>
  )
}
