// Every place and the view that stands there, fetched when somebody goes there.
import { Navigate, type LoaderFunctionArgs, type RouteObject } from 'react-router'
import {
  boxQuery,
  buildQuery,
  checkQuery,
  drawersQuery,
  reportQuery,
  sheetFileQuery,
  sheetQuery,
} from '../api/queries'
import { client } from './asked'
import { Nowhere, Stumbled } from './Nowhere'

/** A view in a file of its own. */
const view = (load: () => Promise<React.ComponentType>) => ({
  lazy: async () => ({ Component: await load() }),
})

/** Asked for while the view's own file is on its way; the view itself says what it waits for. */
const asks = (ask: (of: Record<string, string | undefined>) => void) => ({
  loader: ({ params }: LoaderFunctionArgs) => {
    ask(params)
    return null
  },
  shouldRevalidate: () => false,
})
const askBox = asks(({ jobNo }) => void client.prefetchQuery(boxQuery(Number(jobNo))))
const askCheck = asks(({ jobNo, checkKey = '' }) => {
  void client.prefetchQuery(checkQuery(Number(jobNo), checkKey))
  void client.prefetchQuery(boxQuery(Number(jobNo)))
})
const askBuild = asks(({ jobNo }) => {
  void client.prefetchQuery(buildQuery(Number(jobNo)))
  void client.prefetchQuery(boxQuery(Number(jobNo)))
})
const askReport = asks(({ jobNo }) => void client.prefetchQuery(reportQuery(Number(jobNo))))
const askDrawers = asks(() => void client.prefetchQuery(drawersQuery))
const askSheet = asks(({ sheetKey = '' }) => void client.prefetchQuery(sheetQuery(sheetKey)))
const askFile = asks(({ sheetKey = '' }) => {
  void client.prefetchQuery(sheetFileQuery(sheetKey))
  void client.prefetchQuery(sheetQuery(sheetKey))
})

const bench = view(async () => (await import('../features/bench/BenchView')).BenchView)
const box = view(async () => (await import('../features/box/BoxView')).BoxView)
const check = view(async () => (await import('../features/check/CheckPage')).CheckPage)
const build = view(async () => (await import('../features/build/BuildView')).BuildView)
const strip = view(async () => (await import('../features/strip/StripView')).StripView)
const report = view(async () => (await import('../features/report/ReportView')).ReportView)
const allocation = view(async () => (await import('../features/allocation/AllocationView')).AllocationView)
const purchase = view(async () => (await import('../features/purchase/PurchaseView')).PurchaseView)
const plan = view(async () => (await import('../features/plan/PlanView')).PlanView)
const identify = view(async () => (await import('../features/identify/IdentifyView')).IdentifyView)
const atDoor = view(async () => (await import('../features/identify/AtDoorView')).AtDoorView)
const labels = view(async () => (await import('../features/labels/LabelsView')).LabelsView)
const donors = view(async () => (await import('../features/donors/DonorsView')).DonorsView)
const shelf = view(async () => (await import('../features/donors/ShelfView')).ShelfView)
const since = view(async () => (await import('../features/years/SinceView')).SinceView)
const found = view(async () => (await import('../features/years/FoundView')).FoundView)
const revision = view(async () => (await import('../features/box/RevisionView')).RevisionView)
const drawers = view(async () => (await import('../features/drawers/DrawersView')).DrawersView)
const gauges = view(async () => (await import('../features/gauges/GaugesView')).GaugesView)
const sheets = view(async () => (await import('../features/sheets/SheetsView')).SheetsView)
const sheet = view(async () => (await import('../features/sheets/SheetView')).SheetView)
const changes = view(async () => (await import('../features/sheets/ChangesView')).ChangesView)
const write = view(async () => (await import('../features/sheet-editor/WriteView')).WriteView)
const past = view(async () => (await import('../features/predictions/PredictionsView')).PredictionsView)
const sums = view(async () => (await import('../features/calculators/SumsView')).SumsView)

const shop = view(async () => (await import('../features/shop/ShopView')).ShopView)

const PLACES: RouteObject[] = [
  { path: '/', ...bench },
  { path: '/jobs/:jobNo', ...box, ...askBox },
  { path: '/jobs/:jobNo/checks/:checkKey', ...check, ...askCheck },
  { path: '/jobs/:jobNo/build', ...build, ...askBuild },
  { path: '/jobs/:jobNo/strip', ...strip, ...askBox },
  { path: '/jobs/:jobNo/report', ...report, ...askReport },
  { path: '/jobs/:jobNo/together', ...allocation },
  { path: '/jobs/:jobNo/order', ...purchase },
  { path: '/jobs/:jobNo/plan', ...plan },
  { path: '/jobs/:jobNo/revision', ...revision },
  { path: '/jobs/:jobNo/identify', ...identify, ...askBox },
  { path: '/identify', ...atDoor },
  { path: '/jobs/:jobNo/donors', ...donors, ...askBox },
  { path: '/shelf', ...shelf },
  { path: '/jobs/:jobNo/since', ...since, ...askBox },
  { path: '/sheets/:sheetKey/found', ...found },
  { path: '/jobs/:jobNo/labels', ...labels, ...askBox },
  { path: '/order', ...purchase },
  { path: '/together', ...allocation },
  { path: '/shop', ...shop },
  { path: '/drawers', ...drawers, ...askDrawers },
  { path: '/gauges', ...gauges },
  { path: '/sheets', ...sheets },
  { path: '/sheets/new', ...write },
  { path: '/sheets/:sheetKey', ...sheet, ...askSheet },
  { path: '/sheets/:sheetKey/write', ...write, ...askFile },
  { path: '/sheets/:sheetKey/changes', ...changes },
  { path: '/sheets/:sheetKey/plan', ...plan },
  { path: '/sheets/:sheetKey/past', ...past },
  { path: '/sums', element: <Navigate to="/sums/piece" replace /> },
  { path: '/sums/:sum', ...sums },
]

/** The routes, each with a page of its own where the view cannot be drawn. */
export const routes: RouteObject[] = [
  ...PLACES.map((place) => ({ ...place, errorElement: <Stumbled /> })),
  { path: '*', element: <Nowhere /> },
]
