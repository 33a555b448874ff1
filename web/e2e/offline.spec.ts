// Without the server: the program opens, what was seen can be read, what can wait waits, and nothing is lost or twice.
import { expect, test, type Page } from '@playwright/test'
import { allSeenTo, atTheBench, does, freshJob, take } from './bench'

test.use({ serviceWorkers: 'allow' })

const trials = (page: Page) => page.getByRole('button', { name: /^(Strike out|Restore) trial/ })

/** What was seen, as the browser keeps it: a second after the last change. */
const keptText = (page: Page) =>
  page.evaluate(
    () =>
      new Promise<string>((told) => {
        const open = indexedDB.open('keyval-store')
        open.onsuccess = () => {
          const { result: db } = open
          if (!db.objectStoreNames.contains('keyval')) return told('')
          const asked = db.transaction('keyval').objectStore('keyval').get('dry-anvil.seen')
          asked.onsuccess = () => told(JSON.stringify(asked.result ?? ''))
        }
      }),
  )

/** Opened once, as on the days before: the program and what was seen are in the browser. */
async function seen(page: Page, path: string) {
  await page.goto(path)
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.evaluate(() => navigator.serviceWorker.ready)
  await expect.poll(() => keptText(page)).toContain('second-side')
}

/** A check of a job of its own, seen before; its address. */
async function seenCheck(page: Page) {
  await atTheBench(page)
  const job = await freshJob(page)
  const path = `/jobs/${job}/checks/second-side`
  await seen(page, path)
  return { job, path }
}

/** Readings are taken, and the browser keeps them. */
async function takeAndKeep(page: Page, ...readings: string[]) {
  await take(page, ...readings)
  await expect.poll(() => keptText(page)).toContain(`"typed":"${readings.at(-1)} mm"`)
}

test('readings, a strike-out and a tick wait across a reload, and are sent in order', async ({
  page,
  context,
}) => {
  const { job, path } = await seenCheck(page)
  await takeAndKeep(page, '0.21')
  await context.setOffline(true)
  for (const reading of ['0.22', '0.23']) {
    await page.keyboard.type(reading)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByRole('button', { name: /2 wait/ })).toBeVisible()
  await page.reload()
  await expect(page.getByRole('heading', { level: 1, name: /Second gear/ })).toBeVisible()
  await expect(trials(page)).toHaveCount(1)
  await page.getByRole('button', { name: 'Strike out trial 1' }).click()
  await page.getByRole('button', { name: 'gauge moved' }).click()
  await page.getByText('Before the first reading').click()
  await page.getByRole('checkbox').first().check()
  const mark = page.getByRole('button', { name: /4 wait/ })
  await mark.click()
  const list = page.getByRole('dialog', { name: 'On the way to the server' })
  await expect(list).toContainText('0.22, 0.23, struck out 0.210, seen to')
  await page.keyboard.press('Escape')
  // What is done with a job as a whole waits as well.
  await page.goto(`/jobs/${job}`)
  await page.getByLabel('Note something on this job').fill('rang the customer')
  await page.getByRole('button', { name: 'Note', exact: true }).click()
  await expect(page.getByRole('button', { name: /5 wait/ })).toBeVisible()
  await page.getByRole('button', { name: 'Change the card' }).click()
  await page.getByLabel('Whose it is').fill('A waiting customer')
  await page.getByRole('button', { name: 'Keep the card' }).click()
  await expect(page.getByText('Waits for the server: the card changed.').first()).toBeVisible()
  await expect(page.getByRole('button', { name: /6 wait/ })).toBeVisible()
  await context.setOffline(false)
  await expect(page.getByRole('button', { name: /wait/ })).toBeHidden({ timeout: 20_000 })
  await expect(page.getByText('rang the customer')).toBeVisible()
  await page.goto(path)
  await expect(trials(page)).toHaveCount(3)
  await expect(page.getByRole('button', { name: 'Restore trial 1' })).toBeVisible()
  const check = (await (await page.request.get(`/api${path}`)).json()) as { readings: { typed: string }[] }
  expect(check.readings.map((r) => r.typed)).toEqual(['0.21 mm', '0.22 mm', '0.23 mm'])
})

test('what is refused when it is sent at last is shown with what was typed', async ({ page, context }) => {
  const { job, path } = await seenCheck(page)
  await takeAndKeep(page, '0.21', '0.21', '0.22')
  await context.setOffline(true)
  await page.keyboard.type('0.24')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /1 waits/ })).toBeVisible()
  // Somebody else signs it meanwhile.
  const check = path.split('/').at(-1)
  const signed = await does(page, job, { of: 'check', check, did: { act: 'sign', reason: 'as asked' } })
  expect(signed.ok()).toBe(true)
  await page.goto('/')
  await context.setOffline(false)
  await page.getByRole('button', { name: '1 not taken' }).click()
  const list = page.getByRole('dialog')
  await expect(list).toContainText('0.24')
  await expect(list).toContainText(/signed/)
  await list.getByRole('button', { name: /Strike off/ }).click()
  await expect(list).toContainText('Nothing waits.')
})

test('two windows with one queue send each reading once', async ({ page, context }) => {
  const { path } = await seenCheck(page)
  const other = await context.newPage()
  await atTheBench(other)
  await seen(other, path)
  await context.setOffline(true)
  for (const [at, reading] of [
    [page, '0.21'],
    [other, '0.22'],
    [page, '0.23'],
  ] as const) {
    await at.bringToFront()
    await at.getByLabel(/^Travel/).fill(reading)
    await at.keyboard.press('Enter')
  }
  await expect(other.getByRole('button', { name: /3 wait/ })).toBeVisible()
  await context.setOffline(false)
  await expect(trials(other)).toHaveCount(3, { timeout: 20_000 })
  await expect(trials(page)).toHaveCount(3)
  const check = (await (await page.request.get(`/api${path}`)).json()) as { readings: { typed: string }[] }
  expect(check.readings.map((r) => r.typed)).toEqual(['0.21 mm', '0.22 mm', '0.23 mm'])
})

for (const days of [-1, 1])
  test(`a device whose clock is off by ${days} day loses nothing and dates nothing`, async ({
    page,
    context,
  }) => {
    await page.addInitScript((off) => {
      const Right = Date
      globalThis.Date = class extends Right {
        constructor(...of: unknown[]) {
          super(...((of.length ? of : [Right.now() + off]) as [number]))
        }
        static override now = () => Right.now() + off
      } as DateConstructor
    }, days * 86_400_000)
    const { job, path } = await seenCheck(page)
    await takeAndKeep(page, '0.21')
    await context.setOffline(true)
    await page.keyboard.type('0.22')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /1 waits/ })).toBeVisible()
    await page.reload()
    // What was seen is there, and what waits.
    await expect(trials(page)).toHaveCount(1)
    await expect(page.getByRole('button', { name: /1 waits/ })).toBeVisible()
    await context.setOffline(false)
    await expect(trials(page)).toHaveCount(2, { timeout: 20_000 })
    const check = (await (await page.request.get(`/api${path}`)).json()) as {
      readings: { typed: string; at: string }[]
    }
    expect(check.readings.map((r) => r.typed)).toEqual(['0.21 mm', '0.22 mm'])
    for (const { at } of check.readings) expect(Math.abs(Date.parse(at) - Date.now())).toBeLessThan(600_000)
    // Somebody else at the same check is seen to be there.
    const theirs = await page.request.post(`/api${path}/readings`, {
      headers: { 'Idempotency-Key': `clock-${job}` },
      data: { who: 'MEL', way: 'dial_travel', unit: 'mm', entry: { kind: 'travel', travel: '0.2' } },
    })
    expect(theirs.ok()).toBe(true)
    await expect(page.getByText(/^MEL is at this check as well/)).toBeVisible()
  })

test('steps and what is found of parts wait, are shown as waiting also after a reload, and go in their order', async ({
  page,
  context,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/strip`)
  await expect(page.getByRole('list', { name: 'Parts' })).toBeVisible()
  await page.goto(`/jobs/${job}/build`)
  const steps = page.getByRole('list', { name: 'Steps' })
  await expect(steps).toBeVisible()
  await page.evaluate(() => navigator.serviceWorker.ready)
  await expect.poll(() => keptText(page)).toContain('"steps"')
  await context.setOffline(true)
  const next = page.getByRole('region', { name: 'Next' }).getByRole('heading', { level: 1 })
  const first = (await next.innerText()).replace(/^[^:]*:\s*/, '')
  await page.locator('[data-next]').press('Enter')
  await expect(page.getByText(/^Waits for the server: .*, done\.$/).first()).toBeVisible()
  const line = steps.getByRole('listitem').filter({ hasText: first }).first()
  await expect(line).toContainText('waits for the server')
  await page.reload()
  await expect(line).toContainText('waits for the server')
  // Its first question is asked of a step that is done: it is answered, and waits behind it.
  await page.goto(`/jobs/${job}/strip`)
  const part = page.getByRole('region', { name: 'Part', exact: true }).getByRole('heading', { level: 1 })
  await expect(part).toBeFocused()
  const name = await part.innerText()
  await page.keyboard.press('1')
  await expect(part).not.toHaveText(name)
  await expect(page.getByRole('list', { name: 'Parts' })).toContainText('goes back in, waits for the server')
  await expect(page.getByRole('button', { name: /2 wait/ })).toBeVisible()
  await context.setOffline(false)
  const head = page.getByRole('banner')
  await expect(head.getByRole('button', { name: /wait/ })).toBeHidden({ timeout: 20_000 })
  await expect(page.getByRole('list', { name: 'Parts' })).toContainText('goes back in · RT')
  await page.goto(`/jobs/${job}/build`)
  await expect(line).toContainText('RT')
  await expect(line).not.toContainText('waits for the server')
})

test('a signature that waited is not given to what has changed meanwhile', async ({ page, context }) => {
  const { job, path } = await seenCheck(page)
  await takeAndKeep(page, '0.21', '0.22', '0.21')
  await allSeenTo(page)
  await expect(page.getByRole('button', { name: 'Sign off as RT' })).toBeVisible()
  await context.setOffline(true)
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Waits for the server: signed off.').first()).toBeVisible()
  const check = path.split('/').at(-1)
  const entry = { kind: 'travel', travel: '0.44' }
  await does(page, job, { of: 'check', check, did: { act: 'read', way: 'dial_travel', entry, unit: 'mm' } })
  await context.setOffline(false)
  await page.getByRole('button', { name: '1 not taken' }).click()
  const list = page.getByRole('dialog')
  await expect(list).toContainText('signed off')
  await expect(list).toContainText('This check has changed since you looked')
  await page.keyboard.press('Escape')
  await expect(page.getByText('Signed off by RT')).toHaveCount(0)
})
