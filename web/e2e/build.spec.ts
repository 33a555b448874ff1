// The build of a box: the whole way by keyboard, from the first step to the hand-over; how it is written; what it looks like
// to two people.
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, does, freshJob, placed, tabTo } from './bench'

const next = (page: Page) => page.getByRole('region', { name: 'Next' }).getByRole('heading')

/** Presses Enter on what has the focus, once that is what is next. */
async function press(page: Page, what: RegExp, button: RegExp) {
  await expect(next(page)).toHaveText(what)
  await expect(page.getByRole('button', { name: button })).toBeFocused()
  await page.keyboard.press('Enter')
}

/** Something with the focus is pressed; Tab leads to it. */
async function tabAndPress(page: Page, name: RegExp) {
  await tabTo(page, name)
  await page.keyboard.press('Enter')
}

let last = 0

/** Readings as a gauge on another screen would send them. */
async function read(page: Page, job: number, check: string, way: string, entries: object[]) {
  for (const entry of entries) {
    last += 1
    const answer = await page.request.post(`/api/jobs/${job}/checks/${check}/readings`, {
      headers: { 'Idempotency-Key': `e2e-${Date.now()}-build-${last}` },
      data: { way, entry, unit: 'mm', who: 'RT' },
    })
    expect(answer.ok(), await answer.text()).toBeTruthy()
  }
}

async function act(page: Page, job: number, did: object) {
  const answer = await does(page, job, { of: 'build', did })
  expect(answer.ok(), await answer.text()).toBeTruthy()
}

async function seenTo(page: Page) {
  const all = page.getByRole('button', { name: 'All seen to' })
  if (await all.isVisible()) {
    await all.focus()
    await page.keyboard.press('Enter')
    await expect(page.getByText('Not ticked as seen to')).toHaveCount(0)
  }
}

async function fitted(page: Page, job: number, check: string, typed: string) {
  const did = { act: 'fitted', typed, unit: 'mm' }
  const answer = await does(page, job, { of: 'check', check, did }, 'RT')
  expect(answer.ok()).toBeTruthy()
}

/** Signs the check that a hold leads to, and comes back to the build. */
async function signAndBack(page: Page, name: RegExp) {
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible()
  const sign = page.getByRole('button', { name: 'Sign off as RT' })
  await expect(sign).toBeVisible()
  await seenTo(page)
  await sign.focus()
  await page.keyboard.press('Enter')
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  await tabTo(page, /^Back to the build$/)
  await page.keyboard.press('Enter')
}

const heights = ['10.31', '10.32', '10.32', '10.31'].map((d, i) => ({
  kind: 'depth',
  place: i + 1,
  of: 4,
  depth: `${d} mm`,
  bar: '9.96 mm',
  bar_on: 'face',
}))
const travels = (...figures: string[]) =>
  figures.map((f) => ({ kind: 'travel', travel: `${f} mm`, tilt: '', pull: '', turned: null }))
const teeth = ['0.15', '0.16', '0.14', '0.14'].map((play, i) => ({
  kind: 'tooth',
  place: i + 1,
  play: `${play} mm`,
}))

test('a box goes together by keyboard: holds, a proof that fails, a shim that changes, handed over', async ({
  page,
}) => {
  test.setTimeout(180_000)
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2')
  await page.goto(`/jobs/${job}`)
  await tabAndPress(page, /^Build$/)
  await press(page, /Housing and cover clean/, /^Done$/)
  await press(page, /Inner bearing on the pinion/, /^Done$/)
  await press(page, /Housing into the oven/, /^It is in the oven$/)
  // While the oven works, what else is ready comes next, in order.
  await expect(page.getByTestId('waits')).toContainText('Housing into the oven: 2')
  await press(page, /Ring gear on its carrier/, /^Done$/)
  await press(page, /Both bearings on the carrier/, /^Done$/)
  await press(page, /Wheel side seal/, /^Done$/)
  // Nothing else is left: out before its time, it asks why.
  await press(page, /Housing into the oven/, /^Done$/)
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByText(/Its time is not up/)).toBeVisible()
  await tabTo(page, /Why otherwise/)
  await page.keyboard.type('Hot enough by the spit test')
  await page.keyboard.press('Enter')
  await press(page, /Pinion into the warm housing/, /^Done$/)
  // The first hold.
  await expect(next(page)).toHaveText(/Sign off: Pinion height/)
  await fitted(page, job, 'pinion-height', '1.28 mm')
  await read(page, job, 'pinion-height', 'depth_from_bar', heights)
  await expect(page.getByRole('link', { name: 'Open the check' })).toBeVisible()
  await tabAndPress(page, /^Open the check$/)
  await signAndBack(page, /Pinion height/)
  await press(page, /Pinion seal flush/, /^Done$/)
  await press(page, /Coupling and pinion nut/, /^Done$/)
  await read(page, job, 'pinion-drag', 'turning_torque', [
    { kind: 'torque', torque: '0.45 N·m' },
    { kind: 'torque', torque: '0.5 N·m' },
  ])
  await expect(next(page)).toHaveText(/Sign off: Pinion turning torque/)
  await tabAndPress(page, /^Open the check$/)
  await signAndBack(page, /Pinion turning torque/)
  await expect(page.getByTestId('last-chance')).toHaveCount(0)
  await press(page, /Ring gear in between its shims/, /^Done$/)
  // A proof that fails holds what comes after it, and says what it usually means.
  await expect(next(page)).toHaveText(/Coupling turns evenly/)
  await tabAndPress(page, /^No$/)
  await expect(page.getByTestId('proof-failed')).toContainText('Run-out of the ring gear')
  await tabAndPress(page, /^Take it apart again/)
  await expect(page.getByTestId('tear-back')).toContainText('1 step comes out and goes back in')
  await tabTo(page, /Why the box is taken apart/)
  await page.keyboard.type('A tooth to stone')
  await page.keyboard.press('Enter')
  await press(page, /Take out: Ring gear in between/, /^It is out$/)
  await press(page, /Ring gear in between its shims/, /^Done$/)
  await press(page, /Coupling turns evenly/, /^Yes$/)
  // The third hold: the shim must change, and the choice says what that costs.
  await fitted(page, job, 'ring-float', '1.10 mm')
  await read(page, job, 'ring-float', 'dial_travel', travels('0.16', '0.16', '0.16'))
  await expect(next(page)).toHaveText(/Sign off: Ring gear shaft end float/)
  await tabAndPress(page, /^Open the check$/)
  await expect(page.getByTestId('fit-cost')).toContainText('one step comes out and goes back in')
  await page
    .getByRole('button', { name: /^Choose 1\.\d+$/ })
    .first()
    .focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Fitted: measure again' })).toBeVisible()
  await tabAndPress(page, /^See them$/)
  await expect(page.getByTestId('tear-back')).toBeVisible()
  await tabTo(page, /Why the box is taken apart/)
  await page.keyboard.type('Another shim')
  await page.keyboard.press('Enter')
  await press(page, /Take out: Ring gear in between/, /^It is out$/)
  await press(page, /Ring gear in between its shims/, /^Done$/)
  await press(page, /Coupling turns evenly/, /^Yes$/)
  await expect(next(page)).toHaveText(/Sign off: Ring gear shaft end float/)
  await tabAndPress(page, /^Open the check$/)
  await page.getByRole('button', { name: 'Fitted: measure again' }).focus()
  await page.keyboard.press('Enter')
  await expect(page.getByText('Fitted. Close the case')).toBeVisible()
  await read(page, job, 'ring-float', 'dial_travel', travels('0.06', '0.07', '0.06'))
  await signAndBack(page, /Ring gear shaft end float/)
  await fitted(page, job, 'ring-mesh', '1.24 mm')
  await read(page, job, 'ring-mesh', 'at_teeth', teeth)
  await expect(next(page)).toHaveText(/Sign off: Ring gear backlash/)
  await tabAndPress(page, /^Open the check$/)
  await signAndBack(page, /Ring gear backlash/)
  await press(page, /Cover off, its new ring/, /^Done$/)
  await press(page, /Drain plug in/, /^Done$/)
  await press(page, /Nothing left over/, /^Yes$/)
  await expect(next(page)).toHaveText(/Ready to hand over/)
  await tabAndPress(page, /^To the box$/)
  // The focus goes along to the box's heading: not after the press is reached.
  await expect(page.getByRole('heading', { level: 1, name: 'Every check is signed off' })).toBeFocused()
  // Nobody went over its parts: that is said, and asks a word of why.
  await expect(page.getByText(/^Not seen to: \d+ parts of \d+ at the strip/)).toBeVisible()
  await tabAndPress(page, /^Hand over all the same$/)
  await tabTo(page, /Or another reason/)
  await page.keyboard.type('Looked at on the bench')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1, name: /^Handed over .* by RT/ })).toBeVisible()
  await tabAndPress(page, /^Report$/)
  const record = page.getByRole('region', { name: 'Build' })
  await expect(record.getByRole('row', { name: /Housing into the oven/ })).toContainText('spit test')
  await expect(record).toContainText(
    'taken apart to: Ring gear in between its shims, cover on dry (A tooth to stone)',
  )
  await expect(record.getByRole('row', { name: /Drain plug in/ })).toContainText(
    'Nothing left over in the tray? yes',
  )
})

test('a step shows which way round, how many notches, in which order; somebody else’s press is there at once', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-m5')
  await page.goto(`/jobs/${job}/build`)
  await expect(page.getByText('0 of 29 steps done')).toBeVisible()
  await act(page, job, { act: 'done', step: 'clean' })
  await expect(next(page)).toHaveText(/Oil ways clear right through/)
  await act(page, job, { act: 'proved', step: 'clean', ask: 'Oil ways clear right through?', answer: 'yes' })
  await expect(next(page)).toHaveText(/Right case half into the oven/)
  // A step out of its order is taken with a reason.
  await page.getByRole('button', { name: /Fourth gear and its collar/ }).click()
  await page.getByRole('button', { name: 'Do it now' }).click()
  await expect(next(page)).toHaveText(/Fourth gear and its collar/)
  await expect(
    page
      .getByRole('region', { name: 'Next' })
      .getByRole('img', { name: 'Fourth gear: dogs to third gear, sliding' }),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Done', exact: true }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog.getByRole('alert')).toContainText('“Right case half into the oven” comes first')
  await dialog.getByLabel('Why otherwise').fill('The oven is full')
  await dialog.getByRole('button', { name: 'Done so' }).click()
  await expect(page.getByText('Done: Fourth gear and its collar').first()).toBeVisible()
  const rail = page.getByTestId('rail')
  await expect(rail.getByRole('img', { name: /^Fourth gear, 24 teeth.*, in$/ })).toHaveCount(1)
  await expect(rail.getByRole('img', { name: /^Fifth gear, 27 teeth.*, not in yet$/ })).toHaveCount(1)
  // Undone as easily.
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(rail.getByRole('img', { name: /^Fourth gear, 24 teeth.*, not in yet$/ })).toHaveCount(1)
  // A part off the rails says what is to be known of it.
  await page.getByRole('button', { name: /^Front fork rod ?, not in yet$/ }).click()
  await expect(dialog).toContainText('the shorter, 118 mm')
  await expect(dialog).toContainText('not rear fork rod')
})

test('what takes its time runs on, and a box half taken apart goes on with that', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{School minibus}/build'))
  await expect(page.getByTestId('waits')).toContainText('Third, its spacer and fourth into the oven')
  await page.goto(await placed(page, '/jobs/{Rescue 2}'))
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Next: take out again')
  await page.getByRole('link', { name: /^To the build/ }).click()
  await expect(next(page)).toHaveText(/Take out: Intermediate shaft/)
  await expect(page.getByRole('list', { name: 'Still to come out' }).getByRole('listitem')).toHaveCount(1)
})

test('the shift test says how each gear turns, and which one it is that was counted', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/build`)
  const shift = page.getByRole('region', { name: 'Shift test' })
  await expect(shift).toContainText('0 of 7 tried')
  const row = (gear: string) =>
    shift.getByRole('listitem').filter({ has: page.getByRole('button', { name: `${gear}: as it should` }) })
  await expect(row('reverse')).toContainText('turns against the other gears')
  await expect(row('first')).toContainText('Input shaft pushed to the left')
  await row('neutral').getByRole('button', { name: 'neutral: as it should' }).click()
  await expect(page.getByTestId('tried-neutral')).toContainText('As it should, RT')
  await row('second').getByRole('button', { name: 'second: turns counted' }).click()
  await shift.getByLabel('Turns in').fill('0')
  await shift.getByLabel('Turns out').fill('1.96')
  await shift.getByRole('button', { name: 'Which gear is it?' }).click()
  await expect(shift.getByRole('alert')).toContainText('Turn the input by more than nothing')
  await shift.getByLabel('Turns in').fill('10')
  await shift.getByRole('button', { name: 'Which gear is it?' }).click()
  await expect(page.getByTestId('tried-second')).toContainText('10 in, 1.96 out: that is third')
  await expect(shift).toContainText('2 of 7 tried')
})

test('steps are begun from the rails, written on, and what was noted at a step is taken in', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/skelt-b2/write')
  await page.getByRole('tab', { name: /^Build/ }).click()
  const take = page.getByRole('button', { name: 'Take this step out' })
  for (let i = 0; i < 12; i++) await take.click()
  await page.getByRole('button', { name: /^Begin from the rails: \d+ steps/ }).click()
  await page.getByRole('button', { name: /^1\. / }).click()
  await page.getByRole('button', { name: 'this step', exact: true }).click()
  await expect(page.getByLabel('What to do')).toBeVisible()
  // A copy puts nothing in: what goes in there is named anew. A wrong torque stands at its field.
  await page.getByLabel('Torque, N·m', { exact: true }).fill('-3')
  await expect(page.getByText('a torque lies above nothing').first()).toBeVisible()
  await page.goto('/sheets/skelt-m5/write')
  await page.getByRole('tab', { name: /^Build/ }).click()
  await page.getByRole('button', { name: /^19\. / }).click()
  const noted = page.getByRole('list', { name: 'Noted at the bench' })
  await expect(noted).toContainText('Grease the pins with the stiff grease')
  await noted.getByRole('button', { name: 'Take it into the sheet' }).first().click()
  await expect(page.getByLabel('Where it goes wrong, and what helps')).toHaveValue(/stiff grease/)
  // Which way round a part goes is written in a row.
  await page.getByRole('tab', { name: /^Parts/ }).click()
  await expect(page.getByLabel('Face, Input shim')).toHaveValue('chamfer')
})

test('a part says what is to be known of it wherever it is drawn; the plan and the list name each other’s steps', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/sheets/tolvane-t5')
  await page.getByTestId('parts').locator('summary').click()
  await page.getByRole('button', { name: '46 × Loose rollers of the idler gear' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('2.8 mm thick, 12 mm long')
  await expect(dialog).toContainText('Goes in at step 8')
  await page.keyboard.press('Escape')
  const job = await freshJob(page, 'tolvane-t5')
  await page.goto(`/jobs/${job}`)
  await page.getByTestId('parts').locator('summary').click()
  await page.getByRole('button', { name: 'Idler gear', exact: true }).click()
  await expect(dialog).toContainText('Not in yet: step 9 of the build')
  await page.keyboard.press('Escape')
  await page.goto(`/jobs/${job}/plan`)
  await page.getByRole('link', { name: 'step 28: Both shaft nuts to their torque, staked' }).first().click()
  const step = page.getByRole('list', { name: 'Steps' }).getByRole('button', { expanded: true })
  await expect(step).toContainText('Both shaft nuts to their torque')
  await expect(step).toBeFocused()
  // Rollers out of the tin and into the row: as many as the diameters say.
  await page.getByRole('button', { name: /Loose rollers into the idler gear/ }).click()
  await expect(page.getByTestId('roller-row')).toContainText('Rollers of 2.8 mm on 18 mm: 23 fit in a row.')
})

test('of two choices that land alike, the one with less taken apart comes first, and says so', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'ormhal-a4')
  await act(page, job, { act: 'done', step: 'clean' })
  const ask = 'Air comes out at the far end of every passage?'
  await act(page, job, { act: 'proved', step: 'clean', ask, answer: 'yes' })
  await act(page, job, { act: 'done', step: 'forward-piston', why: 'the drum is on the bench' })
  await act(page, job, { act: 'done', step: 'springs', why: 'the drum is on the bench' })
  await act(page, job, { act: 'began', step: 'soak' })
  for (const step of ['soak', 'forward-in', 'forward-ring'])
    await act(page, job, { act: 'done', step, why: 'soaked since yesterday' })
  await fitted(page, job, 'forward-pack', '1.70 mm')
  await read(page, job, 'forward-pack', 'dial_travel', travels('1.81', '1.82', '1.80'))
  await page.goto(`/jobs/${job}/checks/forward-pack`)
  const offered = page.getByRole('table', { name: 'Choices of every family that sets it, best first' })
  await expect(offered.getByRole('row').nth(1)).toContainText(
    'Forward snap rings · 1 step comes out · less than for the next, which lands alike',
  )
  await expect(offered.getByText('2 steps come out').first()).toBeVisible()
})
