// What a person waits for, measured in the browser: from Enter to the reading with its new verdict on
// the screen, and a gauge of 100 lines a second. `screen.mjs URL GAUGE_PORT`; run by scripts/screen-bench.
import { launch } from './browser.mjs'

const [url, gaugePort] = process.argv.slice(2)
const browser = await launch()
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.addInitScript(() => localStorage.setItem('dry-anvil.who', 'RT'))
const key = () => `bench-${Date.now()}-${Math.random()}`
const job = async () => {
  const answer = await page.request.post(`${url}/api/jobs`, {
    headers: { 'Idempotency-Key': key() },
    data: { sheet_key: 'tolvane-t5', title: 'Bench', customer: 'Bench', who: 'RT' },
  })
  return (await answer.json()).job_no
}

// From Enter to the frame that shows the reading among the counted ones.
const times = []
for (let j = 0; j < 10; j++) {
  await page.goto(`${url}/jobs/${await job()}/checks/second-side`)
  await page.getByLabel(/^Travel/).waitFor()
  for (let i = 0; i < 30; i++) {
    times.push(
      await page.evaluate(async (n) => {
        const field = document.getElementById('reading')
        const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
        set.call(field, `0.2${n % 3}`)
        field.dispatchEvent(new Event('input', { bubbles: true }))
        await new Promise((done) => setTimeout(done, 15))
        const start = performance.now()
        document.getElementById('reading').form.requestSubmit()
        const rows = () => document.querySelectorAll('[aria-label^="Strike out trial"]').length
        while (rows() <= n) await new Promise(requestAnimationFrame)
        return performance.now() - start
      }, i),
    )
  }
}
times.sort((a, b) => a - b)
const at = (share) => times[Math.floor((times.length - 1) * share)].toFixed(1)
console.log(`${times.length} readings, from Enter to the screen: p50 ${at(0.5)} ms, p99 ${at(0.99)} ms`)

// A gauge of 100 lines a second: how many readings the screen was told of, drew, and how far behind it was.
const gauges = await (await page.request.get(`${url}/api/gauges`)).json()
const digital = gauges.find((g) => g.gauge_key === 'digital-1')
await page.request.put(`${url}/api/gauges`, {
  headers: { 'Idempotency-Key': key() },
  data: {
    card: {
      key: 'digital-1',
      name: 'Digital indicator',
      resolution: '0.001',
      permissible_error: '0.004',
      unit: 'mm',
      live_at: `127.0.0.1:${gaugePort}`,
    },
    seen: digital.version,
    who: 'RT',
  },
})
await page.addInitScript(() => {
  window.told = []
  const plain = window.WebSocket
  window.WebSocket = class extends plain {
    constructor(...words) {
      super(...words)
      this.addEventListener('message', (e) => {
        const { nm, readings } = JSON.parse(e.data)
        window.told.push({ at: performance.now(), nm, readings })
      })
    }
  }
})
await page.goto(`${url}/jobs/${await job()}/checks/second-side`)
await page.getByLabel('With').selectOption('digital-1')
await page.getByTestId('live-figure').getByText(/\d/).waitFor()
const live = await page.evaluate(async () => {
  const figure = document.querySelector('[data-testid=live-figure]')
  const start = performance.now()
  const first = window.told.length
  const lags = []
  let drawn = 0
  let last = ''
  while (performance.now() - start < 10_000) {
    await new Promise(requestAnimationFrame)
    const text = figure.textContent
    if (text !== last) {
      drawn += 1
      last = text
    }
    // The newest message whose figure is the one drawn: older than the newest by so long.
    const newest = window.told.at(-1)
    const shown = window.told.findLast(
      (t) => t.nm !== null && (t.nm / 1e6).toFixed(3).replace('-', '−') === text.split(' ')[0],
    )
    if (newest && shown) lags.push(newest.at - shown.at)
  }
  lags.sort((a, b) => a - b)
  const told = window.told.slice(first)
  const readings = told.at(-1).readings - told[0].readings
  return { seconds: 10, told: told.length, readings, drawn, lag99: lags[Math.floor(lags.length * 0.99)] }
})
console.log(
  `live gauge: ${(live.readings / live.seconds).toFixed(0)} lines a second heard, ${(live.told / live.seconds).toFixed(0)} told to the screen, ` +
    `${(live.drawn / live.seconds).toFixed(0)} changes drawn a second; what is drawn is behind the newest by ${live.lag99.toFixed(0)} ms at p99`,
)
await browser.close()
