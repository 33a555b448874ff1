// With fingers alone: what a drawing shows is named where it is touched.
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

test.use({ hasTouch: true, viewport: { width: 820, height: 1100 } })

test('a plate that is touched is named', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Bus 4, school run}/checks/direct-pack'))
  const pack = page.getByRole('img', { name: /Direct pack/ }).first()
  await pack.locator('g:has(> title)', { hasText: 'friction' }).first().tap()
  await expect(page.getByTestId('named').first()).toContainText(/friction.*, .* mm/)
})
