// Every view of the demo on a middling phone: performance 90 or more, the other three 100.
import { launch } from 'chrome-launcher'
import lighthouse from 'lighthouse'
import * as constants from 'lighthouse/core/config/constants.js'
import { launchOptions } from '../../web/chromium.mjs'

const at = process.argv[2]
const only = process.argv[3] ?? ''
const LEAST = { performance: 90, accessibility: 100, 'best-practices': 100, seo: 100 }

/** The number of the demo's open job of that title. */
async function jobCalled(title) {
  const answer = await fetch(`${at}/api/jobs?search=${encodeURIComponent(title)}`)
  const { jobs } = await answer.json()
  const found = jobs.find((job) => job.title === title)
  if (!found) throw new Error(`no open job called ${title}: run this against the demo`)
  return found.job_no
}

const box = `/jobs/${await jobCalled('Creamery van')}`
const bus = `/jobs/${await jobCalled('Bus 4, school run')}`
const sums = 'piece pinch known-shim stack rollers ratios heat-fit hot units centring'.split(' ')
const views = [
  '/',
  '/?show=finished',
  box,
  `${box}/checks/input-float`,
  `${box}/checks/main-float`,
  `${bus}/checks/direct-pack`,
  `${box}/report`,
  `${box}/together`,
  `${box}/order`,
  `${box}/plan`,
  '/order',
  '/shop',
  '/drawers',
  '/gauges',
  '/sheets',
  '/sheets/tolvane-t5',
  '/sheets/tolvane-t5/past',
  '/sheets/tolvane-t5/write',
  ...sums.map((sum) => `/sums/${sum}`),
].filter((view) => view.includes(only))

// Lighthouse's middling phone is a good desktop of this index, four times as slow (docs/throttling.md there, from memory);
// so many times as slow as this machine is here and now.
const DESKTOP = 1750
const FOUR_TIMES = 4

const chrome = await launch({
  chromePath: launchOptions.executablePath,
  chromeFlags: ['--headless=new', ...launchOptions.args],
})
const options = { port: chrome.port, logLevel: 'error' }
let short = 0
try {
  const indices = []
  for (let i = 0; i < 3; i += 1) {
    const { lhr } = await lighthouse(at, { ...options, onlyCategories: ['seo'] })
    indices.push(lhr.environment.benchmarkIndex)
  }
  const index = indices.sort((a, b) => a - b)[1]
  const cpuSlowdownMultiplier = Math.max(1, (FOUR_TIMES * index) / DESKTOP)
  console.log(`index of this machine ${index}: ${cpuSlowdownMultiplier.toFixed(1)} times as slow`)
  // The rest is the network of Lighthouse's own middling phone.
  const throttling = { ...constants.throttling.mobileSlow4G, cpuSlowdownMultiplier }
  for (const view of views) {
    const found = await lighthouse(at + view, { ...options, throttling })
    const { categories, audits } = found.lhr
    const scores = Object.entries(LEAST).map(([name, least]) => {
      const score = Math.round((categories[name].score ?? 0) * 100)
      return { name, score, low: score < least, refs: categories[name].auditRefs }
    })
    const low = scores.filter((s) => s.low)
    short += low.length
    console.log(`${scores.map((s) => String(s.score).padStart(3)).join(' ')}  ${view}`)
    for (const { name, refs } of low) {
      const why = refs.filter(({ id, weight }) => weight > 0 && (audits[id].score ?? 1) < 0.9)
      const said = why.map(({ id }) => `${id} ${audits[id].displayValue ?? ''}`.trim())
      console.log(`                 ${name}: ${said.join('; ')}`)
    }
  }
} finally {
  await chrome.kill()
}
console.log(short === 0 ? 'Every view is as it should be.' : `${short} scores are lower than they should be.`)
process.exitCode = short === 0 ? 0 : 1
