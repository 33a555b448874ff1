// Right answers: what is asked about, what is told where two do not say the same, and a verdict without a figure.
import { expect, test } from '@playwright/test'
import { allSeenTo, atTheBench, freshJob, take } from './bench'

test('readings that are all wrong alike are asked about together, and struck out in one press', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/main-float`)
  await take(page, '55')
  await expect(page.getByText(/Did you mean 1.397 mm/)).toBeVisible()
  await take(page, '55')
  await expect(page.getByText(/These 2 readings come to 55.000 mm/)).toBeVisible()
  await page.getByRole('button', { name: 'Yes: strike them out' }).click()
  await expect(page.getByText('Did you mean')).toHaveCount(0)
  await expect(page.getByText(/struck out: meant 1.397 mm/)).toHaveCount(2)
  // A tenth of what is to be expected, in the window with no shim in: it says what is missing, and asks why.
  await page.getByLabel(/^Travel/).focus()
  await take(page, '0.12', '0.12')
  await expect(page.getByText(/These 2 readings come to 0.120 mm/)).toBeVisible()
  await page.getByRole('button', { name: 'No, 0.120 mm is right' }).click()
  await expect(page.getByText('Did you mean')).toHaveCount(0)
  await expect(page.getByText(/The sheet wants a piece here, and none is in/)).toBeVisible()
})

test('a leaf thicker than the limit that goes is loose before any is refused', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-m5')
  await page.goto(`/jobs/${job}/checks/second-side`)
  await page.getByLabel('Leaf, or leaves on each other').fill('0.40')
  await page.getByRole('button', { name: 'goes', exact: true }).click()
  await expect(page.getByTestId('verdict')).toContainText('Loose by 0.100 mm or more')
  await expect(page.getByTestId('loud')).toHaveText('0.400')
})

test('a sheet that says otherwise than its drawer is told at both, and put right in one press', async ({
  page,
}) => {
  await atTheBench(page)
  const file = (await (await page.request.get('/api/sheets/ormhal-a4/file')).json()) as {
    families: { key: string; tolerance: string }[]
  }
  const family = file.families.find((f) => f.key === 'a4-train-ring')
  if (!family) throw new Error('the sheet has no such rings')
  family.tolerance = '0.02 mm'
  await page.request.post('/api/sheets', {
    headers: { 'Idempotency-Key': `e2e-conflict-${Date.now()}` },
    data: { text: JSON.stringify(file), who: 'RT' },
  })
  const job = await freshJob(page, 'ormhal-a4')
  await page.goto(`/jobs/${job}/checks/train-play`)
  await expect(page.getByTestId('disputed')).toContainText('the wider, ± 0.02 mm')
  await page.goto('/sheets/ormhal-a4')
  const told = page.getByTestId('conflict')
  await expect(told).toContainText('± 0.02 mm by the sheet, ± 0.01 mm by the drawer')
  await expect(told).toContainText(`job ${job}, `)
  await page.goto('/drawers')
  const atDrawer = page.getByTestId('conflict')
  await expect(atDrawer).toContainText('says otherwise')
  await atDrawer.getByRole('button', { name: 'Put the sheet’s figures on the drawer' }).click()
  await expect(atDrawer).toHaveCount(0)
  await expect(page.getByText(/Figures: revision 2, by/)).toBeVisible()
})

test('nothing moves: what was expected says how likely the preload is right, and float that was wanted is tight', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/diff-preload`)
  await page.getByLabel('Taken by').selectOption('no_shim')
  await take(page, '0', '0')
  await expect(page.getByTestId('verdict')).toContainText('Nothing moves with nothing in')
  await page.goto(`/jobs/${job}/checks/input-float`)
  await take(page, '0', '0')
  await expect(page.getByTestId('verdict')).toHaveText('Tight by 0.040 mm or more: nothing moves.')
  const bare = await freshJob(page)
  await page.goto(`/jobs/${bare}/checks/diff-preload`)
  await page.getByLabel('Taken by').selectOption('no_shim')
  await take(page, '0.93', '0.93', '0.94')
  await page
    .getByRole('button', { name: /^Choose / })
    .first()
    .click()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await page.getByLabel('Taken by').selectOption('dial_travel')
  await take(page, '0', '0')
  const verdict = page.getByTestId('verdict')
  await expect(verdict).toContainText(
    /^Nothing moves.* to be in the window, going by the .* preload that these pieces were to give/,
  )
  await allSeenTo(page)
  await page.getByRole('button', { name: /^Sign off/ }).click()
  await expect(page.getByText(/^Signed off by/)).toBeVisible()
  await page.goto(`/jobs/${bare}/report`)
  await expect(page.getByRole('cell', { name: 'does not move' })).toBeVisible()
})
