// A box comes in at the door: what it does wrong is pressed, what was agreed is kept, and the parts to look at first come
// from that; what is found there answers the complaint on the report.
import { expect, test } from '@playwright/test'
import { atTheBench, chooseSheet, freshJob, tabTo } from './bench'

test('from the door to what explains the complaint, by keyboard', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/')
  await tabTo(page, /^New job$/)
  await page.keyboard.press('Enter')
  await chooseSheet(page, 'Tolvane T5 transaxle')
  await page.getByLabel('What is on the bench').fill('Orchard van')
  await page.getByLabel('Whose it is').fill('Hollow Lane Orchard')
  await tabTo(page, /^whines$/)
  await page.keyboard.press('Enter')
  await tabTo(page, /^third$/)
  await page.keyboard.press('Enter')
  await tabTo(page, /^Promised for$/)
  // A day that is past is refused at its field, and nothing that was typed is lost.
  await page.getByLabel('Promised for').fill('2020-02-03')
  await page.getByLabel('Number stamped on the box').fill('T·90817')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('2020-02-03 is past')
  const soon = new Date(Date.now() + 4 * 86_400_000).toISOString().slice(0, 10)
  await page.getByLabel('Promised for').fill(soon)
  await page.keyboard.press('Enter')

  await expect(page.getByRole('heading', { level: 1 })).toContainText('Next: measure')
  await expect(page.getByText('whines in third')).toBeVisible()
  await expect(page.getByText(/^promised /)).toBeVisible()
  await tabTo(page, /^Strip$/)
  await page.keyboard.press('Enter')
  const first = page.getByRole('region', { name: 'Look at first' })
  await expect(first).toContainText('whines in third')
  await expect(first).toContainText(/on \d+ of \d+ earlier boxes with this: pitted/)
  // What the complaint asks for is in the hand first.
  await expect(page.getByRole('region', { name: 'Part' }).getByRole('heading', { level: 1 })).toHaveText(
    'Third, input',
  )
  await tabTo(page, /^pitted$/)
  await page.keyboard.press('Enter')
  await page.keyboard.press('2')
  await expect(first).toContainText('found: pitted, was renewed')
  await expect(page.getByRole('region', { name: 'Part' }).getByRole('heading', { level: 1 })).toHaveText(
    'Third gear',
  )
  const job = /jobs\/(\d+)/.exec(page.url())?.[1]
  await page.goto(`/jobs/${job}/report`)
  const complaints = page.getByRole('region', { name: 'Complaints' })
  await expect(complaints).toContainText('whines in third')
  await expect(complaints).toContainText('Third, input: pitted, was renewed')
})

test('the card is mended, and goes back as it was', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-m5', 'Post 9, cliff round')
  await page.goto(`/jobs/${job}`)
  await page.getByRole('button', { name: 'Change the card' }).click()
  const card = page.getByRole('dialog', { name: /The card of job/ })
  await card.getByRole('button', { name: 'will not go into gear' }).click()
  await card.getByRole('button', { name: 'leaks' }).click()
  // One gear, then another, then none of them: it is so in some gear.
  const gears = card.getByRole('group', { name: 'will not go into gear' })
  await gears.getByRole('button', { name: 'second' }).click()
  await gears.getByRole('button', { name: 'fourth' }).click()
  await gears.getByRole('button', { name: 'second' }).click()
  await card.getByLabel('What was agreed').fill('Drum and forks, and ring before more')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  await expect(page.getByText('leaks, will not go into fourth')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('leaks, will not go into fourth')).toHaveCount(0)
})

test('a sheet says where to look first', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/skelt-b2/write')
  await page.getByRole('tab', { name: 'Parts' }).click()
  await page.getByRole('button', { name: 'Add a complaint' }).click()
  await page
    .getByRole('combobox', { name: /^It, complaint/ })
    .last()
    .selectOption({ label: 'leaks' })
  const parts = page.getByRole('group', { name: 'The likeliest first, as they are ticked' }).last()
  await expect(parts).toBeVisible()
  await parts.getByLabel('Wheel side seal').check()
  await expect(parts.getByLabel('Wheel side seal')).toBeChecked()
})

test('what a job waits for outside the shop stands on the bench and the report until it is over', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5')
  await page.goto(`/jobs/${job}`)
  await page.getByRole('button', { name: 'Change the card' }).click()
  await page.getByLabel('Waits for').fill('the customer’s answer')
  await page.getByLabel('Expected by').fill('2020-02-03')
  await page.getByRole('button', { name: 'Keep the card' }).click()
  await expect(page.getByRole('alert')).toContainText('2020-02-03 is past')
  await page.getByLabel('Expected by').fill('')
  await page.getByRole('button', { name: 'Keep the card' }).click()
  const waits = page.getByText(/^waits for the customer’s answer since /)
  await expect(waits).toBeVisible()
  await page.goto(`/?q=${job}`)
  await expect(page.getByRole('listitem').filter({ has: waits })).toHaveCount(1)
  await page.goto(`/jobs/${job}/report`)
  await expect(waits).toBeVisible()
  await page.goto(`/jobs/${job}`)
  await page.getByRole('button', { name: 'No longer' }).click()
  await expect(waits).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(waits).toBeVisible()
})
