// Pictures and labels: taken at the part, seen large, taken out and put back, on the report; and a code that leads to the part.
import { expect, test } from '@playwright/test'
import { fileURLToPath } from 'node:url'
import { atTheBench, freshJob } from './bench'

const drawn = (name: string) => fileURLToPath(new URL(`../../demo/pictures/${name}.jpg`, import.meta.url))

test('a picture is taken at the part, seen large, taken out, and is on the report', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5', 'Quarry van')
  await page.goto(`/jobs/${job}/strip?part=in-3`)
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Third, input')
  const own = page.getByRole('region', { name: 'Pictures of it' })
  await own.getByLabel('What it shows').fill('Pitted all round')
  await own.getByLabel('Pictures from files').setInputFiles([drawn('pitted-third-input'), drawn('wet-shaft')])
  await expect(own.getByRole('img')).toHaveCount(2)
  // What is no picture is told, and what is there stays.
  await own
    .getByLabel('Pictures from files')
    .setInputFiles({ name: 'list.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('no picture') })
  await expect(own.getByRole('alert')).toContainText('take a JPEG, PNG or WebP')
  await expect(own.getByRole('img')).toHaveCount(2)

  await own.getByRole('button', { name: 'Third, input: Pitted all round, larger' }).last().click()
  const large = page.getByRole('dialog', { name: 'Third, input' })
  await expect(large).toContainText('2 of 2')
  await page.keyboard.press('ArrowRight')
  await expect(large).toContainText('1 of 2')
  await page.keyboard.press('ArrowLeft')
  await large.getByRole('button', { name: 'Take it out' }).click()
  await expect(own.getByRole('img')).toHaveCount(1)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(own.getByRole('img')).toHaveCount(2)

  await page.goto(`/jobs/${job}/report`)
  const printed = page.getByRole('region', { name: 'Pictures' })
  await expect(printed.getByRole('img')).toHaveCount(2)
  await expect(printed).toContainText('Third, input: Pitted all round')
})

test('another width of a part is tried on its stack sum before it is bought', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5', 'Wide van')
  await page.goto(`/jobs/${job}/strip?part=main-5`)
  await page.getByText('One of another width?').click()
  await page.getByLabel('Its width, mm').fill('21.12')
  const sums = page.getByRole('list', { name: 'With that width' })
  await expect(sums).toContainText(
    'Fifth gear thrust clearance: clearance 0.110 ± 0.042 mm by its sum, 0.230 before',
  )
  await expect(sums).toContainText('leaves its window: too tight')
  await page.getByLabel('Its width, mm').fill('wide')
  await expect(page.getByRole('alert')).toBeVisible()
})

test('a label’s code leads to the card of its part', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5', 'Labelled van')
  await page.goto(`/jobs/${job}`)
  await page.getByRole('link', { name: 'Print labels' }).click()
  const labels = page.getByRole('list', { name: 'Labels to print' })
  const ring = labels.getByRole('listitem', { name: 'Third baulk ring' })
  await expect(ring).toContainText('not fourth baulk ring')
  const before = await labels.getByRole('listitem').count()
  await page.getByRole('checkbox', { name: 'Third, input' }).check()
  await expect(page.getByRole('button', { name: `Print ${before + 1} labels` })).toBeVisible()
  const opens = await labels
    .getByRole('listitem', { name: 'Third, input' })
    .getByRole('img', { name: 'Code that opens Third, input' })
    .getAttribute('data-opens')
  await page.goto(opens ?? '')
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Third, input')
})
