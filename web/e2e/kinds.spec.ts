// Seat heights and fits: measured, judged in their own words, and written on a sheet.
import { expect, test, type Page } from '@playwright/test'
import { AxeBuilder } from '@axe-core/playwright'
import { atTheBench, freshJob, jobCalled, take } from './bench'
import { themesOf } from './views'

/** Types figures into the field that takes them, each kept before the next. */
async function keep(page: Page, label: RegExp, ...figures: string[]) {
  for (const figure of figures) {
    const rows = page.getByRole('button', { name: /^Strike out trial/ })
    const before = await rows.count()
    await page.getByLabel(label).fill(figure)
    await page.keyboard.press('Enter')
    await expect(rows).toHaveCount(before + 1)
  }
}

test('a bearing below its face: bar on the face, the groove clear, and no bar on the part among them', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-m5')
  await page.goto(`/jobs/${job}/checks/needle-seat`)
  await page.getByLabel('Places', { exact: true }).and(page.locator('select')).selectOption('4')
  await page.getByLabel('Bar is thick').fill('9.98')
  await keep(page, /^Depth at place/, '11.07', '11.03', '11.04', '11.08')
  await expect(page.getByTestId('loud')).toHaveText('1.075')
  await expect(page.getByText('mm below', { exact: true })).toBeVisible()
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await expect(page.getByTestId('groove')).toHaveText(
    'Ring groove from 0.93 mm below: wholly clear, by 0.145 mm.',
  )
  await page.getByRole('button', { name: 'the part: it stands proud' }).click()
  await page.getByLabel(/^Depth at place/).fill('11.05')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'take all round one way' })).toBeVisible()
  await expect(page.getByLabel(/^Depth at place/)).toHaveValue('11.05')
})

test('a fit by its limits, then measured loose: what can be done, and what cannot be', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/cover-fit`)
  await expect(page.getByTestId('loud')).toHaveText('0.015')
  await expect(page.getByTestId('drops-in')).toContainText(/the bore at \d+ °C/)
  await keep(page, /^Measures/, '66.706', '66.674')
  await expect(page.getByTestId('verdict')).toHaveText(/^Loose by 0.0\d+ mm\.$/)
  const ways = page.getByTestId('fit-ways-out')
  await expect(ways).toContainText('Retaining compound fills up to 0.1016 mm')
  await expect(ways).toContainText('would be right in this bore')
  await page.getByLabel('Which diameter').selectOption('2')
  await page.getByLabel(/^Measures/).fill('65.67')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'nothing fits: check the figure' })).toBeVisible()
})

test('a fit and a ring groove are written on a sheet, with what is wrong at its field', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/new')
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByRole('button', { name: 'Add a check' }).click()
  await page.getByLabel('Kind', { exact: true }).selectOption('fit')
  await expect(page.getByLabel('How it is usually taken')).toHaveValue('stack_sum')
  await page.getByLabel('The bore', { exact: true }).fill('Case bore')
  await page.getByLabel('The part', { exact: true }).fill('Race')
  await page.getByLabel('Diameter at 20 °C').nth(0).fill('41.20')
  await page.getByLabel('Diameter at 20 °C').nth(1).fill('4.121')
  await expect(page.getByLabel('Diameter at 20 °C').nth(1)).toHaveAccessibleDescription(
    /one of the two is wrong/,
  )
  await page.getByLabel('Diameter at 20 °C').nth(1).fill('41.21')
  await expect(page.getByLabel('Diameter at 20 °C').nth(1)).toHaveAccessibleDescription('')
  await page.getByLabel('Kind', { exact: true }).selectOption('seat_height')
  await expect(page.getByLabel('The bore', { exact: true })).toHaveCount(0)
  await expect(page.getByLabel('How it is usually taken')).toHaveValue('depth_from_bar')
  await expect(page.getByLabel(/^Window from; below under zero/)).toBeVisible()
  await page.getByLabel(/^Ring groove from/).fill('-0.4')
})

const SEATS = [
  ['skelt-m5', 'needle-seat'],
  ['brannoch-r2', 'cover-fit'],
] as const
for (const [nth, [sheet, check]] of SEATS.entries())
  for (const theme of themesOf(nth))
    test(`${check} is accessible in the ${theme} theme, and fits a phone`, async ({ page }) => {
      await atTheBench(page, theme)
      const job = await freshJob(page, sheet)
      await page.setViewportSize({ width: 390, height: 844 })
      await page.goto(`/jobs/${job}/checks/${check}`)
      await expect(page.getByRole('heading', { name: 'Choose' })).toBeVisible()
      const { violations } = await new AxeBuilder({ page })
        .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
        .analyze()
      expect(violations.map((v) => v.id)).toEqual([])
      const over = await page.evaluate(
        () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
      )
      expect(over).toBe(0)
    })

test('a closing says how likely all of it lands and what would raise that, and an open sum what to measure', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto(`/jobs/${await jobCalled(page, 'Library van')}`)
  const closing = page.getByTestId('close-once').filter({ hasText: 'case, all shafts' })
  await expect(closing).toContainText(/\d\s% that both land at once, with the best pieces on hand/)
  await closing.getByText('How that comes about').click()
  await expect(closing.getByTestId('working')).toContainText('×')
  await closing.getByRole('link', { name: 'main shaft end float' }).last().click()
  await expect(page.getByRole('heading', { level: 1, name: 'Main shaft end float' })).toBeVisible()
  const job = await freshJob(page, 'ormhal-a4')
  await page.goto(`/jobs/${job}/checks/direct-pack`)
  await expect(page.getByTestId('verdict')).toContainText(
    /limits of parts leave it open. To measure next: .*, \d+\s% that/,
  )
  await expect(page.getByTestId('next-terms').getByRole('row')).not.toHaveCount(0)
})

test('a shaft that rocks is turned by quarters, and its float is told from the rock', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await page.getByRole('button', { name: /^turn by quarters/ }).click()
  for (const [at, travel] of [
    ['0°', '0.25'],
    ['90°', '0.22'],
    ['180°', '0.19'],
    ['270°', '0.22'],
  ] as const) {
    await expect(page.getByLabel(`Travel with the shaft at ${at}`)).toBeFocused()
    await keep(page, /^Travel with the shaft/, travel)
  }
  await expect(page.getByTestId('loud')).toHaveText('0.220')
  await expect(
    page.getByText(/It rocks by 0.0300? mm as it is turned|It rocks by ± 0.0300? mm/),
  ).toBeVisible()
  await expect(page.getByRole('img', { name: /4 travels over the quarters/ })).toBeVisible()
  await expect(page.getByText('0.250 at 0°')).toBeVisible()
  // Where one was: the next quarter comes by itself.
  await page.reload()
  await expect(page.getByLabel('Travel with the shaft at 0°')).toBeFocused()
})

test('a figure to be looked up says where, a rule is no window, and the log is on the report', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/cover-fit`)
  await expect(page.getByTestId('look-up')).toContainText(
    'Look the figures up before this is signed off: The bearing maker',
  )
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  await expect(page.getByTestId('look-up')).toHaveCount(0)
  await page.goto(`/jobs/${job}`)
  await page.getByLabel('Note something on this job').fill('cover was bored once before')
  await page.keyboard.press('Enter')
  await expect(page.getByText('cover was bored once before')).toBeVisible()
  await page.goto(`/jobs/${job}/report`)
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('cover was bored once before')
  const auto = await freshJob(page, 'ormhal-a4')
  await page.goto(`/jobs/${auto}/checks/direct-pack`)
  await keep(page, /^Measures/, '22.81', '2.60', '7.19', '6.38', '4.10')
  await expect(page.getByTestId('verdict')).toHaveText(/^About what the rule asks, .* to be within it\.$/)
  await expect(page.getByRole('region', { name: 'Confirm' })).toContainText('is about what the rule asks')
})

test('a figure in its window and unlike the boxes before it is pointed out', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  await keep(page, /^Travel/, '1.30', '1.30', '1.31')
  await page
    .getByRole('button', { name: /^Choose / })
    .first()
    .click()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await keep(page, /^Travel/, '0.12', '0.12', '0.12')
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await expect(page.getByTestId('sisters')).toContainText(
    /unlike its sisters: \d+ boxes before it lay within 0\.1\d+ ± 0\.0\d+ mm float/,
  )
})

test('what is in stays, and the rest is added to it', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/front-float`)
  await page.getByRole('radio', { name: 'thou' }).click()
  await page.getByLabel(/^Travel/).focus()
  await take(page, '11.5', '12', '11.5')
  await page.getByLabel('What is fitted now').fill('10')
  await page.getByRole('region', { name: 'Choose' }).getByRole('button', { name: 'Keep' }).click()
  // Tight is worse than loose here, and the pieces rank by that.
  await expect(page.getByTestId('harm')).toContainText('Tight is 4 times as bad as loose here')
  const added = page.getByTestId('added')
  await added.getByText('Or leave the 10 in, and add to it').click()
  await added.getByRole('button', { name: 'Add 5', exact: true }).click()
  await expect(page.getByText('beside the 10 thou that stay in')).toBeVisible()
  await expect(page.getByRole('region', { name: 'Confirm' })).toContainText(
    'Add 5 thou to the 10 that stay in',
  )
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByText('Not measured since fitting')).toBeVisible()
  await expect(page.getByText(/Fitted now: 15/)).toBeVisible()
})
