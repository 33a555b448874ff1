// Each view for everyone: what is drawn is said as well. What axe finds, and what fits, see screens.
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

test('a check of the list and the cut on the rail say the same', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Creamery van}'))
  const cut = page.getByRole('link', { name: /^Input shaft end float: 0.243 mm float, loose, to choose/ })
  await expect(cut).toBeVisible()
  await expect(
    page
      .getByRole('list', { name: 'Checks' })
      .getByRole('listitem')
      .filter({ hasText: 'Input shaft end float' }),
  ).toContainText('to choose · loose')
  await cut.click()
  await expect(page.getByRole('heading', { name: 'Input shaft end float' })).toBeVisible()
})
