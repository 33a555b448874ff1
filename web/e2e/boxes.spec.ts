// What automatics, motorcycles and transfer cases ask for, from the sheet that is written to the signature.
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { allSeenTo, atTheBench, placed } from './bench'
import { themesOf } from './views'

let last = 0

/** Opens a job on a sheet and returns the address of its checks. */
async function box(page: Page, sheet: string): Promise<string> {
  last += 1
  const answer = await page.request.post('/api/jobs', {
    headers: { 'Idempotency-Key': `box-${Date.now()}-${last}-${Math.random()}` },
    data: { sheet_key: sheet, title: `Box ${last}`, customer: 'A trial', complaint: '', who: 'RT' },
  })
  expect(answer.ok()).toBeTruthy()
  return `/jobs/${((await answer.json()) as { job_no: number }).job_no}/checks`
}

/** Types into what has the focus, Enter after each, and waits until so many readings are kept. */
async function keys(page: Page, kept: number, ...figures: string[]) {
  for (const figure of figures) {
    await page.keyboard.type(figure)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByRole('button', { name: /^Strike out trial/ })).toHaveCount(kept)
}

test('pinions are measured one by one with keys alone; the odd one is named, and drawn', async ({ page }) => {
  await atTheBench(page)
  await page.goto(`${await box(page, 'ormhal-a4')}/pinions`)
  await expect(page.getByLabel('End play of pinion 1')).toBeFocused()
  await keys(page, 1, '0.30')
  await expect(page.getByLabel('End play of pinion 2')).toBeFocused()
  await keys(page, 2, '0.30')
  await expect(page.getByTestId('verdict')).toContainText('still without a reading, 3, 4')
  await keys(page, 3, '0.47')
  await page.getByRole('group', { name: 'Leaves of the set' }).getByRole('button', { name: '0.30' }).click()
  await page.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByTestId('verdict')).toHaveText(
    /Not alike: loosest and tightest are 0.170 apart, up to 0.100 allowed. Pinion 3 is the odd one/,
  )
  await expect(page.getByRole('img', { name: /Carrier: .*pinion 3 0.470 mm, in; pinion 4/ })).toBeVisible()
  const confirm = page.getByRole('region', { name: 'Confirm' })
  await expect(confirm.getByRole('button', { name: /Sign off/ })).toBeDisabled()
  await page.getByRole('button', { name: 'Strike out trial 3' }).click()
  await page.getByLabel('Or another reason').fill('new washers')
  await page.getByRole('button', { name: 'Strike out', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Restore trial 3' })).toBeVisible()
  await page.getByRole('button', { name: /^3/ }).click()
  await keys(page, 4, '0.31')
  await expect(page.getByTestId('verdict')).toContainText('All in the window and alike')
  await confirm.getByRole('button', { name: /Sign off/ }).click()
  await expect(confirm).toContainText('Signed off by RT')
})

test('a selector is centred: gaps on the drum, shims moved end to end, gaps again, signed', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto(`${await box(page, 'skelt-m5')}/centring`)
  const shims = page.getByRole('region', { name: 'Choose' })
  await shims.getByLabel('Shims at the left end').fill('0.50')
  await shims.getByLabel('Shims at the right end').fill('0.30; 0.1o')
  await shims.getByRole('button', { name: 'They lie so' }).click()
  await expect(shims.getByText(/“0.1o”/)).toBeVisible()
  await shims.getByLabel('Shims at the right end').fill('0.30; 0.15')
  await shims.getByRole('button', { name: 'They lie so' }).click()
  await expect(shims).toContainText('As found: left 0.50, right 0.30 + 0.15 mm')
  await page.getByLabel('Left gap').focus()
  await expect(page.getByRole('img', { name: 'one dot, at the pointer' })).toBeVisible()
  await keys(page, 1, '0.60', '0.98')
  await expect(page.getByRole('img', { name: 'two dots, at the pointer' })).toBeVisible()
  await keys(page, 2, '0.74', '1.02')
  await expect(page.getByTestId('verdict')).toContainText('still without, Third')
  await keys(page, 3, '0.52', '0.88')
  await expect(page.getByTestId('loud')).toHaveText('0.360')
  await expect(page.getByTestId('verdict')).toHaveText('Too far off the middle by 0.160.')
  const best = page.getByRole('row', { name: /0.50 \+ 0.15 0.30 0.150 right 0.060/ })
  await best.getByRole('button', { name: /^Moved/ }).click()
  await expect(page.getByRole('region', { name: 'Confirm' })).toContainText(
    'Take the gaps of every gear again',
  )
  await expect(page.getByLabel('Left gap')).toBeFocused()
  await keys(page, 3, '0.75', '0.82', '0.88', '0.86', '0.67', '0.74')
  await expect(shims).toContainText('to leave 0.060 mm at the worst; it measures 0.070 now')
  await allSeenTo(page)
  await page.getByRole('button', { name: /Sign off/ }).click()
  await expect(page.getByRole('region', { name: 'Confirm' })).toContainText('at 0.070 mm off the middle')
  await page.getByText(/^History/).click()
  await expect(page.getByText('moved the shims: left 0.5 mm + 0.15 mm, right 0.3 mm')).toBeVisible()
})

test('ring, plate and steels are offered in one list; steels are swapped and the pack measured again', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto(`${await box(page, 'ormhal-a4')}/forward-pack`)
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  await keys(page, 3, '1.84', '1.85', '1.84')
  await page.getByLabel('What is fitted now').fill('1.70')
  await page.getByRole('region', { name: 'Choose' }).getByRole('button', { name: 'Keep' }).click()
  const offered = page.getByRole('table', { name: /Choices of every family/ })
  await expect(offered.getByRole('row', { name: /forward snap rings/ }).first()).toBeVisible()
  await expect(offered.getByRole('row', { name: /4.90, forward pressure plates/ }).first()).toBeVisible()
  await offered.getByRole('button', { name: 'Choose 2 × 2.00, forward steels' }).click()
  await expect(page.getByText('Forward steels, for 3.60 mm that come out')).toBeVisible()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  await keys(page, 3, '1.44', '1.44', '1.45')
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await expect(page.getByRole('region', { name: 'Confirm' })).toContainText('As predicted')
})

test('a spacer that is too long is ground, with the turning torque as a second opinion', async ({ page }) => {
  await atTheBench(page)
  await page.goto(`${await box(page, 'brannoch-r2')}/inter-preload`)
  await page.getByRole('radio', { name: 'thou' }).click()
  await page.getByText('Before the first reading').click()
  await expect(page.getByLabel(/Front cone lies with its own: Front cup/)).toBeVisible()
  await page.getByLabel('What is fitted now').fill('308')
  await page.getByRole('region', { name: 'Choose' }).getByRole('button', { name: 'Keep' }).click()
  for (const float of ['13', '13.5', '13']) {
    await page.getByLabel('Shim in').fill('10')
    await page.getByLabel('Float felt').fill(float)
    await page.getByLabel('Float felt').press('Enter')
    await expect(page.getByLabel('Float felt')).toHaveValue('')
  }
  await expect(page.getByTestId('loud')).toHaveText('3.2')
  await expect(page.getByText(/Grind the one that is fitted, 308, down by 5.4 thou/)).toBeVisible()
})

test('a selector, pinions, a second family and bearings that stay together are written on a sheet', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/new')
  await page.getByRole('tab', { name: 'Shafts' }).click()
  const part = async (n: number, name: string, kind: string) => {
    await page.getByRole('button', { name: 'Add a part' }).click()
    await page.getByLabel(`Part, part ${n}`).fill(name)
    await page.getByLabel(new RegExp(`^Kind, part ${n}`)).selectOption({ label: kind })
  }
  await part(1, 'Front cup', 'taper bearing')
  await part(2, 'Front cone', 'taper bearing')
  await page.getByText('Inners kept with their outers').click()
  await page.getByLabel('Front cone stays with').selectOption({ label: 'Front cup' })
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByRole('button', { name: 'Add a check' }).click()
  await page.getByLabel('What the check is called').fill('Centring')
  await page.getByLabel('Kind', { exact: true }).selectOption('selector_centring')
  // It opens with two gears to be named.
  await expect(page.getByLabel('How it is usually taken')).toHaveValue('selector_gaps')
  await page.getByLabel('Window to', { exact: true }).fill('0.2')
  await expect(page.getByLabel('Gear, gear 2')).toBeVisible()
  await page.getByLabel('Gear, gear 1').fill('Second')
  await page.getByLabel(/^Index mark at the pointer, gear 1/).fill('two dots')
  await expect(page.getByText('a check of selector gaps needs the gears')).toBeHidden()
  await page.getByLabel('Kind', { exact: true }).selectOption('pinion_end_play')
  await page.getByRole('button', { name: 'Take them off' }).click()
  await page.getByLabel('How it is usually taken').selectOption('one_by_one')
  await page.getByLabel('How many pinions').fill('4')
  await page.getByLabel('Loosest and tightest differ by up to').fill('0')
  await expect(page.getByLabel('Loosest and tightest differ by up to')).toHaveAccessibleDescription(
    /must be more than nothing/,
  )
  await page.getByLabel('Loosest and tightest differ by up to').fill('0.1')
  await expect(page.getByLabel('Loosest and tightest differ by up to')).toHaveAccessibleDescription('')
})

const PLACES = [
  ['/jobs/{Post 7, lighthouse round}/checks/centring', 'Move the shims'],
  ['/jobs/{Bus 4, school run}/checks/pinions', 'Choose'],
  ['/jobs/{Bus 4, school run}/checks/forward-pack', 'Choose wanted 2.143 mm'],
  ['/jobs/{Rescue 2}/checks/inter-preload', 'Choose'],
] as const
for (const [nth, [place, shown]] of PLACES.entries()) {
  test(`is accessible in both themes, and fits a phone: ${place}`, async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 })
    for (const theme of themesOf(nth)) {
      await atTheBench(page, theme)
      await page.goto(await placed(page, place))
      await expect(page.getByRole('heading', { name: shown }).first()).toBeVisible()
      const { violations } = await new AxeBuilder({ page }).analyze()
      expect(violations.map((v) => `${theme} ${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
      expect(wide).toBeLessThanOrEqual(0)
    }
  })
}
