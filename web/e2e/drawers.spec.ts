// The drawers by hand and as files, and the cards that jobs come in with.
import { expect, test } from '@playwright/test'
import { atTheBench, freshJob, take } from './bench'

test('a size is counted, added, and refused where the count cannot be', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/drawers')
  const drawer = page.getByRole('region', { name: 'Main shims' })
  await drawer.getByRole('button', { name: /^1.12 mm/ }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('1.12 mm, main shims')
  const count = dialog.getByLabel('How many are in the drawer')
  for (const bad of ['', 'four', '-1', '2.5']) {
    await count.fill(bad)
    await dialog.getByRole('button', { name: 'Keep the count' }).click()
    await expect(dialog.getByRole('alert')).toContainText('Count whole pieces')
  }
  await count.fill('9')
  await dialog.getByRole('button', { name: 'Keep the count' }).click()
  await expect(drawer.getByRole('button', { name: /^1.12 mm: 9 on hand/ })).toBeVisible()

  // A count is undone where it was made.
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(drawer.getByRole('button', { name: /^1.12 mm: 3 on hand/ })).toBeVisible()

  await drawer.getByRole('button', { name: 'Add sizes' }).click()
  await dialog.getByLabel('Thickness, one or several').fill('1,84 to 1,92 by 0,05 mm')
  await dialog.getByLabel('How many of each are there').fill('2')
  await dialog.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(dialog.getByRole('alert')).toContainText('and not to 1.92 mm')
  await dialog.getByLabel('Thickness, one or several').fill('1,84 to 1,92 by 0,04 mm; 1,85 mm')
  await dialog.getByRole('button', { name: 'Add', exact: true }).click()
  for (const size of ['1.84', '1.85', '1.88', '1.92']) {
    await expect(drawer.getByRole('button', { name: new RegExp(`^${size} mm: 2 on hand`) })).toBeVisible()
  }
})

test('a drawer is opened without a sheet, and counted through by the keyboard', async ({ page }, {
  retry,
}) => {
  await atTheBench(page)
  // Tried again, it is another drawer.
  const name = retry ? `Ferry winch shims, ${retry}` : 'Ferry winch shims'
  await page.goto('/drawers')
  await page.getByRole('button', { name: 'Open a drawer' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Open it' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Say what the pieces are called')
  await dialog.getByLabel('What the pieces are called').fill(name)
  await dialog.getByLabel('How far one may be off').fill('0.006')
  await dialog.getByLabel('Sizes').fill('0.62 to 0.74 by 0.04; 0.90')
  await dialog.getByLabel('Where the drawer is').fill('E2')
  await dialog.getByRole('button', { name: 'Open it' }).click()
  const drawer = page.getByRole('region', { name: name })
  await expect(drawer).toContainText('drawer E2')

  // The list leads there, and the focus with it; the arrow keys go from size to size.
  await page.getByRole('navigation', { name: 'Drawers' }).getByRole('link', { name: name }).press('Enter')
  await expect(drawer.getByRole('button', { name: /^0.62 mm/ })).toBeFocused()
  await page.keyboard.press('ArrowRight')
  await expect(drawer.getByRole('button', { name: /^0.66 mm/ })).toBeFocused()
  await page.keyboard.press('End')
  await expect(drawer.getByRole('button', { name: /^0.90 mm/ })).toBeFocused()

  await drawer.getByRole('button', { name: 'Count it through' }).click()
  await expect(drawer.getByLabel(/^0.62/)).toBeFocused()
  // Half typed and left: it is there again.
  await page.keyboard.type('3\n0\n')
  await drawer.getByRole('button', { name: 'Leave it for now' }).click()
  await page.reload()
  await drawer.getByRole('button', { name: 'Count it through' }).click()
  await expect(drawer.getByLabel(/^0.62/)).toHaveValue('3')
  await expect(drawer.getByLabel(/^0.70/)).toBeFocused()
  await page.keyboard.type('5\nx\n')
  await expect(drawer.getByRole('alert')).toContainText('whole pieces')
  await expect(drawer.getByRole('button', { name: 'Keep 4 counts' })).toBeDisabled()
  await page.keyboard.press('ArrowUp')
  await page.keyboard.type('7')
  await page.keyboard.press('Enter')
  await page.keyboard.type('1\n')
  await expect(page.getByRole('status')).toContainText('5 of 5 sizes counted, 4 otherwise than they were')
  await expect(drawer.getByRole('button', { name: /^0.74 mm: 7 on hand/ })).toBeVisible()
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(drawer.getByRole('button', { name: /^0.74 mm: 0 on hand/ })).toBeVisible()
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
  await expect(dialog).toContainText(/Nothing. \d+ stay as they are/)
  await dialog.getByRole('button', { name: 'Done' }).click()
  const more = 'family,thickness,on_hand,place\nt5-diff-shim,1.53 mm,6,B3\n'
  const drawer = page.getByRole('region', { name: 'Differential shims' })
  for (const press of ['Leave it', 'Take in 1 change']) {
    await give({ name: 'd.csv', mimeType: 'text/csv', buffer: Buffer.from(more) })
    await expect(dialog.getByRole('row', { name: /1.53 Differential shims new 6 place B3/ })).toBeVisible()
    await expect(page.getByRole('button', { name: /^1.53 mm/, includeHidden: true })).toHaveCount(0)
    await dialog.getByRole('button', { name: press }).click()
  }
  await expect(drawer.getByRole('button', { name: /^1.53 mm: 6 on hand/ })).toBeVisible()
  const text = '\ufefffamily;thickness;on_hand\nt5-main-shim;1,16 mm;x\nt5-main-shim;1,16;2\n'
  await give({ name: 'd.csv', mimeType: 'text/csv', buffer: Buffer.from(text) })
  await expect(dialog).toContainText('Nothing was taken in')
  await expect(dialog).toContainText('line 2, on_hand')
  await expect(dialog).toContainText('line 3, thickness')
  await dialog.getByRole('button', { name: 'Done' }).click()
})

test('pieces are taken, ordered and measured, each undone with one press', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/drawers')
  const drawer = page.getByRole('region', { name: 'Fifth gear spacers' })
  const dialog = page.getByRole('dialog')
  const tile = drawer.getByRole('button', { name: /^7.92 mm: \d+ on hand, 0/ })
  await expect(tile).toBeVisible()
  const label = (await tile.getAttribute('aria-label')) ?? ''
  const before = Number(/: (\d+) on hand/.exec(label)?.[1])
  const there = (n: number) =>
    expect(drawer.getByRole('button', { name: new RegExp(`^7.92 mm: ${n} on hand`) })).toBeVisible()
  await tile.click()
  const many = dialog.getByRole('textbox', { name: 'How many', exact: true })
  await many.fill('0')
  await dialog.getByRole('button', { name: 'Take out' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Whole pieces')
  await many.fill('99')
  await dialog.getByRole('button', { name: 'Take out' }).click()
  await expect(dialog.getByRole('alert')).toContainText('free to take')
  await many.fill('1')
  await dialog.getByLabel('Why, if it matters').fill('Lent to the next island')
  await dialog.getByRole('button', { name: 'Take out' }).click()
  await expect(page.getByRole('status')).toContainText('Took 1 of 7.92 mm.')
  await there(before - 1)
  // From the card back to where it was opened.
  const left = drawer.getByRole('button', { name: new RegExp(`^7.92 mm: ${before - 1} on hand`) })
  await expect(left).toBeFocused()
  await left.press('Enter')
  await page.keyboard.press('Escape')
  await expect(left).toBeFocused()
  await page.getByRole('status').getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('status')).toContainText('Undone.')
  await there(before)

  await tile.click()
  await dialog.getByLabel('One of them measures').fill('79.2')
  await dialog.getByRole('button', { name: 'Keep as its own' }).click()
  await expect(dialog.getByRole('alert')).toContainText('can hardly measure')
  await dialog.getByLabel('One of them measures').fill('7.924')
  await dialog.getByRole('button', { name: 'Keep as its own' }).click()
  const own = drawer.getByRole('button', { name: /^7.924 mm: 1 on hand, 0 set aside, measured/ })
  await expect(own).toBeVisible()
  await there(before - 1)

  await drawer.getByText('Record').click()
  const taken = drawer.getByRole('listitem').filter({ hasText: 'taken out' })
  await expect(taken).toContainText('Lent to the next island')
  await expect(taken).toContainText('undone')
  const mic = drawer.getByRole('listitem').filter({ hasText: 'measured by micrometer: 0 became 1' })
  await mic.getByRole('button', { name: 'Undo' }).click()
  await expect(own).toHaveCount(0)
  await there(before)
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
  // Pressed twice before the question is on the screen, it is one reading; pressed again on it, nobody is chosen by that.
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog', { name: 'Who is at the bench?' })
  await expect(dialog).toBeVisible()
  await expect(dialog).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(dialog).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByLabel(/Travel, turning/)).toHaveValue('0.21')
  await page.getByRole('button', { name: /^Keep/ }).click()
  await dialog.getByRole('button', { name: /^OB/ }).click()
  await expect(page.getByLabel(/Travel, turning/)).toHaveValue('')
  await expect(page.getByLabel(/Travel, turning/)).toBeFocused()
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
