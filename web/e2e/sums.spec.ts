// The sums without a job: worked as typed, kept in the address, put on a log.
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob } from './bench'
import { aThirdOf } from './views'

test('needle rows: the row is drawn, one short is called, and the address holds it all', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto('/')
  await page.getByRole('link', { name: 'Sums' }).click()
  await page.getByRole('link', { name: 'Needle rows' }).click()
  // Common practice, no source.
  await page.getByLabel('Shaft diameter').fill('0.875 in')
  await page.getByLabel('Roller diameter').fill('0.156 in')
  await expect(page.getByTestId('most')).toHaveText('20')
  await expect(page.getByRole('img', { name: /20 rollers round the shaft/ })).toBeVisible()
  await page.getByLabel('Rollers counted in a row').fill('19')
  await expect(page.getByText('there is room for 1 more: one is missing')).toBeVisible()
  await page.reload()
  await expect(page.getByLabel('Rollers counted in a row')).toHaveValue('19')
  await expect(page.getByRole('img', { name: /19 rollers/ })).toBeVisible()
  await page.getByLabel('Roller diameter').fill('1 in')
  await expect(page.getByRole('alert')).toContainText('thicker than the shaft')
  await page.getByLabel('Roller diameter').fill('0.156 in')
  await page.getByLabel('On the log of').selectOption(String(job))
  await page.getByRole('button', { name: 'Put it there' }).click()
  await page
    .getByRole('status')
    .getByRole('link', { name: `job ${job}` })
    .click()
  const log = page.getByRole('region', { name: 'Log' })
  await expect(log).toContainText('0.156 in rollers on 0.875 in: 20 fit')
  await log.getByLabel('Note something').fill('Rollers came in a tin, not counted')
  await log.getByRole('button', { name: 'Note', exact: true }).click()
  await expect(log.getByRole('listitem').first()).toContainText('in a tin')
  await log.getByRole('link', { name: 'the sum' }).click()
  await expect(page.getByTestId('most')).toHaveText('20')
})

test('ratios: tooth counts, and the gear that a turn names', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sums/ratios')
  await page.getByLabel('Gears, one a line').fill('first 17:34 15:30\nfourth\nreverse 17:34 14:32 back')
  await expect(page.getByRole('row', { name: /^first 4.000 0.250/ })).toBeVisible()
  await page.getByLabel('Input turned, turns').fill('1')
  await page.getByLabel('Output turned, turns').fill('-0,22')
  await expect(page.getByTestId('named')).toHaveText('It is in reverse.')
  await page.getByLabel('Output turned, turns').fill('0.6')
  await expect(page.getByTestId('named')).toContainText('No gear of these turns so')
  await page.getByLabel('Gears, one a line').fill('first 17:34 15-30')
  await expect(page.getByRole('alert')).toContainText('“15-30” is no pair')
})

test('selector centring: the shims are shared out anew, and a gear is added and taken out', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sums/centring')
  await expect(page.getByTestId('shift')).toHaveText('0.100')
  await expect(page.getByText('mm to the right')).toBeVisible()
  const ways = page.getByRole('table', { name: 'Ways to share the shims out' })
  await expect(ways.getByRole('row').nth(1)).toContainText('0.50 + 0.20 + 0.10')
  // What is ticked goes through the address, and comes back a moment later.
  const floats = page.getByLabel('Gear 3 has no stop of its own')
  await floats.click()
  await expect(floats).not.toBeChecked()
  await page.getByLabel('Gap at the left, gear 1').fill('0.84')
  await page.getByLabel('Take out gear 2').click()
  await expect(page.getByText('it lies best as it is')).toBeVisible()
  await page.reload()
  await expect(page.getByLabel('Name, gear 2')).toHaveValue('third')
  await page.getByLabel('Gap at the right, gear 2').fill('wide')
  await expect(page.getByRole('alert')).toContainText('“wide”')
})

test('gaps with limits: two shafts are laid so that the worst gap has most to spare', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sums/limited-gaps')
  // Second's dogs want 0.25 more: with what is in, the best is 0.3 to the left.
  await expect(page.getByText(/as it is now 0.500 is missing/)).toBeVisible()
  const then = page.getByRole('table', { name: 'Gaps now and then' })
  await expect(then.getByRole('row', { name: /^dogs of second/ })).toContainText('2.450')
  const before = Number(await page.getByTestId('spare').textContent())
  // With sizes in the drawer it can be had better.
  await page.getByLabel('Sizes in the drawer').fill('0.05 0.10 0.15 0.20 0.25')
  await expect(page.getByText(/out of the drawer/).first()).toBeVisible()
  expect(Number(await page.getByTestId('spare').textContent())).toBeGreaterThan(before)
  await page.getByLabel('From, gap 1', { exact: true }).fill('')
  await expect(page.getByRole('alert')).toContainText('dogs of second, engaged: say how small or how large')
  await page.getByLabel('To, gap 1', { exact: true }).fill('3.0')
  await page.getByRole('button', { name: 'Add a gap' }).click()
  await page.getByLabel('Now, gap 7').fill('wide')
  await expect(page.getByRole('alert')).toContainText('“wide”')
  await page.getByLabel('Take out gap 7').click()
  await expect(page.getByTestId('spare')).toBeVisible()
})

test('heat fit: hot enough, too hot, and both drawn; units in every unit', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sums/heat-fit')
  await expect(page.getByTestId('bore-at')).toContainText('Bore at 77 °C')
  await page.getByRole('textbox', { name: 'Part at 20 °C' }).fill('62.10 mm')
  await expect(page.getByText('△ Hotter than 120 °C')).toBeVisible()
  await page.getByLabel('The part is at').fill('-40')
  await expect(page.getByRole('img', { name: /the part at -40 °C/ })).toBeVisible()
  await page.getByLabel('Never hotter than').fill('warm')
  await expect(page.getByRole('alert')).toContainText('Degrees')
  await page.goto('/sums/units')
  await expect(page.getByRole('row', { name: /nearest 1\/64 inch 25\/32/ })).toBeVisible()
  await expect(page.getByRole('row', { name: /N·m 40.675/ })).toBeVisible()
})

test('the piece wanted, from typed sizes; one reading is said to be one', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sums/piece')
  // Common practice, no source: six pieces, not five and not seven.
  await page.getByLabel('Measured').fill('40.5 41 39.5 thou')
  await page.getByLabel('Step of the gauge').fill('0.5 thou')
  await page.getByLabel('Window from').fill('6 thou')
  await page.getByLabel('Window to').fill('12 thou')
  await page.getByLabel('Aim at').fill('9 thou')
  await page.getByLabel('Sizes there are').fill('5 thou')
  await page.getByLabel('Most pieces').fill('8')
  await page.getByRole('radio', { name: 'thou' }).click()
  await expect(page.getByTestId('wanted')).toHaveText('31.3')
  await expect(page.getByRole('table', { name: 'Choices' }).getByRole('row').nth(1)).toContainText('6 × 5')
  await page.reload()
  await expect(page.getByTestId('wanted')).toHaveText('31.3')
  await page.getByLabel('Measured').fill('40.5 thou')
  await expect(page.getByText('One reading says nothing of its own scatter')).toBeVisible()
  await page.getByLabel('Most pieces').fill('none')
  await expect(page.getByRole('alert')).toHaveText('From 1 to 8.')
})

test('known shims that agree and that do not; pinch, stack, hot and torque', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sums/known-shim')
  await page.getByRole('radio', { name: 'thou' }).click()
  await expect(page.getByTestId('clearance')).toHaveText('4.4')
  // Common practice, no source: this and the pinch below.
  await page.getByLabel('Shim in').fill('3 thou: 1 thou\n4 thou: 2 thou')
  await expect(page.getByTestId('clearance')).toHaveText('2.0')
  await page.getByLabel('Shim in').fill('5 thou: 9 thou\n0: 0')
  await expect(page.getByText(/contradict each other/)).toBeVisible()
  await page.goto('/sums/pinch')
  await page.getByLabel('The plate stands off').fill('5 thou')
  await page.getByLabel('Pinch wanted').fill('2 thou')
  await expect(page.getByTestId('pinch-shim')).toHaveText('3.0')
  await page.getByLabel('Pinch wanted').fill('6 thou')
  await expect(page.getByText(/lacks 1.0 thou even with no shim/)).toBeVisible()
  await page.goto('/sums/stack')
  await page.getByRole('radio', { name: 'mm', exact: true }).click()
  await expect(page.getByTestId('clearance')).toHaveText('0.550')
  await expect(page.getByRole('row', { name: /race and spacer/ })).toContainText('20.800')
  await page.goto('/sums/hot')
  await expect(page.getByTestId('nil')).toHaveText('39 °C')
  await page.getByLabel('The bench was at').fill('8')
  await expect(page.getByTestId('nil')).toHaveText('27 °C')
  await page.getByLabel('The case gets to').fill('78')
  await page.getByLabel('What it holds gets to').fill('9O')
  await expect(page.getByRole('alert')).toHaveText('Degrees, such as −5 or 85.')
  await page.getByLabel('What it holds gets to').fill('92')
  await page.getByLabel('Window there, from').fill('0.10')
  await page.getByLabel('Window to').fill('0.16')
  // −0.06 + 12 × 3.19 µm, and 282 mm × (58 × 23 − 72 × 11.7) nm.
  await expect(page.getByTestId('there')).toContainText('0.117 mm float: in the window.')
  await page.goto('/sums/torque')
  await page.getByLabel('Turning torque to').fill('1.0')
  await expect(page.getByText('turns too hard')).toBeVisible()
  await page.getByLabel('Turning torque to').fill('a lot')
  await expect(page.getByRole('alert')).toHaveText('A figure, such as 0.5.')
})

const SUMS = [
  'piece',
  'known-shim',
  'pinch',
  'stack',
  'hot',
  'centring',
  'limited-gaps',
  'torque',
  'needle-rows',
  'ratios',
  'heat-fit',
  'units',
]
for (const sum of aThirdOf(SUMS, 0)) {
  test(`${sum} is accessible, and fits a phone`, async ({ page }) => {
    await atTheBench(page, 'dark')
    await page.setViewportSize({ width: 390, height: 844 })
    await page.goto(`/sums/${sum}`)
    await expect(page.getByRole('region', { name: 'Answer' })).toContainText(/\d/)
    const { violations } = await new AxeBuilder({ page }).analyze()
    expect(violations.map((v) => `${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
    expect(wide).toBeLessThanOrEqual(0)
  })
}
