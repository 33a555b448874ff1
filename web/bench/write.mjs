// A large sheet typed in: 8 shafts, 200 parts, 60 checks. How long the page's thread is busy for each frame in
// which a key was pressed or the drawing changed, scripts, styles, layout and painting together, by Chromium's own
// count of the time that thread ran, read between keys: each key's share over the frames that it changed.
// `write.mjs URL`; run by scripts/screen-bench.
import { launch } from './browser.mjs'

const [url] = process.argv.slice(2)
const browser = await launch()
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.addInitScript(() => localStorage.setItem('dry-anvil.who', 'RT'))
const kinds = ['gear', 'bearing', 'hub', 'washer', 'spacer']
const shafts = Array.from({ length: 8 }, (_, s) => ({
  key: `s${s}`,
  name: `Shaft ${s + 1}`,
  parts: Array.from({ length: 25 }, (_, p) => ({
    key: `s${s}p${p}`,
    name: `Part ${p + 1}`,
    kind: kinds[p % kinds.length],
    width: `${10 + (p % 7)} mm`,
    diameter: `${40 + 5 * (p % 9)} mm`,
    gap_before: '1 mm',
  })),
}))
const checks = Array.from({ length: 60 }, (_, c) => ({
  key: `c${c}`,
  name: `Check ${c + 1}`,
  kind: 'thrust_clearance',
  between: [`s${c % 8}p${3 * Math.floor(c / 8)}`, `s${c % 8}p${3 * Math.floor(c / 8) + 1}`],
  window: { low: '0.1 mm', high: '0.3 mm' },
  method: 'dial_travel',
}))
const sheet = {
  format: 'dry-anvil-sheet',
  version: 1,
  key: 'large-box',
  name: 'Large box',
  kind: 'manual',
  unit: 'mm',
  shafts,
  checks,
}
const kept = await page.request.post(`${url}/api/sheets`, {
  headers: { 'Idempotency-Key': `bench-${Date.now()}` },
  data: { text: JSON.stringify(sheet), who: 'RT' },
})
if (!kept.ok()) throw new Error(await kept.text())

const metrics = await page.context().newCDPSession(page)
await metrics.send('Performance.enable', { timeDomain: 'threadTicks' })
/** How long the page's thread has been busy so far, milliseconds. */
const busy = async () =>
  1000 * (await metrics.send('Performance.getMetrics')).metrics.find((m) => m.name === 'TaskDuration').value

const middle = (list) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]

async function typed(tab) {
  await page.goto(`${url}/sheets/large-box/write`)
  await page.getByRole('tab', { name: tab }).click()
  await page.locator('[data-testid=rail] svg').nth(1).waitFor()
  await page.waitForTimeout(1000)
  await page.evaluate((tab) => {
    const field = document.getElementById(tab === 'Shafts' ? '/shafts/0/parts/4/width' : '/name')
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
    // Frames with a change: those after a key, and those after the drawing has changed. None is asked for that
    // would not be drawn anyway.
    let frames = 0
    let coming = false
    new MutationObserver(() => {
      if (coming) return
      coming = true
      requestAnimationFrame(() => {
        coming = false
        frames += 1
      })
    }).observe(document.querySelector('main'), {
      subtree: true,
      attributes: true,
      childList: true,
      characterData: true,
    })
    field.focus()
    window.key = async (n) => {
      frames = 0
      set.call(field, tab === 'Shafts' ? `1${n % 10}.${n % 7}` : `Large box ${n}`)
      field.dispatchEvent(new Event('input', { bubbles: true }))
      await new Promise((done) => setTimeout(done, 90))
      return frames
    }
  }, tab)
  const keys = []
  for (let n = 0; n < 200; n++) {
    const before = await busy()
    const frames = await page.evaluate((n) => window.key(n), n)
    if (frames > 0) keys.push({ frames, each: ((await busy()) - before) / frames })
  }
  return {
    frames: keys.reduce((sum, k) => sum + k.frames, 0),
    median: middle(keys.map((k) => k.each)),
  }
}

for (const [tab, what] of [
  ['Shafts', 'a width typed, its shaft drawn'],
  ['Box', 'the name typed, all eight shafts drawn'],
]) {
  const { frames, median } = await typed(tab)
  console.log(
    `large sheet, ${what}: ${frames} frames with a change, the page busy for ${median.toFixed(1)} ms each on the median`,
  )
}
await browser.close()
