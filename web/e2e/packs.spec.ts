// Clutch packs: drawn in their drum, laid out plate by plate, summed, and signed off.
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, placed } from './bench'
import { themesOf } from './views'

/** Opens a job on the automatic and returns its number. */
async function bus(page: Page): Promise<number> {
  const answer = await page.request.post('/api/jobs', {
    headers: { 'Idempotency-Key': `bus-${Date.now()}-${Math.random()}` },
    data: { sheet_key: 'ormhal-a4', title: 'Bus 9', customer: 'Council', complaint: '', who: 'RT' },
  })
  return ((await answer.json()) as { job_no: number }).job_no
}

test('a pack is laid out plate by plate: what is wrong is said at once, and what is right is kept', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto(`/jobs/${await bus(page)}/checks/direct-pack`)
  const pack = page.getByRole('region', { name: 'Clutch pack' })
  await expect(
    pack.getByRole('img', { name: /Direct pack: 4 frictions, 4 steels.* leave 1.10 mm/ }),
  ).toBeVisible()
  await expect(pack).toContainText('No book gives this window: about 0.010 in a friction')
  await expect(pack).toContainText('4 frictions would have about 1.016 mm')
  await expect(pack).toContainText('Not laid out yet')
  await pack.getByRole('button', { name: 'Lay it out' }).click()
  const add = async (...kinds: string[]) => {
    for (const kind of kinds) await pack.getByRole('button', { name: `+ ${kind}` }).click()
  }
  await add('pressure plate', 'steel', 'friction', 'friction')
  await expect(pack.getByRole('alert')).toContainText(
    'Plate 4: two frictions lie together: put a steel between',
  )
  await pack.getByRole('button', { name: 'Take the last out' }).click()
  await expect(pack.getByRole('alert')).toBeHidden()
  await add('steel', 'friction', 'steel', 'friction', 'steel', 'friction', 'pressure plate', 'snap ring')
  await pack.getByLabel('soaked').check()
  await pack.getByLabel('Return springs fitted').fill('19')

  // Any plate is moved or taken out, and put in where it belongs; it is drawn as it lies.
  const laid = pack.getByRole('list', { name: 'Laid so far' })
  const lies = async (at: number, kind: string) =>
    expect(laid.getByRole('listitem').nth(at - 1)).toContainText(`${at} ${kind}`)
  await laid.getByRole('button', { name: '2 steel' }).press('Alt+ArrowRight')
  await lies(2, 'friction')
  await expect(pack.getByRole('alert')).toContainText('Plate 4: two steels lie together')
  await expect(laid.getByRole('button', { name: '3 steel' })).toBeFocused()
  await laid.getByRole('button', { name: '3 steel' }).press('Delete')
  await expect(pack.getByRole('img', { name: /4 frictions, 3 steels/ })).toBeVisible()
  // Half laid and loaded again: it lies there still.
  await page.reload()
  await lies(2, 'friction')
  await laid.getByRole('button', { name: '1 pressure plate' }).click()
  await add('steel')
  await lies(2, 'steel')
  await pack.getByRole('button', { name: 'Take plate 2 out' }).click()
  await laid.getByRole('button', { name: '1 pressure plate' }).click()
  await add('steel')
  await laid
    .getByRole('button', { name: '11 snap ring' })
    .dragTo(laid.getByRole('button', { name: '3 friction' }))
  await lies(3, 'snap ring')
  await expect(pack.getByRole('alert')).toContainText('outside the snap ring')
  await laid.getByRole('button', { name: '3 snap ring' }).dragTo(laid.getByRole('button', { name: '11 ' }))
  await lies(11, 'snap ring')
  await expect(pack.getByRole('alert')).toBeHidden()
  await pack.getByRole('button', { name: 'Keep as laid' }).click()
  await expect(pack).toContainText('19 return springs, where the book fits 20')
  await expect(page.getByTestId('laid-wrong')).toContainText('19 return springs, where the book fits 20')
  await pack.getByRole('button', { name: 'Lay it out again' }).click()
  await add('pressure plate')
  for (let i = 0; i < 4; i++) await add('steel', 'friction')
  await add('pressure plate', 'snap ring')
  await pack.getByLabel('soaked').check()
  await pack.getByLabel('Return springs fitted').fill('20')
  await pack.getByRole('button', { name: 'Keep as laid' }).click()
  await expect(pack).toContainText('20 return springs: as the sheet has it.')
  await page.getByText(/^History, 2 entries/).click()
  await expect(
    page.getByText(
      'laid the pack out: pressure plate, 4 × (steel, friction), pressure plate, snap ring, soaked, 20 return springs',
    ),
  ).toBeVisible()
})

test('a pack nobody counted is signed off only with a reason', async ({ page }) => {
  await atTheBench(page)
  await page.goto(`/jobs/${await bus(page)}/checks/forward-pack`)
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  for (const reading of ['1.41', '1.40', '1.41']) {
    await page.keyboard.type(reading)
    await page.keyboard.press('Enter')
    await expect(page.getByLabel(/^Travel/)).toHaveValue('')
  }
  await expect(page.getByTestId('loud')).toHaveText('1.407')
  const confirm = page.getByRole('region', { name: 'Confirm' })
  await expect(confirm).toContainText(/plates of this pack|pack as laid out/)
  await expect(confirm.getByRole('button', { name: /Sign off/ })).toBeDisabled()
  await confirm.getByLabel('Reason').fill('Counted by eye, the drum is closed')
  await confirm.getByRole('button', { name: /Sign off/ }).click()
  await expect(confirm).toContainText('Counted by eye')
})

test('a pack is written plate by plate, with the count the book gives and the rule of thumb', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/new')
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByRole('button', { name: 'Add a check' }).click()
  await page.getByLabel('What the check is called').fill('Low pack clearance')
  await page.getByLabel('Kind', { exact: true }).selectOption('clutch_pack_clearance')
  await page.getByLabel('How it is usually taken').selectOption('stack_sum')
  await page.getByRole('tab', { name: 'Packs' }).click()
  await page.getByRole('button', { name: 'Add a pack' }).click()
  await page.getByLabel('What the pack is called').fill('Low pack')
  await page.getByLabel('Drum floor to the groove').fill('9.0')
  await page.getByRole('button', { name: 'Add a steel and a friction' }).click()
  await page.getByLabel('Thickness, plate 1').fill('1.8')
  await page.getByLabel('Thickness, plate 2').fill('2.0')
  await page.getByRole('button', { name: 'Add a steel and a friction' }).click()
  const drawn = page.getByRole('img', { name: /Low pack: 2 frictions, 2 steels.* leave 1.40 mm/ })
  await expect(drawn).toBeVisible()
  const frictions = page.getByLabel('Frictions, by the book')
  await frictions.fill('7')
  await expect(frictions).toHaveAccessibleDescription(
    '2 frictions are laid and the sheet says 7: count them again',
  )
  await frictions.fill('2')
  await expect(frictions).toHaveAccessibleDescription('')
  await page.getByLabel('Plate, plate 3').selectOption({ label: 'friction' })
  await expect(page.getByLabel('Plate, plate 3')).toHaveAccessibleDescription(/two frictions lie together/)
  await page.getByRole('button', { name: 'Undo' }).click()
  await page.getByRole('button', { name: /^Use 0.4064 mm to 0.6096 mm/ }).click()
  await page.getByRole('tab', { name: 'Checks' }).click()
  await expect(page.getByLabel('Where the window comes from')).toHaveValue(/0.010 in a friction/)
})

const PLACES = [
  '/jobs/{Bus 4, school run}',
  '/jobs/{Bus 4, school run}/checks/direct-pack',
  '/sheets/ormhal-a4',
]
for (const [nth, place] of PLACES.entries()) {
  test(`packs are accessible in both themes, and fit a phone: ${place}`, async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 })
    for (const theme of themesOf(nth)) {
      await atTheBench(page, theme)
      await page.goto(await placed(page, place))
      await expect(page.getByRole('img', { name: /Direct pack/ }).first()).toBeVisible()
      const { violations } = await new AxeBuilder({ page }).analyze()
      expect(violations.map((v) => `${theme} ${v.id}: ${v.nodes[0]?.html}`)).toEqual([])
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)
      expect(wide).toBeLessThanOrEqual(0)
    }
  })
}
