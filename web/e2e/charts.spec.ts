// Selection charts: entered on the sheet, and read beside the calculation.
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

test('a chart is taken in, refused by row, put right, and read on the next job', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/tolvane-t5')
  const row = page.getByRole('row').filter({ hasText: 'Fifth gear thrust' })
  await row.getByRole('button', { name: 'add a chart' }).click()
  await page.getByLabel('What is measured to read it').fill('Float with no spacer in')
  await page.getByLabel(/The chart’s step/).fill('0.01')
  const rows = page.getByLabel(/^Rows/)
  await rows.fill('7.6, 7.66, 7.86\n7.7, 7.72, 7.92\n7.72, 7.78, 7.98')
  await page.getByRole('button', { name: 'Keep as a new revision' }).click()
  await expect(page.getByRole('alert')).toContainText('row 2 there is a hole')
  await expect(rows).toHaveValue(/7.7, 7.72/)
  await rows.fill('7.6, 7.66, 7.86\n7.66, 7.72, 7.92\n7.72, 7.78, 7.98')
  await page.getByRole('button', { name: 'Keep as a new revision' }).click()
  await expect(row.getByRole('button', { name: 'chart, 3 rows' })).toBeVisible()
  await row.getByRole('button', { name: 'chart, 3 rows' }).click()
  await page.getByRole('button', { name: 'Take the chart off' }).click()
  await expect(row.getByRole('button', { name: 'add a chart' })).toBeVisible()

  await page.goto(await placed(page, '/jobs/{Library van}/checks/main-float'))
  await expect(page.getByTestId('chart')).toContainText('The chart says 1.72 mm')
})

test('a preload is shown hot and cold, with the temperature at which it is gone', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Library van}/checks/diff-preload'))
  const hot = page.getByRole('region', { name: 'Hot and cold' })
  // 168 mm of aluminium over steel opens 1.9 µm a kelvin: a preload of about 0.087 mm, 46 K.
  await expect(hot.getByTestId('nil')).toHaveText('66 °C')
  await expect(hot.getByRole('img')).toHaveAccessibleName(/at -30 °C .* at 130 °C/)
  await page.goto(await placed(page, '/jobs/{Library van}/checks/diff-side'))
  await expect(page.getByRole('region', { name: 'Choose' })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Hot and cold' })).toHaveCount(0)
})
