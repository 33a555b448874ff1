// A wrong press is put right where it was made, and nothing of somebody else's is taken without asking and telling.
import { expect, test, type Page } from '@playwright/test'
import { allSeenTo, atTheBench, chooseSheet, freshJob, take } from './bench'

const notice = (page: Page) => page.getByRole('region', { name: /What was done/ })

async function undo(page: Page) {
  await notice(page).getByRole('button', { name: 'Undo' }).click()
}

test('pieces chosen and fitted by mistake: each undone where it was pressed', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/input-float`)
  await take(page, '0.24', '0.24', '0.25')
  await page.getByLabel(/What is fitted now/).fill('1.10')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Choose 1.25', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeFocused()
  await undo(page)
  await expect(page.getByRole('button', { name: 'Choose 1.25', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Choose 1.25', exact: true }).click()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByText('Not measured since fitting')).toBeVisible()
  await undo(page)
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeVisible()
  // Later, from where it stands, it is undone as well.
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await page.getByRole('button', { name: 'It was not fitted after all' }).click()
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeFocused()
  await page.getByText(/^History/).click()
  await expect(page.getByText('took back that 1.25 mm was fitted').first()).toBeVisible()
  await page.getByRole('button', { name: 'Let it go' }).click()
})

test('a job opened by mistake is put away and brought back; its card is changed and put back', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}`)
  await page.getByRole('button', { name: 'Change the card' }).click()
  const card = page.getByRole('dialog', { name: `The card of job ${job}` })
  await card.getByLabel('What is on the bench').fill('')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  await expect(card.getByRole('alert')).toContainText('Say what is on the bench')
  await card.getByLabel('What is on the bench').fill('Another box')
  await card.getByLabel('Complaint').fill('ATF leaks')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  const line = page.getByRole('paragraph').filter({ hasText: 'Another box · A trial customer · ATF leaks' })
  await expect(line).toBeVisible()
  await undo(page)
  await expect(line).toBeHidden()
  await page.getByRole('button', { name: 'Put this job away' }).click()
  await page.getByRole('button', { name: 'opened by mistake' }).click()
  await expect(page.getByRole('heading', { level: 1, name: /^Put away/ })).toBeVisible()
  await page.getByRole('button', { name: 'Bring it back to the bench' }).click()
  await expect(page.getByRole('heading', { level: 1, name: /^Next: measure/ })).toBeVisible()
})

test('a note is struck out at once, and restored from the log', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}`)
  await page.getByLabel('Note something on this job').fill('not this box')
  await page.keyboard.press('Enter')
  await expect(notice(page)).toContainText('Noted.')
  await undo(page)
  await expect(page.getByText(/struck out by RT/)).toBeVisible()
  await page.getByRole('button', { name: /^Restore the note/ }).click()
  await expect(page.getByText(/struck out by RT/)).toBeHidden()
})

test('initials are asked for where they are needed, and what was pressed goes on', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'New job' }).click()
  const card = page.getByRole('dialog', { name: 'New job' })
  await chooseSheet(page, 'Tolvane T5 transaxle')
  await card.getByLabel('What is on the bench').fill('A box by nobody yet')
  // Led away and back, what was typed is there.
  await page.reload()
  await page.getByRole('button', { name: 'New job' }).click()
  await expect(card.getByLabel('What is on the bench')).toHaveValue('A box by nobody yet')
  await card.getByLabel('Whose it is').fill('A customer')
  await card.getByRole('button', { name: 'Open the job' }).click()
  await page
    .getByRole('dialog', { name: 'Who is at the bench?' })
    .getByRole('button', { name: /^MEL/ })
    .click()
  await expect(page.getByRole('heading', { level: 1, name: /^Next: measure/ })).toBeVisible()
  await expect(page.getByRole('button', { name: 'MEL is at the bench: change' })).toBeVisible()
})

test('the shop has its page, and everything is found from everywhere', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto('/sums/piece')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.locator('main').click({ position: { x: 2, y: 2 } })
  await page.keyboard.press('/')
  await expect(page.getByRole('dialog', { name: 'Find' }).getByRole('combobox')).toBeFocused()
  await page.keyboard.type(String(job))
  await expect(page.getByRole('option').first()).toContainText(`${job} · Trial`)
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(`/jobs/${job}`)
  await page.getByRole('button', { name: /^Find/ }).click()
  await expect(page.getByRole('dialog', { name: 'Find' }).getByRole('combobox')).toBeFocused()
  await page.keyboard.type('tolvane')
  await expect(page.getByRole('option', { name: /sheet, manual/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.goto('/shop')
  await page.getByLabel('Initials').fill('xy')
  await page.getByLabel('Name').last().fill('Xenia Ypsen')
  await page.getByRole('button', { name: 'Put in' }).click()
  await expect(page.getByRole('listitem').filter({ hasText: 'Xenia Ypsen' })).toBeVisible()
  await undo(page)
  await expect(page.getByText('works here no longer')).toBeVisible()
})

test('the focus goes along: to the heading of a place, and back to what led there', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}`)
  const link = page.getByRole('link', { name: 'Plan' })
  await link.focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1 })).toBeFocused()
  await page.goBack()
  await expect(link).toBeFocused()
  await page.goto('/gauges')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('Tab')
  await expect(page.getByRole('link', { name: 'To the work' })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('main')).toBeFocused()
})

test('in the dark, print is ink on paper', async ({ page }) => {
  await atTheBench(page, 'dark')
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/report`)
  await page.emulateMedia({ media: 'print' })
  const colours = await page.evaluate(() => {
    const { backgroundColor, color } = getComputedStyle(document.body)
    return { backgroundColor, color }
  })
  expect(colours).toEqual({ backgroundColor: 'rgb(255, 255, 255)', color: 'rgb(0, 0, 0)' })
})

test('two screens on one check show each other’s readings, and that somebody else is there', async ({
  page,
  context,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  const other = await context.request.post(`/api/jobs/${job}/checks/second-side/readings`, {
    headers: { 'Idempotency-Key': `other-screen-${job}` },
    data: {
      way: 'dial_travel',
      entry: { kind: 'travel', travel: '0.21' },
      unit: 'mm',
      who: 'OB',
    },
  })
  expect(other.ok()).toBe(true)
  await expect(page.getByRole('button', { name: 'Strike out trial 1' })).toBeVisible({ timeout: 2_500 })
  await expect(page.getByText(/^OB is at this check as well/)).toBeVisible()
})

test('pressed while the last reading is on its way, it is signed with that reading', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await take(page, '0.22', '0.22')
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await allSeenTo(page)
  await page.getByLabel(/^Travel/).focus()
  await page.route('**/acts', async (route) => {
    await new Promise((done) => setTimeout(done, 1200))
    await route.continue()
  })
  await page.keyboard.type('0.23')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  await expect(page.getByText(/^Not done/)).toHaveCount(0)
  await expect(page.getByTestId('loud')).toHaveText('0.223')
})
