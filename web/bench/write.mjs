// A large sheet typed in: 8 shafts, 200 parts, 60 checks. How long the page's thread is busy for each frame in
// which a key was pressed or the drawing changed, scripts, styles, layout and painting together, by Chromium's own
// count. Only the mean: frames come at the screen's rate, and a trace of each costs more than it measures.
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
await metrics.send('Performance.enable')
/** How long the page's thread has been busy so far, milliseconds. */
const busy = async () =>
  1000 * (await metrics.send('Performance.getMetrics')).metrics.find((m) => m.name === 'TaskDuration').value

async function typed(tab) {
  await page.goto(`${url}/sheets/large-box/write`)
  await page.getByRole('tab', { name: tab }).click()
  await page.locator('[data-testid=rail] svg').nth(1).waitFor()
  await page.waitForTimeout(1000)
  const before = await busy()
  const frames = await page.evaluate(async (tab) => {
    const field = document.getElementById(tab === 'Shafts' ? '/shafts/0/parts/4/width' : '/name')
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
    // Frames with a change: those after a key, and those after the drawing has changed.
    let frames = 0
    let dirty = false
    new MutationObserver(() => (dirty = true)).observe(document.querySelector('main'), {
      subtree: true,
      attributes: true,
      childList: true,
      characterData: true,
    })
    field.focus()
    for (let n = 0; n < 200; n++) {
      set.call(field, tab === 'Shafts' ? `1${n % 10}.${n % 7}` : `Large box ${n}`)
      field.dispatchEvent(new Event('input', { bubbles: true }))
      // A key every 60 ms or so, faster than anyone types.
      for (let f = 0; f < 4; f++) {
        await new Promise(requestAnimationFrame)
        if (dirty) frames += 1
        dirty = false
      }
    }
    return frames
  }, tab)
  return { frames, mean: ((await busy()) - before) / frames }
}

for (const [tab, what] of [
  ['Shafts', 'a width typed, its shaft drawn'],
  ['Box', 'the name typed, all eight shafts drawn'],
]) {
  const { frames, mean } = await typed(tab)
  console.log(
    `large sheet, ${what}: ${frames} frames with a change, the page busy for ${mean.toFixed(1)} ms each in the mean`,
  )
}
await browser.close()
