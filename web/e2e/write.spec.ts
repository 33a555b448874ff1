// A sheet written in the program, copied, changed, and a job moved to what it became.
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, chooseSheet } from './bench'
import { themesOf } from './views'

/** Types down a list: what each row holds, Enter at the end of all but the last. */
async function typeParts(page: Page, parts: [string, string, string][]) {
  for (const [i, [name, kind, width]] of parts.entries()) {
    const n = i + 1
    await page.getByLabel(`Part, part ${n}`).fill(name)
    await page.getByLabel(`Kind, part ${n}, ${name}`).selectOption({ label: kind })
    const field = page.getByLabel(`Width, part ${n}, ${name}`)
    await field.fill(width)
    if (n < parts.length) await field.press('Enter')
  }
}

const drawn = (page: Page) => page.getByRole('region', { name: 'Shafts, drawn' })

test('a sheet is written from nothing, drawn as it is typed, and a job is opened on it', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets')
  await page.getByRole('link', { name: 'Write a sheet' }).click()
  await page.getByLabel('What people call the box').fill('Harrow R2 reduction box')
  await page.getByLabel('Short name for addresses').fill('Harrow R2')
  await page.getByLabel('Kind of box').selectOption('transfer_case')
  await page.getByRole('tab', { name: 'Shafts' }).click()
  await page.getByRole('button', { name: 'Add a part' }).click()
  await typeParts(page, [
    ['Front bearing', 'taper bearing', '19'],
    ['Low gear', 'gear', '1 1/4 in'],
    ['Thrust washer', 'washer', '0'],
    ['Rear cover', 'housing', '14'],
  ])
  // A bare figure takes the sheet's unit; each part is there on the rail.
  await expect(page.getByLabel('Width, part 1, Front bearing')).toHaveValue('19 mm')
  await expect(drawn(page).getByText('Low gear')).toBeAttached()
  // A washer of no width is told of where it was typed.
  const washer = page.getByLabel('Width, part 3, Thrust washer')
  await expect(washer).toHaveAccessibleDescription(/more than nothing/)
  await washer.fill('2.5 mm')
  await expect(washer).toHaveAccessibleDescription('')
  // Pieces, then a check cut in after the washer.
  await page.getByRole('tab', { name: 'Pieces' }).click()
  await page.getByRole('button', { name: 'Add a family' }).click()
  await page.getByLabel('What the pieces are called').fill('Harrow shims')
  await page.getByLabel('How far one may be off').fill('0.005')
  await page.getByRole('button', { name: 'Add a size' }).click()
  await page.getByLabel('Thickness, size 1').fill('1.00')
  await page.getByLabel('Thickness, size 1').press('Enter')
  await page.getByLabel('Thickness, size 2').fill('1.10')
  await page.getByRole('tab', { name: 'Shafts' }).click()
  await page.getByRole('button', { name: 'Cut a check in after Thrust washer' }).click()
  await page.getByLabel('What the check is called').fill('Output end float')
  await page.getByLabel('Window from; preload').fill('0.30')
  await page.getByLabel('Window to', { exact: true }).fill('0.10')
  await page.getByLabel('Set by').selectOption({ label: 'Harrow shims' })
  await expect(drawn(page).getByRole('img', { name: 'Output end float' })).toBeVisible()
  await expect(page.getByText(/low.*above.*high/i)).toBeVisible()
  // What hinders is listed, and each line leads to its field.
  await page.getByRole('button', { name: 'Keep the sheet' }).click()
  const list = page.getByRole('dialog', { name: /to see to/ })
  await list.getByRole('button', { name: /short name/ }).click()
  await expect(page.getByLabel('Short name for addresses')).toBeFocused()
  await page.getByLabel('Short name for addresses').fill('harrow-r2')
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByLabel('Window to', { exact: true }).fill('0.50')
  // Taken back, and done again.
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByLabel('Window to', { exact: true })).toHaveValue('0.10 mm')
  await page.keyboard.press('Control+y')
  await expect(page.getByLabel('Window to', { exact: true })).toHaveValue('0.50 mm')
  // A closed window loses nothing.
  await expect.poll(() => page.evaluate(() => localStorage.getItem('dry-anvil.draft.new'))).toContain('0.50')
  await page.reload()
  await expect(page.getByText('You go on with what was written')).toBeVisible()
  await page.getByRole('button', { name: 'Keep the sheet' }).click()
  await expect(page.getByRole('heading', { name: 'Harrow R2 reduction box' })).toBeVisible()
  await expect(page.getByText('transfer case · revision 1')).toBeVisible()
  // The family is a drawer, and a job can be opened on the sheet.
  await page.goto('/drawers')
  await expect(page.getByRole('heading', { name: 'Harrow shims' })).toBeVisible()
  await page.goto('/')
  await page.getByRole('button', { name: /New job/ }).click()
  await chooseSheet(page, 'Harrow R2 reduction box')
  await page.getByLabel('What is on the bench').fill('Rescue truck, reduction box')
  await page.getByLabel('Whose it is').fill('Mountain rescue')
  await page.getByRole('dialog').getByRole('button', { name: /Open/ }).click()
  await expect(page.getByRole('heading', { name: /measure output end float/ })).toBeVisible()
})

test('a copy starts the next sheet; a ring of waiting and parts on two shafts are named', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/tolvane-t5')
  await page.getByRole('link', { name: 'Copy it' }).click()
  await expect(page.getByRole('heading', { name: 'Tolvane T5 transaxle, copy' })).toBeVisible()
  await page.getByRole('tab', { name: 'Checks' }).click()
  const check = (name: string) =>
    page.getByRole('group', { name: 'Checks, in the order of setting' }).getByRole('button', { name })
  await check('Idler gear thrust clearance').click()
  await page.getByLabel('Cut in after').selectOption({ label: 'Front bearing' })
  await page.getByLabel('and before').selectOption({ label: 'Idler gear' })
  await expect(page.getByText('the two parts are on different shafts')).toBeVisible()
  const before = page.getByRole('group', { name: 'Signed off before it' })
  await before.getByLabel('Input shaft end float').check()
  await check('Input shaft end float').click()
  await before.getByLabel('Idler gear thrust clearance').check()
  await expect(page.getByText(/wait for one another in a ring/)).toBeVisible()
  await before.getByLabel('Idler gear thrust clearance').uncheck()
  await expect(page.getByText(/wait for one another in a ring/)).toBeHidden()
})

test('a changed sheet is a revision; a job is moved to it and back, and a signed check is reopened', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/harrow-r2')
  await page.getByRole('link', { name: 'Write on it' }).click()
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByLabel('Window to', { exact: true }).fill('0.45')
  await page.getByRole('button', { name: 'Add a check' }).click()
  await page.getByLabel('What the check is called').fill('Front bearing turning torque')
  await page.getByLabel('Kind', { exact: true }).selectOption('turning_torque')
  await page.getByLabel('How it is usually taken').selectOption('turning_torque')
  await page.getByLabel('Turning torque from').fill('0.4')
  // Pressed before the server has looked at the last figure: what hindered without it hinders no more.
  await page.route('**/api/sheets/look', async (route) => {
    await new Promise((done) => setTimeout(done, 500))
    await route.continue()
  })
  await page.getByLabel('Turning torque to').fill('0.9')
  await page.getByRole('button', { name: 'Keep as revision 2' }).click()
  await expect(page.getByText('transfer case · revision 2')).toBeVisible()
  await page.getByRole('link', { name: 'what changed' }).click()
  const differences = page.getByRole('list', { name: 'Differences' })
  await expect(differences).toContainText('check “Output end float” · window · high')
  await expect(differences).toContainText('0.50 mm')
  // The job opened on revision 1 is told.
  await page.goto('/')
  await page.getByRole('searchbox').fill('Rescue truck, reduction box')
  await page.getByRole('link', { name: /Rescue truck, reduction box/ }).click()
  await page.getByRole('link', { name: /Revision 2 has come in/ }).click()
  await expect(page.getByText('Comes to the job: Front bearing turning torque')).toBeVisible()
  await page.getByRole('button', { name: /^Move job/ }).click()
  await expect(page.getByRole('heading', { name: '2 checks, 0 signed' })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('Moved from revision 1 to revision 2')
})

const TABS = ['Box', 'Identity', 'Shafts', 'Pieces', 'Checks', 'Packs', 'Build']
for (const [nth, tab] of TABS.entries()) {
  test(`a sheet being written is accessible in both themes, and fits a phone: ${tab}`, async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 })
    for (const theme of themesOf(nth)) {
      await atTheBench(page, theme)
      await page.goto('/sheets/ormhal-a4/write')
      await page.getByRole('tab', { name: tab }).click()
      await expect(page.getByRole('tabpanel')).toContainText(/\w/)
      const { violations } = await new AxeBuilder({ page }).analyze()
      expect(violations.map((v) => `${theme} ${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
      expect(wide).toBeLessThanOrEqual(0)
    }
  })
}

test('what a rebuilder would ask about is told, leads to its place, and is left with a word of why', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/skelt-m5/write')
  await page.getByRole('tab', { name: 'Shafts' }).click()
  await expect(page.getByText('Gears in mesh')).toBeVisible()
  await expect(page.getByRole('button', { name: /to ask about/ })).toHaveCount(0)
  const mate = page.getByLabel('First gear, on the shaft meshes with')
  await mate.selectOption({ label: 'Second gear, driven, Output shaft' })
  await page.getByRole('button', { name: '1 to ask about' }).click()
  const list = page.getByRole('dialog', { name: 'What a rebuilder would ask about' })
  await expect(list).toContainText('the two pairs cross')
  await list.getByRole('button', { name: /part 5, Fourth gear › its mate/ }).click()
  await expect(page.getByLabel('Fourth gear meshes with')).toBeFocused()
  await page.getByRole('button', { name: '1 to ask about' }).click()
  await list.getByLabel(/^Why it is so/).fill('drawn as it came out of the case')
  await page.keyboard.press('Enter')
  await expect(list).toContainText('Left as it is: drawn as it came out of the case')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: '1 left as it is' })).toBeVisible()
  await mate.selectOption({ label: 'First gear, driven, Output shaft' })
  await expect(page.getByRole('button', { name: /left as it is|to ask about/ })).toHaveCount(0)
})
