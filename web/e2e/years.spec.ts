// Over the years: a box that was here before beside what it was then, and what was found on boxes with a complaint.
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

test('a box that was here before is beside what was signed then', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Library van}'))
  await page.getByRole('link', { name: 'What has changed since' }).click()
  const checks = page.getByRole('region', { name: 'As found beside what was signed' })
  await expect(checks).toContainText('Side gear thrust clearance')
  await expect(checks).toContainText(/looser by 0\.133 ± 0\.017 mm, \d\.\d+ a year/)
  await expect(checks.getByRole('img', { name: /^Side gear thrust clearance: looser/ })).toBeVisible()
  const wear = page.getByRole('region', { name: 'Wear' })
  await expect(wear).toContainText('5.910 then, 5.840 mm now')
  await expect(wear).toContainText(/At that rate it is at its limit in \d+ months/)
  // A shaft that has worn less than two micrometers can tell is not given a rate to go by.
  await expect(wear).toContainText('Its wear cannot be told from the doubt of the measurements.')
})

test('what was found for a complaint is found by a word', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/tolvane-t5')
  await page.getByRole('link', { name: 'Found over the years' }).click()
  await page.getByLabel('A complaint, a part, a condition').fill('rounded')
  await expect(page.getByRole('heading', { level: 2 })).toHaveText(['Jumps out of second'])
  await expect(page.getByRole('region', { name: 'jumps out of second' })).toContainText(
    'Second gear5 of 5rounded dogs',
  )
  await page.getByLabel('A complaint, a part, a condition').fill('nothing such')
  await expect(page.getByRole('status').filter({ hasText: 'nothing such' })).toBeVisible()
})
