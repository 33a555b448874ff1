// A box that no sheet is of, from the door to the report: how many presses and keys that takes.
import { expect, test, type Locator, type Page } from '@playwright/test'
import { atTheBench } from './bench'

/** Counts what is pressed and what is typed. */
class Hands {
  presses = 0
  keys = 0
  constructor(readonly page: Page) {}
  async press(what: Locator) {
    this.presses += 1
    await what.click()
  }
  /** Into what has the focus. */
  async type(text: string) {
    this.keys += text.length
    await this.page.keyboard.type(text)
  }
  async key(...names: string[]) {
    for (const name of names) {
      this.keys += 1
      await this.page.keyboard.press(name)
    }
  }
  /** From the list of a choice: opened, and pressed. */
  async choose(what: Locator, label: string) {
    this.presses += 2
    await what.selectOption({ label })
  }
  /** Out of a long form, up to its tabs. */
  async up() {}
  async back() {
    this.presses += 1
    await this.page.goBack()
  }
}

/** The same without a pointer: to each thing by Tab, or by the arrows where several are one stop, then Enter. */
class Keys extends Hands {
  override async press(what: Locator) {
    await this.reach(what)
    // In a field nothing is pressed.
    if (!(await what.evaluate((node) => node.matches('input:not([type=checkbox]), textarea'))))
      await this.key('Enter')
  }
  override async choose(what: Locator, label: string) {
    await this.reach(what)
    await this.type(label)
    await expect(what.locator('option:checked')).toHaveText(label)
  }
  override async back() {
    // Alt and an arrow: the browser's own, which no page hears.
    this.keys += 1
    await this.page.goBack()
  }
  override async up() {
    await this.key('Escape')
    await expect(this.page.getByRole('tab', { selected: true })).toBeFocused()
  }
  private async reach(what: Locator) {
    await expect(what).toBeVisible()
    for (let steps = 0; steps < 120; steps += 1) {
      const key = await what.evaluate((node) => {
        const at = document.activeElement
        if (at === node) return ''
        if (node.role === 'tab' && at?.closest('[role=tabpanel]')) return 'Escape'
        const together = '[role=tablist], [role=radiogroup], [role=group][data-roving]'
        const before = (at?.compareDocumentPosition(node) ?? 0) & Node.DOCUMENT_POSITION_PRECEDING
        if (at?.closest(together)?.contains(node)) return before ? 'ArrowLeft' : 'ArrowRight'
        return before ? 'Shift+Tab' : 'Tab'
      })
      if (!key) return
      await this.key(key)
    }
    throw new Error(`not reached: ${what.toString()}`)
  }
}

test('a box without a sheet is written, measured, signed and reported in few presses', async ({ page }) => {
  const hands = new Hands(page)
  await fromNothing(hands, 'Skarn')
  // As a person presses: what is aimed at is 90 presses and 350 keys.
  expect([hands.presses < 90, hands.keys < 350], counted(hands)).toEqual([true, true])
})

test('and by the keyboard alone in few keys', async ({ page }) => {
  test.slow()
  const hands = new Keys(page)
  await fromNothing(hands, 'Brodd')
  // What is aimed at is 700 keys.
  expect([hands.presses, hands.keys < 700], counted(hands)).toEqual([0, true])
})

function counted({ presses, keys }: Hands) {
  const description = `${presses} presses, ${keys} keys`
  test.info().annotations.push({ type: 'counted', description })
  return description
}

/** From the door to the report with a box that is called so. */
async function fromNothing(hands: Hands, box: string) {
  const { page } = hands
  await atTheBench(page)
  await page.goto('/')
  const focused = (label: string | RegExp) => expect(page.getByLabel(label).first()).toBeFocused()
  await hands.press(page.getByRole('button', { name: 'New job' }))
  await hands.press(page.getByRole('link', { name: /write its sheet/ }))
  await focused('What people call the box')
  await hands.type(box)
  await hands.press(page.getByRole('tab', { name: /Shafts/ }))

  // Two shafts of four parts each: name, kind and width, Enter from one to the next.
  const parts = async (list: [string, string, string][], from: string) => {
    await expect(page.getByRole('button', { name: 'Add a part' })).toBeFocused()
    await hands.key('Enter')
    for (const [i, [name, kind, width]] of list.entries()) {
      await expect(page.getByLabel(`Part, part ${i + 1}`, { exact: true })).toBeFocused()
      await hands.type(name)
      await hands.key('Enter')
      await expect(page.getByLabel(`Kind, part ${i + 1}, ${name}`)).toBeFocused()
      await hands.type(kind)
      await hands.key('Enter')
      await expect(page.getByLabel(`Width, part ${i + 1}, ${name}`)).toBeFocused()
      await hands.type(width)
      if (i < list.length - 1) await hands.key('Enter')
    }
    expect(await page.getByRole('group', { name: /^part \d/ }).count(), from).toBe(list.length)
  }
  await hands.press(page.getByLabel('What the shaft is called'))
  await hands.key('Enter')
  await parts(
    [
      ['Front', 'b', '17'],
      ['Gear', 'g', '31'],
      ['Shim', 'shi', '1.2'],
      ['Cover', 'ho', '12'],
    ],
    'main',
  )
  await hands.up()
  await hands.press(page.getByRole('button', { name: 'Add a shaft' }))
  await focused('What the shaft is called')
  await hands.type('Lay')
  await hands.key('Enter')
  await parts(
    [
      ['Rear', 'b', '16'],
      ['Pair', 'g', '44'],
      ['Ring', 'w', '2.2'],
      ['End', 'ho', '9'],
    ],
    'lay',
  )

  // Nine sizes in a line.
  await hands.press(page.getByRole('tab', { name: /Pieces/ }))
  await hands.press(page.getByRole('button', { name: 'Add a family' }))
  await focused('What the pieces are called')
  await hands.type(`${box} shims`)
  await hands.key('Tab', 'Tab')
  await hands.type('0.004')
  await hands.press(page.getByLabel('Several at once'))
  await hands.type('1.04 to 1.36 by 0.04')
  await hands.key('Enter')
  await expect(page.getByRole('group', { name: /^size 9/ })).toBeVisible()

  // Three checks, each cut in where it is taken.
  const check = async (after: string, name: string, low: string, high: string, shims: boolean) => {
    await hands.press(page.getByRole('button', { name: `Cut a check in after ${after}` }))
    await focused('What the check is called')
    await hands.type(name)
    await hands.press(page.getByLabel('Window from; preload'))
    await hands.type(low)
    await hands.key('Tab')
    await hands.type(high)
    if (shims) await hands.choose(page.getByLabel('Set by'), `${box} shims`)
  }
  await hands.press(page.getByRole('tab', { name: /Shafts/ }))
  await check('Pair', 'Pair', '.1', '.3', false)
  await hands.press(page.getByRole('tab', { name: /Shafts/ }))
  await check('Ring', 'Lay', '.1', '.4', false)
  await hands.press(page.getByRole('tab', { name: /Shafts/ }))
  await hands.press(page.getByRole('button', { name: 'Main shaft', exact: true }).first())
  await check('Shim', 'Float', '.06', '.14', true)
  await hands.press(page.getByRole('button', { name: 'Keep the sheet' }))
  await expect(page.getByRole('heading', { name: box, exact: true })).toBeVisible()

  // Its drawer of eight sizes, counted down.
  await hands.press(page.getByRole('link', { name: 'Its drawers' }))
  const drawer = page.getByRole('region', { name: `${box} shims` })
  await hands.press(drawer.getByRole('button', { name: 'Count it through' }))
  for (const n of [2, 2, 2, 2, 2, 2, 2, 2]) await hands.type(`${n}\n`)
  await hands.press(drawer.getByRole('button', { name: 'Keep 8 counts' }))
  await expect(drawer.getByRole('button', { name: /^1.04 mm: 2 on hand/ })).toBeVisible()

  // A job on it, measured.
  await hands.back()
  await hands.press(
    page.getByRole('button', { name: 'Open a job' }).or(page.getByRole('link', { name: 'Open a job' })),
  )
  const card = page.getByRole('dialog')
  await hands.press(card.getByLabel('What is on the bench'))
  await hands.type(`${box} 7`)
  await hands.key('Tab')
  await hands.type('Quarry')
  await hands.key('Enter')
  await expect(page.getByRole('heading', { level: 1, name: /measure/ })).toBeVisible()
  const take = async (name: string, ...readings: string[]) => {
    await hands.press(page.getByRole('link', { name: new RegExp(`^${name}\\b`) }).first())
    await expect(page.getByLabel(/^Travel/)).toBeFocused()
    for (const reading of readings) {
      const trials = page.getByRole('button', { name: /^(Strike out|Restore) trial/ })
      const before = await trials.count()
      await hands.type(`${reading}\n`)
      await expect(trials).toHaveCount(before + 1)
    }
  }
  const sign = async () => {
    await hands.press(page.getByRole('button', { name: 'Sign off as RT' }))
    await expect(page.getByText('Signed off by RT')).toBeVisible()
  }
  const back = () => hands.press(page.getByRole('link', { name: `${box} 7` }).first())
  await take('Pair', '.2', '.2', '.21')
  await sign()
  await back()
  await take('Lay', '.2', '.21', '.2')
  await sign()
  await back()
  // With nothing in, as a new sheet has it.
  await take('Float', '1.3', '1.31', '1.3')
  await expect(page.getByRole('button', { name: /^Choose 1.20/ })).toBeVisible()
  await hands.press(page.getByRole('button', { name: /^Choose 1.20/ }))
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeFocused()
  await hands.key('Enter')
  await expect(page.getByText('Not measured since fitting')).toBeVisible()
  await expect(page.getByLabel(/^Travel/)).toBeFocused()
  for (const reading of ['.1', '.1', '.1']) await hands.type(`${reading}\n`)
  await expect(page.getByTestId('verdict')).toContainText('In the window')
  await sign()
  await back()
  await hands.press(page.getByRole('link', { name: 'Report' }))
  await expect(page.getByRole('row', { name: /Float/ })).toContainText('RT')
}
