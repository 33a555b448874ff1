import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { Suspense, lazy, useEffect, useMemo, useState } from 'react'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'
import { outOfReach } from '../api/client'
import type { Unit } from '../domain/schema'
import { useShop } from '../api/queries'
import { BenchView } from '../features/bench/BenchView'
import { BoxView } from '../features/box/BoxView'
import { RevisionView } from '../features/box/RevisionView'
import { DrawersView } from '../features/drawers/DrawersView'
import { CheckPage } from '../features/check/CheckPage'
import { GaugesView } from '../features/gauges/GaugesView'
import { PurchaseView } from '../features/purchase/PurchaseView'
import { PredictionsView } from '../features/predictions/PredictionsView'
import { PlanView } from '../features/plan/PlanView'
import { ReportView } from '../features/report/ReportView'
import { ChangesView } from '../features/sheets/ChangesView'
import { SheetsView } from '../features/sheets/SheetsView'
import { SheetView } from '../features/sheets/SheetView'
import { SumsView } from '../features/calculators/SumsView'
import { AllocationView } from '../features/allocation/AllocationView'
import { Header } from './Header'
import { Loading } from '../ui/Parts'
import { Bench, keep, kept, type Theme } from '../domain/session'

// Not needed to begin work at the bench, so not waited for then.
const WriteView = lazy(async () => ({
  default: (await import('../features/sheet-editor/WriteView')).WriteView,
}))

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => outOfReach(error) && count < 60,
      retryDelay: 1500,
      refetchOnWindowFocus: true,
    },
  },
})

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
  const known = shop ? shop.people.some((p) => p.initials === who) : true
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

function Nowhere() {
  return (
    <main className="p-6">
      <h1 className="text-2xl">There is nothing at this address</h1>
      <p className="mt-2">
        Go back to the{' '}
        <a className="link" href="/">
          bench
        </a>
        .
      </p>
    </main>
  )
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <BenchProvider>
          <Header />
          <Suspense fallback={<Loading what="this place" />}>
            <Routes>
              <Route path="/" element={<BenchView />} />
              <Route path="/jobs/:jobNo" element={<BoxView />} />
              <Route path="/jobs/:jobNo/checks/:checkKey" element={<CheckPage />} />
              <Route path="/jobs/:jobNo/report" element={<ReportView />} />
              <Route path="/jobs/:jobNo/together" element={<AllocationView />} />
              <Route path="/jobs/:jobNo/order" element={<PurchaseView />} />
              <Route path="/jobs/:jobNo/plan" element={<PlanView />} />
              <Route path="/jobs/:jobNo/revision" element={<RevisionView />} />
              <Route path="/order" element={<PurchaseView />} />
              <Route path="/together" element={<AllocationView />} />
              <Route path="/drawers" element={<DrawersView />} />
              <Route path="/gauges" element={<GaugesView />} />
              <Route path="/sheets" element={<SheetsView />} />
              <Route path="/sheets/new" element={<WriteView />} />
              <Route path="/sheets/:sheetKey" element={<SheetView />} />
              <Route path="/sheets/:sheetKey/write" element={<WriteView />} />
              <Route path="/sheets/:sheetKey/changes" element={<ChangesView />} />
              <Route path="/sheets/:sheetKey/plan" element={<PlanView />} />
              <Route path="/sheets/:sheetKey/past" element={<PredictionsView />} />
              <Route path="/sums" element={<Navigate to="/sums/piece" replace />} />
              <Route path="/sums/:sum" element={<SumsView />} />
              <Route path="*" element={<Nowhere />} />
            </Routes>
          </Suspense>
        </BenchProvider>
      </BrowserRouter>
    </QueryClientProvider>
  )
}
