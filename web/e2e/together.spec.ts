// Choosing for all checks of a box at once, as a rebuilder would.
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { atTheBench, jobCalled, placed } from './bench'

test('a box measured through: shared out, one pinned, set aside, and shown in the box', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Ferry ramp tug}'))
  await page.getByRole('link', { name: 'Choose together' }).click()
  const result = page.getByTestId('together')
  await expect(result).toContainText(/\d of 4 land in their windows/)
  await expect(page.getByText(/every one has been ruled out/)).toBeVisible()
  await expect(page.getByRole('region', { name: 'Not chosen for' })).toContainText('fifth gear')
  const idler = page.getByRole('row').filter({ has: page.getByRole('link', { name: /^Idler/ }) })
  const before = await idler.innerText()
  await idler.getByRole('checkbox').check()
  await expect(result).toContainText('of 4')
  await expect(idler.getByRole('checkbox')).toBeChecked()
  expect(await idler.innerText()).toBe(before)
  const faults = await new AxeBuilder({ page }).analyze()
  expect(faults.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
  await page.getByRole('button', { name: 'Set these aside' }).click()
  await expect(page.getByText('All set aside')).toBeVisible()
  await page.getByRole('link', { name: 'To the box' }).click()
  await expect(page.getByRole('list', { name: 'Checks' })).toContainText('to fit')
  // What one check gets can still be let go by itself.
  await page.goto(await placed(page, '/jobs/{Ferry ramp tug}/checks/diff-side'))
  await page.getByRole('button', { name: 'Let it go' }).click()
  await expect(page.getByRole('button', { name: /^Choose / }).first()).toBeVisible()
})

test('the whole bench is shared out by job, and a search can be stopped', async ({ page }) => {
  await atTheBench(page)
  // An answer that does not come, as of a search that goes on and on.
  let calls = 0
  await page.route('**/api/share', async (route) => {
    calls += 1
    if (calls === 1) await new Promise((done) => setTimeout(done, 3000))
    await route.continue().catch(() => undefined)
  })
  await page.goto('/')
  await page.getByRole('link', { name: 'Choose together' }).click()
  await expect(page.getByText('Sharing the drawers out')).toBeVisible()
  await page.getByRole('button', { name: 'Stop' }).click()
  await expect(page.getByText('Sharing the drawers out')).toHaveCount(0)
  await page.reload()
  await expect(page.getByTestId('together')).toContainText('land in their windows')
  await expect(
    page.getByRole('link', { name: `Job ${await jobCalled(page, 'Library van')}` }).first(),
  ).toBeVisible()
  await expect(page.getByText('Nothing left in the drawer fits').first()).toBeVisible()
})

test('phone: nothing is wider than the screen', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  await atTheBench(page)
  await page.goto('/together')
  await expect(page.getByTestId('together')).toBeVisible()
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
  expect(wide).toBeLessThanOrEqual(0)
})

test('what to order: a list with its reasons, checks not measured yet when asked, and a file', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Van 17, five-speed}/checks/diff-side'))
  await page.getByRole('link', { name: 'Order', exact: true }).click()
  await expect(page.getByTestId('order')).toContainText('1 piece in 1 size.')
  const list = page.getByRole('table', { name: 'The order' })
  await expect(list).toContainText('Side gear washers')
  await expect(page.getByRole('region', { name: 'Why these' })).toContainText('95 % confidence')
  await expect(page.getByRole('region', { name: 'Nothing can be said of' })).toContainText('main shaft')
  await page.getByLabel(/not measured yet/).click()
  await expect(page.getByText(/3\d boxes before it wanted/).first()).toBeVisible()
  const faults = await new AxeBuilder({ page }).analyze()
  expect(faults.violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Save as CSV' }).click()
  expect((await download).suggestedFilename()).toBe('order.csv')
  await page.getByLabel(/not measured yet/).click()
  await expect(page.getByTestId('order')).toContainText('1 piece in 1 size.')
  await page.getByRole('button', { name: 'These pieces are ordered' }).click()
  await expect(page.getByRole('status')).toContainText('1 piece is on order.')
  await expect(page.getByTestId('order')).toHaveCount(0)
  await page.getByRole('status').getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByTestId('order')).toContainText('1 piece in 1 size.')
})
