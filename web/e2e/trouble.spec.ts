// What goes wrong at a bench: each is answered, and nothing is lost.
import { expect, test } from '@playwright/test'
import { allSeenTo, atTheBench, freshJob, placed, take } from './bench'

test('bad figures are refused by name, and what was typed stays', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  const field = page.getByLabel(/Travel, turning/)
  for (const [typed, says] of [
    ['0.1 furlong', 'is not a unit read here'],
    ['-0.1', 'a minus sign has no meaning here'],
    ['1 000 mm', 'thousands separators are not read'],
    ['5000', 'is further than any dial travels'],
  ] as const) {
    await field.fill(typed)
    await field.press('Enter')
    await expect(page.getByRole('alert')).toContainText(says)
    await expect(field).toHaveValue(typed)
  }
  await field.fill('')
  await field.press('Enter')
  await expect(page.getByRole('alert')).toContainText('Nothing is typed')
  await expect(page.getByRole('button', { name: /Strike out/ })).toHaveCount(0)
})

test('a server that is gone in the middle: readings wait, and are there once when it is back', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await take(page, '0.21')
  // The first answer is lost after the server has done its work; the second never gets there.
  let calls = 0
  await page.route('**/acts', async (route) => {
    calls += 1
    if (calls === 1) await route.fetch()
    if (calls <= 2) await route.abort()
    else await route.continue()
  })
  for (const typed of ['0.22', '0.23']) {
    await page.keyboard.type(typed)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByText(/the server does not answer/).first()).toBeVisible()
  await page.reload()
  await expect(page.getByText(/3 readings, 0.020 apart/)).toBeVisible()
  await expect(page.getByText(/the server does not answer/)).toHaveCount(0)
})

test('a server at fault keeps no reading from being kept, and a lost answer does not do a press twice', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await take(page, '0.21')
  let calls = 0
  await page.route('**/acts', async (route) => {
    calls += 1
    if (calls > 2) return route.continue()
    // At fault once before and once after it was written.
    if (calls === 2) await route.fetch()
    return route.fulfill({
      status: 500,
      contentType: 'application/problem+json',
      body: JSON.stringify({ type: 'server-fault', title: 'The server could not do this.', status: 500 }),
    })
  })
  await page.keyboard.type('0.22')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/or is at fault; it is kept here/)).toBeVisible()
  await expect(page.getByText(/2 readings, 0.010 apart/)).toBeVisible()
  await expect(page.getByText(/or is at fault/)).toHaveCount(0)
  await allSeenTo(page)
  // A signature whose answer is lost: it is sent again by itself, and is there once.
  const keys: (string | undefined)[] = []
  await page.route('**/acts', async (route) => {
    keys.push(route.request().headers()['idempotency-key'])
    if (keys.length === 1) {
      await route.fetch()
      await route.abort()
    } else await route.continue()
  })
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  // That it is signed may be seen before it is sent again.
  await expect.poll(() => keys).toEqual([keys[0], keys[0]])
})

test('two windows with readings that wait lose none of them', async ({ page, context }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  const other = await context.newPage()
  await atTheBench(other)
  let gone = true
  const answered = (route: import('@playwright/test').Route) => (gone ? route.abort() : route.continue())
  for (const one of [page, other]) {
    await one.goto(`/jobs/${job}/checks/second-side`)
    await one.route('**/acts', answered)
  }
  for (const [one, typed] of [
    [page, '0.21'],
    [other, '0.22'],
    [page, '0.23'],
  ] as const) {
    await one.getByLabel(/Travel, turning/).fill(typed)
    await one.getByLabel(/Travel, turning/).press('Enter')
    await expect(one.getByText(typed, { exact: true })).toBeVisible()
  }
  await expect(other.getByText('0.21', { exact: true })).toBeVisible()
  gone = false
  for (const one of [page, other]) {
    await one.reload()
    await expect(one.getByText(/3 readings, 0.020 apart/)).toBeVisible()
    await expect(one.getByText(/it is kept here/)).toHaveCount(0)
  }
})

test('two screens on one check: the second is told, and shown what is so now', async ({ page, browser }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await take(page, '0.21', '0.22', '0.21')
  // Another device, which this one hears of when it looks: it does not until it has pressed.
  let looks = false
  await page.route('**/checks/second-side', async (route) => {
    while (!looks) await new Promise((done) => setTimeout(done, 50))
    await route.continue()
  })
  const other = await browser.newPage()
  await atTheBench(other)
  await other.goto(`/jobs/${job}/checks/second-side`)
  await allSeenTo(other)
  await other.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(other.getByText('Signed off by RT')).toBeVisible()
  // The first screen has not looked since.
  await page.evaluate(() =>
    (document.querySelector('[aria-label=Confirm] form') as HTMLFormElement).requestSubmit(),
  )
  looks = true
  await expect(page.getByRole('alert')).toContainText('RT signed this check off')
  await expect(page.getByText('Signed off by RT')).toBeVisible()
})

test('a sheet with faults is refused whole, each fault by its place', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/tolvane-t5')
  const file = await page.request.get('/api/sheets/tolvane-t5/file')
  const sheet = (await file.json()) as {
    name: string
    checks: Record<string, unknown>[]
    shafts: { parts: { width: string }[] }[]
  }
  sheet.shafts[0]!.parts[0]!.width = '17 furlongs'
  delete sheet.checks[0]!.method
  await page.goto('/sheets')
  const give = (text: string) =>
    page
      .getByLabel('Take in a sheet', { exact: true })
      .first()
      .setInputFiles({ name: 's.json', mimeType: 'application/json', buffer: Buffer.from(text) })
  await give(JSON.stringify(sheet))
  const dialog = page.getByRole('dialog', { name: 'Nothing was taken in' })
  await expect(dialog).toContainText('/shafts/0/parts/0/width')
  await expect(dialog).toContainText('is not a unit read here')
  await expect(dialog).toContainText('/checks/0')
  await dialog.getByRole('button', { name: 'Done' }).click()
  await give('{ no json')
  await expect(dialog).toContainText('line 1, column 3')
  await dialog.getByRole('button', { name: 'Done' }).click()
  await give(' '.repeat(10 * 1024 * 1024))
  await expect(dialog).toContainText('10.0 MB; the most that is taken is 2 MB')
})

test('an unknown job, an unknown check and an unknown address say so', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/jobs/4711')
  await expect(page.getByText('There is no job 4711.')).toBeVisible()
  await page.goto(await placed(page, '/jobs/{Creamery van}/checks/none'))
  await expect(page.getByText(/no check “none”/)).toBeVisible()
  await page.goto('/nowhere')
  await expect(page.getByText('There is nothing at this address')).toBeVisible()
})

test('the search finds, and says when it does not', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/')
  await expect(page.getByRole('list', { name: 'Open jobs' })).toBeVisible()
  await page.getByRole('searchbox').focus()
  await page.keyboard.type('creamery 33')
  await expect(page.getByRole('list', { name: 'Open jobs' }).getByRole('listitem')).toHaveCount(1)
  await page.keyboard.type(' zebra')
  await expect(page.getByText(/No job has “creamery 33 zebra” in it/)).toBeVisible()
  await page.getByRole('button', { name: 'Clear the search' }).click()
  await page.getByRole('link', { name: 'Finished' }).click()
  // Those of the demo, and what other tests have handed over in the same shop.
  const finished = page.getByRole('list', { name: 'Finished jobs' }).getByRole('listitem')
  await expect.poll(() => finished.count()).toBeGreaterThanOrEqual(37)
})

test('a job goes out as a file and is taken in again; a file that is none says so', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/jobs/3/report')
  const saved = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Save as a file' }).click()
  const path = await (await saved).path()
  await page.goto('/')
  const give = (file: string | { name: string; mimeType: string; buffer: Buffer }) =>
    page.getByLabel('Take in a job’s file', { exact: true }).first().setInputFiles(file)
  await give({ name: 'j.json', mimeType: 'application/json', buffer: Buffer.from('{"format": "a letter"}') })
  const refused = page.getByRole('dialog', { name: 'Nothing was taken in' })
  await expect(refused).toContainText('no job’s file')
  await refused.getByRole('button', { name: 'Done' }).click()
  await give(path)
  const done = page.getByRole('dialog', { name: 'Taken in' })
  await expect(done).toContainText(/It is job \d+ here/)
  const job = /job (\d+)/.exec((await done.textContent()) ?? '')![1]!
  await done.getByRole('button', { name: 'Done' }).click()
  await page.goto(`/jobs/${job}/report`)
  await expect(page.getByRole('heading', { name: `Job ${job}: Creamery van` })).toBeVisible()
  await expect(page.getByText(/in, signed/)).toHaveCount(8)
  await page.goto(`/jobs/${job}`)
  await expect(page.getByText('Taken in from a file of Brandreth & Loam, where it was job 3')).toBeVisible()
})
