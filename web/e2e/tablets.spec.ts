// On the screens a shop has, upright and lying: nothing beyond the edge, nothing over a press.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, outOfReachOfFingers, placed } from './bench'
import { VIEWS } from './views'

const WIDTHS = [320, 390, 768, 820, 1024, 1112, 1280]
for (const path of VIEWS) {
  test(`${path} fits every screen of a shop`, async ({ page }) => {
    await atTheBench(page)
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    for (const width of WIDTHS) {
      await page.setViewportSize({ width, height: 800 })
      await expect
        .poll(() => outOfReachOfFingers(page), { message: `at ${width} px` })
        .toEqual({ beyond: [], covered: [] })
    }
  })
}

test('a word of eighty letters stays on the screen', async ({ page }) => {
  await atTheBench(page)
  const long = 'W'.repeat(80)
  const job = await freshJob(page, 'tolvane-t5', long)
  for (const path of ['/', `/jobs/${job}`, `/jobs/${job}/checks/input-float`, `/jobs/${job}/report`]) {
    await page.goto(path)
    await expect(page.getByText(long).first()).toBeVisible()
    for (const width of [320, 768, 1280]) {
      await page.setViewportSize({ width, height: 800 })
      await expect
        .poll(async () => (await outOfReachOfFingers(page)).beyond, { message: `${path} at ${width} px` })
        .toEqual([])
    }
  }
})
