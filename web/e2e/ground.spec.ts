// A piece that was ground to size, from where grinding is proposed.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob } from './bench'

test('what was ground is kept by what it measures, and is fitted', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/inter-preload`)
  await page
    .getByLabel(/What is fitted|What they measure/)
    .first()
    .fill('308 thou')
  await page.keyboard.press('Enter')
  // The focus goes on once it is kept.
  await expect(page.getByLabel(/^Shim/).first()).toBeFocused()
  for (let n = 0; n < 2; n++) {
    await page.getByLabel(/^Shim/).first().fill('10 thou')
    await page
      .getByLabel(/^Float/)
      .first()
      .fill('13 thou')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /^(Strike out|Restore) / })).toHaveCount(n + 1)
  }
  const ways = page.getByTestId('ways-out')
  await expect(ways).toContainText('Grind the one that is fitted')
  await ways.getByRole('button', { name: 'I ground it' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('It measures now').fill('312 thou')
  await dialog.getByRole('button', { name: 'It is fitted' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Grinding takes off')
  await dialog.getByLabel('It measures now').fill('302.9 thou')
  await dialog.getByRole('button', { name: 'It is fitted' }).click()
  await expect(dialog).toHaveCount(0)
  await expect(page.getByText('A line of its own in the drawer, and fitted.').first()).toBeVisible()
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeVisible()
})
