// The plan of closings, and a sheet whose own order takes more of them.
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

test('the plan closes the case least often, with the sheet’s own order beside it', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{School minibus}'))
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
