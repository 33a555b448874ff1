// Used parts: a box for parts comes in and is looked over by keyboard, the best box is found from it and taken, and what is
// over lies on the shelf.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, placed, tabTo } from './bench'

test('a box for parts is looked over, gives what is sound, and the rest goes on the shelf', async ({
  page,
}) => {
  test.setTimeout(90_000)
  await atTheBench(page)
  const own = await freshJob(page, 'brannoch-r2', 'Peat lorry')
  await page.goto('/?new=brannoch-r2')
  const card = page.getByRole('dialog')
  await card.getByLabel('What is on the bench').fill('Old peat lorry, for its parts')
  await card.getByLabel('Whose it is').fill('The shop')
  await card.getByLabel(/^For parts/).check()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    'For parts: what is sound goes into other boxes',
  )
  const donor = Number(page.url().split('/').at(-1))
  await expect(page.getByRole('link', { name: 'Build' })).toHaveCount(0)
  await page.getByRole('link', { name: 'Strip', exact: true }).click()
  // One key a part: sound, no good, sound.
  const part = page.getByRole('region', { name: 'Part', exact: true }).getByRole('heading', { level: 1 })
  await expect(part).toBeFocused()
  const names: string[] = []
  for (const key of ['1', '2', '1']) {
    const name = await part.innerText()
    names.push(name)
    await page.keyboard.press(key)
    await expect(part).not.toHaveText(name)
    await expect(part).toBeFocused()
  }
  const [first = '', bad = '', third = ''] = names
  await expect(page.getByRole('list', { name: 'Parts' })).toContainText('no good · RT')

  // In the box itself the first is no good: the other’s is taken.
  await page.goto(`/jobs/${own}/strip`)
  await expect(part).toBeFocused()
  await page.keyboard.press('2')
  await expect(part).not.toHaveText(first)
  await page.goto(`/jobs/${own}/donors`)
  await expect(page.getByTestId('best')).toContainText('0 worn')
  await expect(page.getByText('every one has been ruled out')).toBeVisible()
  const side = page.getByRole('region', { name: 'Side by side' })
  const row = side.getByRole('group', { name: first })
  await expect(row.getByRole('button', { name: /the best box has it/ })).toContainText(`Job ${donor}: sound`)
  // Settled otherwise, and left open again.
  await row.getByRole('button', { name: 'New' }).click()
  await expect(row.getByRole('button', { name: /the best box has it/ })).toContainText('settled by you')
  await row.getByRole('button', { name: 'New' }).click()
  await expect(row.getByRole('button', { name: /the best box has it/ })).toContainText(`Job ${donor}: sound`)
  await tabTo(page, /^Make it so/)
  await page.keyboard.press('Enter')
  await expect(page.getByText('1 part taken up.', { exact: true })).toBeVisible()
  await expect(page.getByText('✓ This box is just that already.')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: 'Make it so: 1 part' })).toBeVisible()
  await page.getByRole('button', { name: 'Make it so: 1 part' }).click()
  await expect(page.getByText('✓ This box is just that already.')).toBeVisible()
  await page.goto(`/jobs/${own}/strip`)
  await expect(page.getByRole('list', { name: 'Parts' })).toContainText('from another box')

  // What is sound and still here goes on the shelf.
  await page.goto(`/jobs/${donor}/strip`)
  const place = `under the stairs, ${donor}`
  await page.getByLabel('Put what is sound on the shelf, where').fill(place)
  await page.keyboard.press('Enter')
  await expect(page.getByText('1 of its parts lie on the shelf')).toBeVisible()
  await page.goto('/shelf')
  await page.getByLabel('Find on the shelf').fill(place)
  const shelf = page.getByRole('region', { name: 'Brannoch R2 transfer case' })
  await expect(shelf.getByRole('listitem')).toHaveCount(1)
  await expect(shelf).toContainText(third)
  await expect(shelf).not.toContainText(bad)
  await shelf.getByRole('button', { name: 'Not there any more' }).click()
  await expect(page.getByText('Nothing on the shelf has these words.')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(shelf).toContainText(place)
})

test('of two boxes and its own the best is proven, and a box can be left out', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Library van}/donors'))
  await expect(page.getByText('every one has been ruled out')).toBeVisible()
  const row = page.getByRole('group', { name: 'Rear bearing, input shaft' })
  const picked = row.getByRole('button', { name: /the best box has it/ })
  await expect(picked).toContainText('sound')
  await page
    .getByRole('list', { name: 'Boxes' })
    .getByRole('listitem')
    .filter({ hasText: 'Milk van' })
    .getByLabel('may give')
    .uncheck()
  // The other’s is rough.
  await expect(picked).toHaveText(/^New/)
  await expect(page.getByRole('region', { name: 'Checks' })).toContainText('Fifth gear thrust clearance')
})

test('where there is no donor it says how there would be one', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'ormhal-a4')
  await page.goto(`/jobs/${job}/donors`)
  await page.getByRole('link', { name: 'Open a job for such a box' }).click()
  await expect(page.getByRole('dialog').getByLabel('Spec sheet of the box')).toHaveValue(/Ormhal A4/)
})
