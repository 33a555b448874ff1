// A ring gear: backlash at its teeth, run-out, a second set-up, and the shims at both ends of its shaft at once.
import { AxeBuilder } from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { allSeenTo, atTheBench, freshJob, take } from './bench'

/** Types backlash at one place after another; the next place comes by itself. */
async function teeth(page: Page, ...figures: string[]) {
  for (const figure of figures) {
    const rows = page.getByRole('button', { name: /^Strike out trial/ })
    const before = await rows.count()
    await page.getByLabel(/^Backlash at place/).fill(figure)
    await page.keyboard.press('Enter')
    await expect(rows).toHaveCount(before + 1)
  }
}

async function fitted(page: Page, thickness: string) {
  await page.getByLabel('What is fitted now, by micrometer').fill(thickness)
  await page.keyboard.press('Enter')
  await expect(page.getByText('Fitted now:')).toBeVisible()
}

/** A bevel box with the float of its ring gear's shaft and its backlash measured as found. */
async function measured(page: Page) {
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}/checks/ring-float`)
  await take(page, '0.21', '0.21', '0.22')
  await fitted(page, '1.18')
  await page.goto(`/jobs/${job}/checks/ring-mesh`)
  await teeth(page, '0.26', '0.27', '0.25', '0.24')
  await expect(page.getByTestId('loud')).toHaveText('0.255')
  await fitted(page, '1.16')
  return job
}

test('both ends are chosen at once, set aside in one press, and let go in one', async ({ page }) => {
  await atTheBench(page)
  const job = await measured(page)
  const split = page.getByTestId('split')
  await expect(split).toContainText('Best for both: cover shims')
  await expect(split).toContainText('One end alone')
  await expect(split).toContainText('Proven')
  await split.getByRole('button', { name: 'Set aside for both ends' }).click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeVisible()
  await page
    .getByRole('link', { name: /Ring gear shaft end float/ })
    .first()
    .click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toHaveCount(0)
  await page.goto(`/jobs/${job}/checks/ring-mesh`)
  await expect(page.getByRole('button', { name: 'Set aside for both ends' })).toBeVisible()
})

test('a second set-up finds how much the backlash grows; the same set-up again is refused at its field', async ({
  page,
}) => {
  await atTheBench(page)
  await measured(page)
  await expect(page.getByTestId('split')).toContainText('the sheet’s figure')
  await page.getByRole('button', { name: /second set-up/ }).click()
  await page.getByLabel(/^Backlash at place/).fill('0.40')
  await page.getByLabel(/moved away from the pinion by/).fill('0')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'the same set-up again' })).toBeVisible()
  await page.getByLabel(/moved away from the pinion by/).fill('0.2')
  await teeth(page, '0.40', '0.41', '0.39', '0.38')
  // (0.395 − 0.255) / 0.2
  await expect(page.getByTestId('split')).toContainText('grows by 0.70')
  await expect(page.getByTestId('split')).toContainText('found here by two set-ups')
  // What is judged is the backlash as the gear is set.
  await expect(page.getByTestId('loud')).toHaveText('0.255')
})

test('a gear that runs out is told, however good its mean, and signed with a reason only', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}/checks/ring-mesh`)
  await teeth(page, '0.10', '0.15')
  await expect(page.getByTestId('verdict')).toContainText('still without a reading, place 3, 4')
  await teeth(page, '0.20', '0.15')
  await expect(page.getByTestId('verdict')).toContainText('The gear runs out by 0.100 mm')
  await expect(page.getByRole('img', { name: /^Ring gear: place 1 0.100 mm narrowest/ })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Sign off as RT' })).toBeDisabled()
  await page.getByLabel('Reason for signing it all the same').fill('the pair is all there is')
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
})

test('a window that holds hot: the bench at 8 °C is brought there, the cold figure beside it', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}/checks/ring-float`)
  await take(page, '0.07', '0.07', '0.07')
  await expect(page.getByTestId('loud')).toHaveText('0.107')
  await page.getByRole('button', { name: 'warmer or colder' }).click()
  await page.getByLabel('Box and parts at, °C').fill('95')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: 'Measure' }).getByText('A bench is from')).toBeVisible()
  await page.getByLabel('Box and parts at, °C').fill('8')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Box and parts at 8 °C')).toBeVisible()
  // 62 × 2.1735 − 77 × 1.10448 = 49.7 µm.
  await expect(page.getByTestId('loud')).toHaveText('0.120')
  await expect(page.getByTestId('hot-window')).toContainText(
    'with the case at 70 °C and what it holds at 85 °C',
  )
})

test('what is not ticked asks why; all seen to, it is signed plainly', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-m5')
  await page.goto(`/jobs/${job}/checks/output-float`)
  await take(page, '0.16', '0.17', '0.16')
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await expect(page.getByText('Not ticked as seen to:')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Sign off as RT' })).toBeDisabled()
  await allSeenTo(page)
  await expect(page.getByRole('button', { name: 'Sign off as RT' })).toBeEnabled()
})

test('a backlash is written on a sheet, with what is wrong at its field', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/new')
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByRole('button', { name: 'Add a check' }).click()
  await page.getByLabel('Kind').selectOption('backlash')
  await page.getByLabel('Widest and narrowest differ by up to').fill('3 mm')
  await page.getByLabel('Widest and narrowest differ by up to').blur()
  await expect(page.getByText(/is no gear that runs/)).toBeVisible()
  await page.getByLabel('Missing it is').selectOption('tight')
  await page.getByLabel('So many times as bad').fill('1000')
  await page.getByLabel('So many times as bad').blur()
  await expect(page.getByText(/from 1.1 to 100/)).toBeVisible()
})

for (const width of [320, 820])
  test(`the ring gear and both its ends, ${width} wide, by axe and by hand`, async ({ page }) => {
    await page.setViewportSize({ width, height: 900 })
    await atTheBench(page)
    await measured(page)
    await expect(page.getByTestId('split')).toContainText('Best for both')
    const { violations } = await new AxeBuilder({ page }).analyze()
    expect(violations).toEqual([])
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
    expect(wide).toBeLessThanOrEqual(0)
  })
