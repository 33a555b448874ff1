// A large sheet typed in: 8 shafts, 200 parts, 60 checks. How long each frame takes in which a key was
// pressed or the drawing changed, without a cap on frames. `write.mjs URL`; run by scripts/screen-bench.
import { launch } from './browser.mjs'

const [url] = process.argv.slice(2)
const browser = await launch('--disable-frame-rate-limit', '--disable-gpu-vsync')
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

async function typed(tab) {
  await page.goto(`${url}/sheets/large-box/write`)
  await page.getByRole('tab', { name: tab }).click()
  await page.locator('[data-testid=rail] svg').nth(1).waitFor()
  return page.evaluate(async (tab) => {
    const field = document.getElementById(tab === 'Shafts' ? '/shafts/0/parts/4/width' : '/name')
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set
    let dirty = 0
    let drawn = 0
    new MutationObserver(() => {
      dirty = 2
      drawn += 1
    }).observe(document.querySelector('[data-testid=rail]'), {
      subtree: true,
      attributes: true,
      childList: true,
    })
    const frames = []
    let last = performance.now()
    let key = last
    let n = 0
    // A key every 60 ms, faster than anyone types.
    while (n < 200) {
      const now = await new Promise(requestAnimationFrame)
      const took = performance.now() - last
      last = performance.now()
      if (dirty > 0) {
        frames.push(took)
        dirty -= 1
      }
      if (now - key > 60) {
        key = now
        n += 1
        dirty = 2
        field.focus()
        set.call(field, tab === 'Shafts' ? `1${n % 10}.${n % 7}` : `Large box ${n}`)
        field.dispatchEvent(new Event('input', { bubbles: true }))
      }
    }
    frames.sort((a, b) => a - b)
    const at = (share) => frames[Math.floor((frames.length - 1) * share)]
    return { frames: frames.length, drawn, p50: at(0.5), p90: at(0.9), p99: at(0.99) }
  }, tab)
}

for (const [tab, what] of [
  ['Shafts', 'a width typed, its shaft drawn'],
  ['Box', 'the name typed, all eight shafts drawn'],
]) {
  const r = await typed(tab)
  console.log(
    `large sheet, ${what}: ${r.frames} frames with a change, p50 ${r.p50.toFixed(1)} ms, p90 ${r.p90.toFixed(1)} ms, p99 ${r.p99.toFixed(1)} ms`,
  )
}
await browser.close()
