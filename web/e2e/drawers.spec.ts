// The drawers by hand and as files, and the cards that jobs come in with.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, take } from './bench'

test('a size is counted, added, and refused where the count cannot be', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/drawers')
  const drawer = page.getByRole('region', { name: 'Main shims' })
  await drawer.getByRole('button', { name: /^1.12 mm/ }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('Count 1.12 mm, main shims')
  const count = dialog.getByLabel('How many are in the drawer')
  for (const bad of ['', 'four', '-1', '2.5']) {
    await count.fill(bad)
    await dialog.getByRole('button', { name: 'Keep the count' }).click()
    await expect(dialog.getByRole('alert')).toContainText('Count whole pieces')
  }
  await count.fill('9')
  await dialog.getByRole('button', { name: 'Keep the count' }).click()
  await expect(drawer.getByRole('button', { name: /^1.12 mm: 9 on hand/ })).toBeVisible()

  await drawer.getByRole('button', { name: 'Add a size' }).click()
  await dialog.getByLabel('Thickness').fill('1,85 furlong')
  await dialog.getByLabel('How many are in the drawer').fill('2')
  await dialog.getByRole('button', { name: 'Keep the count' }).click()
  await expect(dialog.getByRole('alert')).toContainText('is not a unit read here')
  await dialog.getByLabel('Thickness').fill('1,85 mm')
  await dialog.getByRole('button', { name: 'Keep the count' }).click()
  await expect(drawer.getByRole('button', { name: /^1.85 mm: 2 on hand/ })).toBeVisible()
})

test('drawers go out as CSV and come in; a faulty file is refused with every fault', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/drawers')
  const saved = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Save as CSV' }).click()
  const path = await (await saved).path()
  const give = (file: string | { name: string; mimeType: string; buffer: Buffer }) =>
    page.getByLabel('Take in CSV', { exact: true }).first().setInputFiles(file)
  await give(path)
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText(/\d+ sizes counted/)
  await dialog.getByRole('button', { name: 'Done' }).click()
  const text = '\ufefffamily;thickness;on_hand\nt5-main-shim;1,16 mm;x\nt5-main-shim;1,16;2\n'
  await give({ name: 'd.csv', mimeType: 'text/csv', buffer: Buffer.from(text) })
  await expect(dialog).toContainText('Nothing was taken in')
  await expect(dialog).toContainText('line 2, on_hand')
  await expect(dialog).toContainText('line 3, thickness')
  await dialog.getByRole('button', { name: 'Done' }).click()
})

test('a new job says which field is missing, and keeps what was typed', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/')
  await page.getByRole('button', { name: 'New job' }).click()
  const dialog = page.getByRole('dialog', { name: 'New job' })
  await dialog.getByLabel('Whose it is').fill('Northern Beacons')
  await dialog.getByRole('button', { name: 'Open the job' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Say what is on the bench')
  await expect(dialog.getByLabel('Whose it is')).toHaveValue('Northern Beacons')
  await page.keyboard.press('Escape')
  await expect(dialog).toBeHidden()
})

test('without initials a reading waits in its field until somebody says who', async ({ page }) => {
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await page.getByLabel(/Travel, turning/).fill('0.21')
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog', { name: 'Who is at the bench?' })
  await dialog.getByRole('button', { name: /^OB/ }).click()
  await expect(page.getByLabel(/Travel, turning/)).toHaveValue('0.21')
  await page.getByRole('button', { name: /^Keep/ }).click()
  await expect(page.getByRole('button', { name: 'Strike out trial 1' })).toBeVisible()
  await expect(page.getByRole('cell', { name: 'OB' })).toBeVisible()
})

test('a gap closed by a stack: chosen, fitted, chosen again, and what came out put back', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/idler-thrust`)
  await take(page, '0.72', '0.72', '0.73')
  await page.getByRole('button', { name: 'Choose 0.50 + 0.10' }).click()
  await expect(page.getByText(/set aside in drawer A3/).first()).toBeVisible()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByText('Not measured since fitting')).toBeVisible()
  await take(page, '0.30', '0.30', '0.31')
  await expect(page.getByText(/Looser than both figures allow/)).toBeVisible()
  await page
    .getByRole('button', { name: /^Choose / })
    .first()
    .click()
  await page.getByLabel(/The pieces that come out are sound/).check()
  await page.getByRole('button', { name: 'Fitted: measure again' }).click()
  await expect(page.getByText('Not measured since fitting')).toBeVisible()
  const moves = await page.request.get('/api/drawers/t5-idler-shim/moves')
  const why = ((await moves.json()) as { why: string; job_no: number }[])
    .filter((m) => m.job_no === job)
    .map((m) => m.why)
  expect(why).toContain('put_back')
})

test('the theme is switched and stays', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'Dark theme' }).click()
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark')
  await page.reload()
  await expect(page.getByRole('button', { name: 'Light theme' })).toBeVisible()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible()
})
