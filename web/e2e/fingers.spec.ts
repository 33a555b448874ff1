// Every view and what is laid over it, on a phone, a tablet and a laptop, light and dark: nothing that axe finds, and
// nothing to press that is too small for a finger.
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, placed } from './bench'
import { VIEWS } from './views'

const SCREENS = [390, 820, 1280]

/** What can be pressed and is smaller than 44 px either way, but for words within a line. */
const tooSmall = (page: Page) =>
  page.evaluate(() => {
    const presses = document.querySelectorAll<HTMLElement>(
      'button, a[href], input:not([type=hidden]), select, summary, [role=button], [role=tab]',
    )
    const name = (e: Element) =>
      `${e.tagName} ${(e.getAttribute('aria-label') ?? e.textContent ?? '').trim().slice(0, 40)}`
    return [...presses]
      .filter((e) => !e.closest('.skip, svg, .sr-only') && !e.matches('.sr-only, :disabled'))
      .filter((e) => {
        // A word within a sentence is as high as its line (WCAG 2.5.8).
        const inline = getComputedStyle(e).display.startsWith('inline')
        let line = e.parentElement
        while (line && getComputedStyle(line).display === 'inline') line = line.parentElement
        const alone = line?.textContent?.trim() === e.textContent?.trim()
        if (inline && !alone) return false
        const press = e.closest('label') ?? e
        const { width, height } = press.getBoundingClientRect()
        return width > 0 && (height < 43.5 || width < 43.5)
      })
      .map(name)
  })

/** Of the whole page, or of what is within. In the dark only the colours are others, and on a phone all but they may be;
 *  a tablet is a width between two that axe looks at. */
async function nothingWrong(page: Page, [where, width]: [string, number], within: string) {
  for (const theme of themesAt(width)) {
    await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme)
    const axe = new AxeBuilder({ page }).include(within)
    if (theme === 'dark') axe.withRules(['color-contrast'])
    else if (width < 820) axe.disableRules(['color-contrast'])
    const { violations } = await axe.analyze()
    expect(violations.map((v) => `${where}, ${theme}, ${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
  }
  expect(await tooSmall(page), where).toEqual([])
}

const themesAt = (width: number) => ({ 390: ['light'], 1280: ['light', 'dark'] })[width] ?? []

// The longest views take their time under axe.
test.setTimeout(150_000)

for (const path of VIEWS) {
  test(`${path} is for everybody, on every screen`, async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await atTheBench(page)
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    for (const width of SCREENS) {
      await page.setViewportSize({ width, height: 900 })
      await nothingWrong(page, [`${width} px`, width], 'body')
    }
  })
}

const BOX = '/jobs/{Creamery van}'
const dialogs: [string, string, (page: Page) => Promise<void>][] = [
  [
    'who is at the bench',
    '/',
    (page) => page.getByRole('button', { name: /is at the bench: change/ }).click(),
  ],
  ['keys', '/', (page) => page.keyboard.press('?')],
  ['find', '/', (page) => page.keyboard.press('/')],
  ['a new job', '/', (page) => page.getByRole('button', { name: 'New job' }).click()],
  [
    'a size',
    '/drawers',
    (page) =>
      page
        .getByRole('button', { name: /^1.12 mm/ })
        .first()
        .click(),
  ],
  ['a new drawer', '/drawers', (page) => page.getByRole('button', { name: 'Open a drawer' }).click()],
  ['sizes', '/drawers', (page) => page.getByRole('button', { name: 'Add sizes' }).first().click()],
  [
    'a measured piece',
    '/drawers',
    (page) => page.getByRole('button', { name: 'Put in a measured piece' }).first().click(),
  ],
  [
    'a target of its own',
    `${BOX}/checks/main-float`,
    (page) => page.getByRole('button', { name: 'Set otherwise' }).first().click(),
  ],
  ['a gauge', '/gauges', (page) => page.getByRole('main').getByRole('button').first().click()],
  [
    'what a rebuilder would ask about',
    '/sheets/skelt-m5/write',
    async (page) => {
      await page.getByRole('tab', { name: 'Shafts' }).click()
      await page
        .getByLabel('First gear, on the shaft meshes with')
        .selectOption({ label: 'Second gear, driven, Output shaft' })
      await page.getByRole('button', { name: '1 to ask about' }).click()
    },
  ],
]
for (const [name, path, open] of dialogs) {
  test(`what is asked is for everybody: ${name}`, async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await atTheBench(page)
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    await open(page)
    await expect(page.getByRole('dialog')).toBeVisible()
    for (const width of SCREENS) {
      // Turned in the middle: it stays where it was.
      await page.setViewportSize({ width, height: width === 820 ? 600 : 900 })
      await expect(page.getByRole('dialog')).toBeVisible()
      // The view behind it has a test of its own.
      await nothingWrong(page, [`${name} at ${width} px`, width], '[role=dialog]')
    }
  })
}
