// The whole way by keyboard: in at the door, told against its papers, stripped, found worn, made good from two dismantled
// boxes, what is left ordered and come, ready to build.
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, does, tabTo } from './bench'

let last = 0
const write = async (page: Page, path: string, data: object) => {
  last += 1
  const answer = await page.request.post(path, {
    headers: { 'Idempotency-Key': `e2e-${Date.now()}-given-${last}` },
    data: { ...data, who: 'OB' },
  })
  expect(answer.ok()).toBeTruthy()
  return (await answer.json()) as { job_no: number }
}

/** A van that gives its parts, of which these are sound. */
async function donor(page: Page, title: string, parts: string[]) {
  const card = { sheet_key: 'tolvane-t5', variant: 'long', title, customer: 'The shop', for_parts: true }
  const { job_no } = await write(page, '/api/jobs', card)
  for (const part of parts)
    await does(page, job_no, { of: 'part', did: { act: 'found', part, state: 'reused' } })
}

test('from the door to the first step of the build, by keyboard', async ({ page }) => {
  test.setTimeout(180_000)
  await atTheBench(page)
  await donor(page, 'Hearse, burnt out', ['in-3', 'baulk-3', 'main-3'])
  await donor(page, 'Bell wagon', ['in-front'])
  await page.goto('/')
  await tabTo(page, /^New job$/)
  await page.keyboard.press('Enter')
  await page.getByLabel('What is on the bench').fill('Sexton’s van')
  await tabTo(page, /^Not sure what it is: find out$/)
  await page.keyboard.press('Enter')
  const question = page.getByRole('region', { name: 'Question', exact: true }).getByRole('heading')
  await expect(question).toHaveText('Mark cast in the case')
  await page.keyboard.type('T5')
  await page.keyboard.press('Enter')
  await expect(question).toHaveText('Teeth of the pinion')
  await page.keyboard.type('17')
  await page.keyboard.press('Enter')
  await expect(
    page.getByRole('heading', { name: 'Tolvane T5 transaxle, 17-tooth final drive' }),
  ).toBeVisible()
  await tabTo(page, /^Open a job on it$/)
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('What is on the bench')).toHaveValue('Sexton’s van')
  await tabTo(page, /^whines$/)
  await page.keyboard.press('Enter')
  await tabTo(page, /^third$/)
  await page.keyboard.press('Enter')
  await page.getByLabel('Whose it is').fill('The vestry')
  await page.keyboard.press('Enter')

  // The complaint puts third in the hand; its mate and the front bearing are no better.
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Next: measure')
  const job = Number(/jobs\/(\d+)/.exec(page.url())?.[1])
  await tabTo(page, /^Strip$/)
  await page.keyboard.press('Enter')
  const part = page.getByRole('region', { name: 'Part', exact: true }).getByRole('heading', { level: 1 })
  for (const name of ['Third, input', 'Third gear']) {
    await expect(part).toHaveText(name)
    await expect(part).toBeFocused()
    await tabTo(page, /^pitted$/)
    await page.keyboard.press('Enter')
    await page.keyboard.press('2')
  }
  await expect(part).not.toHaveText('Third gear')
  await expect(part).toBeFocused()
  while ((await part.innerText()) !== 'Front bearing') {
    const was = await part.innerText()
    await page.keyboard.press('ArrowRight')
    await expect(part).not.toHaveText(was)
  }
  await page.keyboard.press('2')
  await expect(part).not.toHaveText('Front bearing')

  await tabTo(page, /^Donors$/)
  await page.keyboard.press('Enter')
  await expect(page.getByText('every one has been ruled out')).toBeVisible()
  await expect(page.getByText('Taken from 2 other boxes')).toBeVisible()
  await tabTo(page, /^Make it so: 4 parts$/)
  await page.keyboard.press('Enter')
  await expect(page.getByText('✓ This box is just that already.')).toBeVisible()

  // What is new at every overhaul is still to be got.
  await page.goto(`/jobs/${job}/order`)
  await tabTo(page, /^All \d+ that are missing are ordered/)
  await page.keyboard.press('Enter')
  await page.getByRole('dialog').getByLabel('Where').fill('Sound Supplies')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/^On order: \d+ parts$/)).toBeVisible()
  await expect(page.getByRole('group', { name: 'To order' })).toHaveCount(0)
  const ordered = page.getByRole('group', { name: 'On order' }).getByRole('button', { name: /^Here: / })
  for (let left = await ordered.count(); left > 0; left--) {
    await expect(ordered).toHaveCount(left)
    await ordered.first().focus()
    await page.keyboard.press('Enter')
    // Of several it is asked how many have come.
    const asked = page.getByRole('dialog')
    await expect.poll(async () => (await asked.count()) > 0 || (await ordered.count()) < left).toBe(true)
    if (await asked.isVisible()) await page.keyboard.press('Enter')
    await expect(ordered).toHaveCount(left - 1)
  }
  await expect(page.getByRole('group', { name: 'On order' })).toHaveCount(0)

  await page.goto('/?q=sexton')
  const row = page.getByRole('list', { name: 'Open jobs' }).getByRole('listitem').first()
  await expect(row).toContainText('Sexton’s van')
  await expect(row).not.toContainText('parts:')
  await page.goto(`/jobs/${job}/report`)
  const findings = page.getByRole('region', { name: 'What was found' })
  await expect(findings).toContainText('out of job')
  await page.goto(`/jobs/${job}`)
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Next: measure')
  await tabTo(page, /^Build/)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: 'Next' }).getByRole('heading')).toBeVisible()
})
