// Every view and what is laid over it, on the screens a shop has, upright and lying, light and dark: nothing beyond the
// edge, nothing over a press, nothing to press that is too small for a finger, and nothing that axe finds. Each view is
// loaded once and looked at in every width there; where a change is to land, in a third of them.
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, freshJob, outOfReachOfFingers, placed } from './bench'
import { aThirdOf, VIEWS, type Theme } from './views'

/** A width, and the themes in which axe looks at it: in the dark only the colours are others, and on a phone all but they
 *  may be; a tablet is a width between two that axe looks at. */
type Screen = { width: number; axe: Theme[] }
const SCREENS: Screen[] = [
  { width: 320, axe: [] },
  { width: 768, axe: [] },
  { width: 820, axe: [] },
  { width: 390, axe: ['light'] },
  { width: 1280, axe: ['light'] },
  { width: 1280, axe: ['dark'] },
  { width: 1024, axe: [] },
  { width: 1112, axe: [] },
]
/** What is laid over a view is as wide as the screen lets it be: three tell. */
const FOR_WHAT_IS_ASKED: Screen[] = [
  { width: 390, axe: ['light'] },
  { width: 820, axe: [] },
  { width: 1280, axe: ['light', 'dark'] },
]

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

/** Of the whole page, or of what is within. */
async function nothingWrong(page: Page, where: string, { width, axe }: Screen, within: string) {
  for (const theme of axe) {
    await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme)
    const builder = new AxeBuilder({ page }).include(within)
    if (theme === 'dark') builder.withRules(['color-contrast'])
    else if (width < 820) builder.disableRules(['color-contrast'])
    const { violations } = await builder.analyze()
    expect(violations.map((v) => `${where} at ${width} px, ${theme}, ${v.id}: ${v.nodes[0]?.html}`)).toEqual(
      [],
    )
  }
  expect(await tooSmall(page), `${where} at ${width} px`).toEqual([])
}

test.describe.configure({ mode: 'parallel' })
// The longest views take their time under axe.
test.setTimeout(150_000)

for (const [nth, path] of VIEWS.entries()) {
  test(`${path} is for everybody, on every screen of a shop`, async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await atTheBench(page)
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    for (const screen of aThirdOf(SCREENS, nth)) {
      await page.setViewportSize({ width: screen.width, height: 900 })
      await expect
        .poll(() => outOfReachOfFingers(page), { message: `at ${screen.width} px` })
        .toEqual({ beyond: [], covered: [] })
      await nothingWrong(page, path, screen, 'body')
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
for (const [nth, [name, path, open]] of dialogs.entries()) {
  test(`what is asked is for everybody: ${name}`, async ({ page }) => {
    await page.emulateMedia({ reducedMotion: 'reduce' })
    await atTheBench(page)
    await page.goto(await placed(page, path))
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    await open(page)
    await expect(page.getByRole('dialog')).toBeVisible()
    for (const screen of aThirdOf(FOR_WHAT_IS_ASKED, nth)) {
      const { width } = screen
      // Turned in the middle: it stays where it was.
      await page.setViewportSize({ width, height: width === 820 ? 600 : 900 })
      await expect(page.getByRole('dialog')).toBeVisible()
      // The view behind it has a test of its own.
      await nothingWrong(page, name, screen, '[role=dialog]')
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
