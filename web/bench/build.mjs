// What a person waits for at the build, measured in the browser: from *done* to the frame that shows the next step, on a
// sheet of 500 steps. `build.mjs URL`; run by scripts/screen-bench.
import { readFileSync } from 'node:fs'
import { launch } from './browser.mjs'

const [url] = process.argv.slice(2)
const STEPS = 500
const PRESSES = 200

/** The bevel box with a long list of steps: each needs the one before it and covers one that is forty back. */
function long() {
  const sheet = JSON.parse(readFileSync(new URL('../../demo/sheets/skelt-b2.json', import.meta.url)))
  const onRails = sheet.shafts.flatMap((shaft) => shaft.parts).map((part) => part.key)
  const parts = [...onRails]
  sheet.items = Array.from({ length: 300 - onRails.length }, (_, n) => ({
    key: `item-${n}`,
    name: `Item ${n}`,
    kind: 'other',
  }))
  parts.push(...sheet.items.map((item) => item.key))
  // Nothing holds: each press leads to the next step.
  sheet.build = Array.from({ length: STEPS }, (_, n) => ({
    key: `step-${n}`,
    what: `Something put in its place, and looked at, ${n}`,
    puts: parts.slice(n, n + 1),
    needs: n > 0 ? [`step-${n - 1}`] : [],
    covers: n >= 40 ? [`step-${n - 40}`] : [],
    minutes: 4,
  }))
  return { ...sheet, key: 'long-build', name: 'A long build' }
}

const browser = await launch()
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.addInitScript(() => localStorage.setItem('dry-anvil.who', 'RT'))
const key = () => `bench-${Date.now()}-${Math.random()}`
const post = async (path, data) => {
  const answer = await page.request.post(`${url}/api${path}`, { headers: { 'Idempotency-Key': key() }, data })
  if (!answer.ok()) throw new Error(await answer.text())
  return answer.json()
}
await post('/sheets', { text: JSON.stringify(long()), who: 'RT' })
const { job_no } = await post('/jobs', {
  sheet_key: 'long-build',
  title: 'Bench',
  customer: 'Bench',
  who: 'RT',
})
const sent = await (await page.request.get(`${url}/api/jobs/${job_no}/build`)).body()
console.log(`a build of ${STEPS} steps and 300 parts: ${(sent.length / 1000).toFixed(1)} kB`)

await page.goto(`${url}/jobs/${job_no}/build`)
await page.locator('[data-next]').waitFor()
const times = []
for (let n = 0; n < PRESSES; n++) {
  times.push(
    await page.evaluate(async () => {
      const words = () => document.querySelector('[aria-label=Next] h1').textContent
      const before = words()
      // As fast as somebody can press: what the last press led to is drawn by then.
      await new Promise((done) => setTimeout(done, 250))
      const start = performance.now()
      document.querySelector('[data-next]').click()
      while (words() === before) await new Promise(requestAnimationFrame)
      return performance.now() - start
    }),
  )
}
times.sort((a, b) => a - b)
const at = (share) => times[Math.floor((times.length - 1) * share)].toFixed(1)
console.log(`${PRESSES} steps, from done to the next on the screen: p50 ${at(0.5)} ms, p99 ${at(0.99)} ms`)
await browser.close()
