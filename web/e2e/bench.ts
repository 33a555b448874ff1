// What the browser tests share: somebody at the bench, and a fresh job.
import { expect, type Page } from '@playwright/test'

let last = 0

export async function atTheBench(page: Page, theme: 'light' | 'dark' = 'light') {
  await page.addInitScript((chosen) => {
    localStorage.setItem('dry-anvil.who', localStorage.getItem('dry-anvil.who') ?? 'RT')
    localStorage.setItem('dry-anvil.theme', chosen)
  }, theme)
}

/** Opens a job over the interface for programs and returns its number. */
export async function freshJob(page: Page, sheet = 'tolvane-t5', title?: string): Promise<number> {
  last += 1
  const answer = await page.request.post('/api/jobs', {
    headers: { 'Idempotency-Key': `e2e-${Date.now()}-${last}` },
    data: {
      sheet_key: sheet,
      title: title ?? `Trial ${last}`,
      customer: title ?? 'A trial customer',
      complaint: '',
      who: 'RT',
    },
  })
  expect(answer.ok()).toBeTruthy()
  return ((await answer.json()) as { job_no: number }).job_no
}

/** Somebody does something on a job at another screen; to a check, on the version that it is at. */
export async function does(
  page: Page,
  job: number,
  act: { of: string; check?: string; did: object },
  who = 'OB',
) {
  last += 1
  const headers: Record<string, string> = { 'Idempotency-Key': `e2e-${Date.now()}-act-${last}` }
  if (act.check) {
    const seen = await page.request.get(`/api/jobs/${job}/checks/${act.check}`)
    headers['If-Match'] = `"${((await seen.json()) as { version: number }).version}"`
  }
  return page.request.post(`/api/jobs/${job}/acts`, { headers, data: { act, who } })
}

/** Types a figure and Enter, as a gauge with a data button does, and waits until it is kept. */
export async function take(page: Page, ...readings: string[]) {
  // A gauge types into whatever has the focus: the screen must be ready for it.
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  for (const reading of readings) {
    const trials = page.getByRole('button', { name: /^(Strike out|Restore) trial/ })
    const before = await trials.count()
    await page.keyboard.type(reading)
    await page.keyboard.press('Enter')
    await expect(trials).toHaveCount(before + 1)
  }
}

/** Ticks all that is to be seen to before a check is signed. */
export async function allSeenTo(page: Page) {
  await page.getByRole('button', { name: 'All seen to' }).click()
  await expect(page.getByText('Not ticked as seen to')).toHaveCount(0)
}

/** Chooses a sheet on the card of a new job. */
export async function chooseSheet(page: Page, name: string) {
  await page.getByLabel('Spec sheet of the box').fill(name)
  await page.getByRole('option', { name }).click()
}

/** Tabs until the thing of that name has the focus; on a busy machine it may not be drawn yet at the first round. */
export async function tabTo(page: Page, name: RegExp) {
  await expect(async () => {
    for (let presses = 0; presses < 60; presses++) {
      await page.keyboard.press('Tab')
      const focused = await page.evaluate(() => {
        const e = document.activeElement as HTMLElement | null
        // With the focus nowhere, everything on the page would be its text.
        if (e === document.body) return ''
        const label = e?.id ? document.querySelector(`label[for="${e.id}"]`)?.textContent : ''
        return e?.getAttribute('aria-label') ?? (label || e?.textContent || '')
      })
      if (name.test(focused.trim())) return
    }
    throw new Error(`nothing called ${name} can be reached with Tab`)
  }).toPass({ timeout: 20_000 })
}

/** A place of a demo job, which is named by its title in braces: `/jobs/{Creamery van}/plan`. */
export async function placed(page: Page, path: string): Promise<string> {
  const title = /\{(.*)\}/.exec(path)?.[1]
  if (title === undefined) return path
  return path.replace(`{${title}}`, String(await jobCalled(page, title)))
}

/** The number of the one open job of that title. */
export async function jobCalled(page: Page, title: string): Promise<number> {
  const answer = await page.request.get(`/api/jobs?search=${encodeURIComponent(title)}`)
  const { jobs } = (await answer.json()) as { jobs: { job_no: number; title: string }[] }
  const found = jobs.filter((j) => j.title === title)
  expect(found, `one open job called ${title}`).toHaveLength(1)
  return found[0]?.job_no ?? 0
}

/** What stands beyond the right edge, and which presses something else lies over, so that a tap on them does nothing. */
export const outOfReachOfFingers = (page: Page) =>
  page.evaluate(() => {
    const edge = document.documentElement.clientWidth
    const name = (e: Element) =>
      `${e.tagName} ${(e.getAttribute('aria-label') ?? e.textContent ?? '').slice(0, 40)}`
    const wide = [...document.querySelectorAll('body *')].filter(
      (e) => !e.closest('.skip') && e.getBoundingClientRect().right > edge + 0.5,
    )
    const beyond = document.documentElement.scrollWidth > edge ? wide.slice(-3).map(name) : []
    const covered = [...document.querySelectorAll('main button, main a[href], main input, main select')]
      .filter((e) => !e.closest('svg, .sr-only, details:not([open])') && !e.matches('.sr-only'))
      .filter((e) => {
        e.scrollIntoView({ block: 'center' })
        const [box] = e.getClientRects()
        if (!box?.width) return false
        const at = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2)
        return !at || !(e.contains(at) || at.contains(e) || at.closest('label')?.contains(e))
      })
      .map(name)
    scrollTo(0, 0)
    return { beyond, covered }
  })
