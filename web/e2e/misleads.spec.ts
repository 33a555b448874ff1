// What would mislead at the bench: the way that stands first, where the focus is after a strike-out, what is filled.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, take } from './bench'

test('the sheet’s way stands first, whatever another check was taken by', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/input-float`)
  await page.getByLabel('Taken by').selectOption('no_shim')
  await take(page, '1.20')
  await page.goto(`/jobs/${job}/checks/second-side`)
  await expect(page.getByLabel('Taken by')).toHaveValue('dial_travel')
})

test('after a strike-out the field has the focus, and a gauge that types adds a reading', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await take(page, '0.21', '0.91')
  await page.getByRole('button', { name: 'Strike out trial 2' }).click()
  await page.getByRole('button', { name: 'gauge moved' }).click()
  await expect(page.getByRole('button', { name: 'Restore trial 2' })).toBeVisible()
  await take(page, '0.22')
  // The bad one stays struck out, and the new one is kept.
  await expect(page.getByRole('button', { name: 'Restore trial 2' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Strike out trial 3' })).toBeVisible()
})

test('what will not do is not filled, and Enter does nothing with it', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  // Further than the thickest shim of the drawer sets.
  await take(page, '3.90', '3.91', '3.90')
  const choose = page.getByRole('region', { name: 'Choose' })
  await expect(choose.getByRole('button', { name: /^Choose/ }).first()).toBeVisible()
  await expect(choose.locator('button.press')).toHaveCount(0)
})

test('by the sheet alone nothing is said to be measured, and a pack has clearance', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'ormhal-a4')
  await page.goto(`/jobs/${job}/checks/direct-pack`)
  await expect(page.getByText('By the sheet’s figures: nothing is measured yet.')).toBeVisible()
  const loud = page.getByTestId('loud').locator('..')
  await expect(loud).toContainText('clearance')
  await expect(loud).not.toContainText('float')
  const picture = page.getByRole('img', { name: /by the sheet/ })
  await expect(picture.first()).toBeVisible()
  await expect(page.getByRole('img', { name: /measured \d/ })).toHaveCount(0)
})
