// Set otherwise than the sheet says, what is usual, and the plan of closings.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, take } from './bench'

test('a target and a window of the job’s own, with a reason, beside the book’s', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  await take(page, '1.60', '1.60', '1.61')
  await expect(page.getByText('aim 0.13')).toBeVisible()
  await expect(page.getByTestId('by-book')).toContainText('The book says 0.10 to 0.20 mm: loose by the book')
  await expect(page.getByRole('row', { name: /^1 Working of 1.52/ })).toContainText('book')
  const dialog = page.getByRole('dialog')
  await page.getByRole('button', { name: 'Set otherwise on this job' }).click()
  await dialog.getByLabel('Aim').selectOption('A stated clearance')
  await dialog.getByLabel('Clearance aimed at').fill('0.19')
  await dialog.getByRole('button', { name: 'Work to this' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Say why')
  await dialog.getByLabel('Why').fill('Runs hot on the quarry road')
  await dialog.getByRole('button', { name: 'Work to this' }).click()
  await expect(dialog.getByRole('alert')).toContainText('outside the window')
  await dialog.getByLabel('Window').selectOption('The book’s')
  await dialog.getByRole('button', { name: 'Work to this' }).click()
  await expect(dialog).toBeHidden()
  await expect(page.getByText('Window 0.10 to 0.20 mm · aim 0.19')).toBeVisible()
  await expect(page.getByText('Set otherwise on this job: Runs hot on the quarry road')).toBeVisible()
  await expect(page.getByTestId('by-book')).toHaveCount(0)
  await page.goto(`/jobs/${job}/report`)
  await expect(page.getByText(/Runs hot on the quarry road/).first()).toBeVisible()
})

test('the usual difference is offered, counted with when asked, and left out again', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  await take(page, '1.60', '1.60', '1.61')
  const offer = page.getByTestId('usual')
  await expect(offer).toContainText(/On \d+ boxes this came out 0.00\d mm tighter than predicted/)
  const wanted = page.getByText(/^wanted 1\.\d+ mm/)
  const before = await wanted.textContent()
  await offer.getByRole('button', { name: 'Count with it' }).click()
  await expect(page.getByText(/Counted with the usual difference/)).toBeVisible()
  await expect(wanted).not.toHaveText(before ?? '')
  await page.getByRole('button', { name: 'Leave it out' }).click()
  await expect(wanted).toHaveText(before ?? '')
  await offer.getByRole('link', { name: 'how they came out' }).click()
  const main = page.getByRole('region', { name: 'Main shaft end float' })
  await expect(main).toContainText('tighter than predicted')
  await expect(main.getByRole('img')).toHaveAttribute('aria-label', /job \d+: 0.0\d\d (tighter|looser)/)
})

test('the plan closes the case least often, with the sheet’s own order beside it', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/jobs/33')
  await page.getByRole('link', { name: 'Plan' }).click()
  await expect(page.getByTestId('plan')).toContainText('6 closings of the case')
  await expect(page.getByTestId('plan')).toContainText('own order is the same')
  // A sheet that has its checks in a worse order.
  const file = await page.request.get('/api/sheets/tolvane-t5/file')
  const sheet = (await file.json()) as { key: string; name: string; checks: { key: string }[] }
  sheet.key = 'tolvane-t5-shuffled'
  sheet.name = 'Tolvane T5, shuffled'
  const idler = sheet.checks.findIndex((c) => c.key === 'idler-thrust')
  sheet.checks.push(...sheet.checks.splice(idler, 1))
  const taken = await page.request.post('/api/sheets', {
    headers: { 'Idempotency-Key': `e2e-shuffled-${Date.now()}` },
    data: { text: JSON.stringify(sheet), who: 'RT' },
  })
  expect(taken.ok()).toBeTruthy()
  await page.goto('/sheets/tolvane-t5-shuffled')
  await page.getByRole('link', { name: 'Plan' }).click()
  await expect(page.getByTestId('plan')).toContainText('The sheet’s own order takes 8: 2 more splits.')
  const fewest = page.getByRole('region', { name: 'Fewest closings' })
  const line = fewest.getByRole('row', { name: /^Idler gear thrust clearance/ })
  await expect(line.getByRole('cell').nth(1)).toContainText('measure, choose, fit')
  await expect(line.getByRole('cell').nth(2)).toContainText('measure again')
  await expect(page.getByRole('region', { name: /own order/ }).getByText('Closing 8')).toBeVisible()
})
