// Each view for everyone: by screen reader, in the dark, on a phone.
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { atTheBench, placed } from './bench'

const views = [
  ['bench', '/'],
  ['box', '/jobs/{Creamery van}'],
  ['gap, to choose', '/jobs/{Creamery van}/checks/input-float'],
  ['gap, too close', '/jobs/{Creamery van}/checks/main-float'],
  ['gap, signed', '/jobs/{Creamery van}/checks/diff-preload'],
  ['gap, nothing fits', '/jobs/{Van 17, five-speed}/checks/diff-side'],
  ['gap, ways side by side', '/jobs/{Van 17, five-speed}/checks/input-float'],
  ['drawers', '/drawers'],
  ['gauges', '/gauges'],
  ['sheets', '/sheets'],
  ['sheet', '/sheets/tolvane-t5'],
  ['plan', '/jobs/{School minibus}/plan'],
  ['predictions', '/sheets/tolvane-t5/past'],
  ['report', '/jobs/{Creamery van}/report'],
] as const

for (const theme of ['light', 'dark'] as const) {
  for (const [name, path] of views) {
    test(`${name} is accessible in the ${theme} theme`, async ({ page }) => {
      await atTheBench(page, theme)
      await page.goto(await placed(page, path))
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
      await page.waitForLoadState('networkidle')
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
        .analyze()
      expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join('; ')}`)).toEqual(
        [],
      )
    })
  }
}

for (const [name, path] of views) {
  test(`${name} fits a phone without scrolling sideways`, async ({ page }) => {
    await atTheBench(page)
    await page.setViewportSize({ width: 390, height: 844 })
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    const over = await page.evaluate(
      () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
    )
    expect(over).toBe(0)
  })
}

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
