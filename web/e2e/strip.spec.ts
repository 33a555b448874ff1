// The box coming apart: part by part by keyboard, what has to be got, what it makes due, and two people at one part.
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, does, freshJob, tabTo } from './bench'

const part = (page: Page) => page.getByRole('region', { name: 'Part' })
const toGet = (page: Page) => page.getByRole('region', { name: 'To get' })

const say = (page: Page, job: number, did: object, who = 'OB') => does(page, job, { of: 'part', did }, who)

test('a box is stripped by keyboard: one key a state, what is worn is got, what was pressed wrongly is undone', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5')
  await page.goto(`/jobs/${job}`)
  await expect(page.getByRole('link', { name: 'Strip' })).toBeVisible()
  await tabTo(page, /^Strip$/)
  await page.keyboard.press('Enter')
  const name = part(page).getByRole('heading', { level: 1 })
  await expect(name).toHaveText('Front bearing')
  await expect(name).toBeFocused()
  await page.keyboard.press('1')
  await expect(name).toHaveText('First, input')
  // Worn: its condition by a press, then what becomes of it.
  await tabTo(page, /^rounded dogs$/)
  await page.keyboard.press('Enter')
  await page.keyboard.press('2')
  await expect(name).toHaveText('Reverse, input')
  await expect(toGet(page)).toContainText('1 × First, inputrounded dogs')
  // Reworked asks with what; Enter then says it again.
  await page.keyboard.press('3')
  const why = page.getByLabel('Why, or what was done to it')
  await expect(why).toBeFocused()
  await expect(part(page).getByRole('alert')).toContainText('Say what was done to it')
  await page.keyboard.type('burrs stoned off')
  await page.keyboard.press('Enter')
  await expect(name).toHaveText('Second, input')
  // Back along the rail: what stands is said, with whose word it is.
  await page.keyboard.press('ArrowLeft')
  await expect(page.getByTestId('stands')).toContainText('Reworked, said RT: burrs stoned off')
  await page.keyboard.press('ArrowLeft')
  await expect(name).toHaveText('First, input')
  await page.getByRole('button', { name: 'take that back' }).press('Enter')
  await expect(page.getByTestId('stands')).toHaveCount(0)
  await expect(toGet(page)).not.toContainText('First, input')
  // Loose pieces that are short.
  await page
    .getByRole('list', { name: 'Parts' })
    .getByRole('button', { name: /Loose rollers of the idler gear/ })
    .click()
  await page.getByLabel('How many were there, of 46').fill('44')
  await page.getByRole('button', { name: /^Goes back in/ }).click()
  await expect(toGet(page)).toContainText('2 × Loose rollers of the idler gear44 of 46 were there')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(toGet(page)).not.toContainText('Loose rollers')
})

test('two people do not write over each other, and the report tells what was found', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}/strip`)
  const name = part(page).getByRole('heading', { level: 1 })
  await expect(name).toHaveText('Pinion nut')
  const other = await say(page, job, { act: 'found', part: 'p-nut', state: 'missing' })
  expect(other.ok(), await other.text()).toBeTruthy()
  await page.keyboard.press('1')
  await expect(part(page).getByRole('alert')).toContainText('OB has looked at it meanwhile')
  await expect(page.getByTestId('stands')).toContainText('Was missing, said OB')
  // The report tells what was found.
  await page.goto(`/jobs/${job}/report`)
  await expect(page.getByRole('region', { name: 'What was found' })).toContainText(
    'Pinion nutWas missing · OB',
  )
})

test('what a part makes due is told before anybody says what becomes of it', async ({ page }) => {
  await atTheBench(page)
  for (const [sheet, name, due] of [
    ['skelt-m5', 'Right fork', /selector|centring/i],
    ['skelt-b2', 'Ring gear', /backlash/i],
    ['ormhal-a4', 'Forward plates', /forward pack/i],
  ] as const) {
    const job = await freshJob(page, sheet)
    await page.goto(`/jobs/${job}/strip`)
    const parts = page.getByRole('list', { name: 'Parts' })
    await parts
      .getByRole('button', { name: new RegExp(name) })
      .first()
      .click()
    await expect(part(page).getByText(/^Another one makes due: /)).toContainText(due)
  }
})

test('a size against its wear limit is judged as it is typed, and told where it goes back all the same', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5')
  await page.goto(`/jobs/${job}/strip`)
  await page
    .getByRole('list', { name: 'Parts' })
    .getByRole('button', { name: /First and second fork/ })
    .click()
  const size = page.getByLabel('Measured, mm')
  await size.fill('5,6o')
  await expect(part(page).getByRole('alert')).toBeVisible()
  await size.fill('5.81')
  await expect(page.getByTestId('worn')).toContainText('5.810 mm: 50 % of its wear used')
  // One that sees less leaves open what the usual one would have settled, and stays with the finding.
  await size.fill('5.69')
  await expect(page.getByTestId('worn')).toContainText('5.690 mm: 96 % of its wear used')
  const micrometer = page.getByLabel('Measured with')
  await expect(micrometer).toHaveValue('mic-25')
  await micrometer.selectOption({ label: 'Old micrometer 0 to 25' })
  await expect(page.getByTestId('worn')).toContainText('5.690 mm: too close to call')
  await size.fill('0.2205"')
  await expect(page.getByTestId('worn')).toContainText('5.601 mm: worn out by 0.079')
  // Worn out it goes back in only with a word of why; the press that is filled is the other.
  await page.getByRole('button', { name: /^Goes back in/ }).click()
  const why = page.getByLabel('Why, or what was done to it')
  await expect(why).toBeFocused()
  await expect(part(page)).toContainText('It measures beyond its limit: say why it goes back in.')
  await why.fill('the box is for trials')
  await why.press('Enter')
  await expect(
    page.getByRole('list', { name: 'Parts' }).getByRole('button', { name: /First and second fork/ }),
  ).toContainText('the box is for trials')
  await page.goto(`/jobs/${job}/report`)
  await expect(page.getByRole('region', { name: 'What was found' })).toContainText(
    'thickness of the pads 5.601 mm: worn out by 0.079',
  )
})

test('a wear limit is written on a sheet, and a new part that would be worn out is pointed at', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/skelt-b2/write')
  await page.getByRole('tab', { name: 'Parts' }).click()
  await page.getByLabel('Add a wear limit of').selectOption({ label: 'Wheel side seal' })
  const limit = page.getByRole('group', { name: 'Wear limit of Wheel side seal' })
  await limit.getByLabel('What is measured').fill('height of the lip')
  await limit.getByLabel('New').fill('4')
  await limit.getByLabel('At least').fill('4.2')
  await limit.getByLabel('At most').click()
  await expect(limit).toContainText('a new one would be worn out by this limit')
  await limit.getByLabel('New').fill('4.4')
  await limit.getByLabel('At most').click()
  await expect(limit).not.toContainText('worn out')
})

test('the keys end with the last part, and what is turned round or must be new asks a word', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}/strip`)
  const becomes = part(page).getByRole('group', { name: 'What becomes of it' })
  const rows = page.getByRole('list', { name: 'Parts' }).getByRole('button')
  await expect(rows.first()).toBeVisible()
  const all = await rows.count()
  for (let n = 0; n < all; n += 1) {
    const head = await part(page).getByRole('heading', { level: 1 }).textContent()
    // The filled press is the one that is due: new where it is always new.
    const isNew = await part(page).getByText('New at every overhaul').isVisible()
    await expect(becomes.locator('.press')).toHaveText(isNew ? /New one/ : /Goes back in/)
    await page.keyboard.press(isNew ? '2' : '1')
    await expect(part(page).getByRole('heading', { level: 1 })).not.toHaveText(head ?? '')
  }
  await expect(page.getByRole('heading', { name: `All ${all} parts are decided` })).toBeFocused()
  // Another key is nobody's word.
  await page.keyboard.press('5')
  await expect(page.getByRole('heading', { name: `All ${all} parts are decided` })).toBeVisible()
  await rows.first().click()
  await becomes.getByRole('button', { name: /^Was missing/ }).click()
  const why = page.getByLabel('Why, or what was done to it')
  await expect(why).toBeFocused()
  await expect(part(page)).toContainText('so far: say why it is otherwise')
  await why.fill('it was another box’s')
  await why.press('Enter')
  await expect(rows.first()).toContainText('it was another box’s')
})
