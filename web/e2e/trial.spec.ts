// What differs between the trial build and the final one is counted once.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, take } from './bench'

test('a gasket that is in already is not added a second time', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  await expect(page.getByText('gasket left out of the trial adds 0.08')).toBeVisible()
  await take(page, '1.25', '1.25', '1.25')
  await page
    .getByRole('button', { name: /^Choose 1\.16/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByText('Fitted. Close the case')).toBeVisible()
  // Closed up, with the gasket in.
  await page.getByLabel('Taken by').selectOption('dial_travel')
  await take(page, '0.17', '0.17', '0.17')
  await expect(page.getByTestId('loud')).toHaveText('0.250')
  const told = page.getByRole('alert').filter({ hasText: 'off by just what this makes' })
  await expect(told).toContainText('gasket left out of the trial')
  await told.getByRole('button', { name: 'It is in: do not add it' }).click()
  await expect(page.getByTestId('loud')).toHaveText('0.170')
  await expect(told).toHaveCount(0)
  await expect(page.getByText('As predicted, within what both figures allow.')).toBeVisible()
  // It is put right where it is said.
  await page.getByLabel(/measured as in the final build/).uncheck()
  await expect(page.getByTestId('loud')).toHaveText('0.250')
})
