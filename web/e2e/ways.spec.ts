// Every way of measuring, as the hands go; gauges and their register; a gauge that speaks.
import { expect, test, type Page } from '@playwright/test'
import { createServer, type Server, type Socket } from 'node:net'
import type { AddressInfo } from 'node:net'
import { atTheBench, freshJob, take, placed } from './bench'

const by = (page: Page, way: string) => page.getByLabel('Taken by').selectOption(way)

async function open(page: Page, check: string) {
  await atTheBench(page)
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/${check}`)
  await expect(page.getByLabel('Taken by')).toBeVisible()
  return job
}

test('leaves: what to try next is named until the verdict is settled', async ({ page }) => {
  await open(page, 'second-side')
  await by(page, 'feeler')
  const advice = page.getByTestId('advice')
  // A gap of 0.22 in a window of 0.12 to 0.34.
  for (let tries = 0; tries < 6; tries++) {
    if (await advice.getByText('The verdict is settled').isVisible()) break
    const size = (await advice.locator('strong').innerText())
      .split('+')
      .map((l) => parseFloat(l))
      .reduce((a, b) => a + b)
    const before = await page.getByRole('button', { name: /^Strike out trial/ }).count()
    await advice.getByRole('button', { name: 'take it' }).click()
    await page.getByRole('button', { name: size <= 0.22 ? 'goes' : 'does not go', exact: true }).click()
    await expect(page.getByRole('button', { name: /^Strike out trial/ })).toHaveCount(before + 1)
  }
  await expect(advice).toContainText('The verdict is settled')
  await expect(page.getByTestId('verdict')).toContainText('In the window')
})

test('leaves that contradict each other are called, and give no figure', async ({ page }) => {
  await open(page, 'second-side')
  await by(page, 'feeler')
  const field = page.getByLabel('Leaf, or leaves on each other')
  await field.fill('0.30')
  await page.getByRole('button', { name: 'goes', exact: true }).click()
  await expect(page.getByText('0.30 goes').first()).toBeVisible()
  await page.getByRole('group', { name: 'Leaves of the set' }).getByRole('button', { name: '0.20' }).click()
  await expect(field).toHaveValue('0.20 mm')
  await page.getByRole('button', { name: 'does not go', exact: true }).click()
  await expect(page.getByTestId('verdict')).toContainText('one of the two is wrong')
  await expect(page.getByText('Not measured yet')).toBeVisible()
})

test('depths round a circle go in with Enter alone, are drawn, and a tilt is called', async ({ page }) => {
  await open(page, 'input-float')
  await by(page, 'depth_from_bar')
  await page.getByLabel('Bar is thick').fill('10')
  await page.getByLabel('Depth at place 1').focus()
  for (const [i, depth] of ['10.20', '10.29', '10.29', '10.20', '10.11', '10.11'].entries()) {
    await expect(page.getByLabel(`Depth at place ${i + 1}`)).toBeFocused()
    await page.keyboard.type(depth)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByRole('img', { name: /6 depths round a circle, mean 0.200 mm/ })).toBeVisible()
  await expect(page.getByText(/tilt is larger than the window is wide/)).toBeVisible()
  await expect(page.getByTestId('loud')).toHaveText('0.200')
  await page.getByLabel('Depth at place 1').fill('9')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('less than the bar is thick')
})

test('known shims that contradict each other are said so until one is struck out', async ({ page }) => {
  await open(page, 'diff-preload')
  const shim = page.getByLabel('Shim in')
  const float = page.getByLabel('Float felt')
  for (const [a, f] of [
    ['0.60', '1.59'],
    ['0.60', '1.59'],
    ['0.80', '1.50'],
  ] as const) {
    const before = await page.getByRole('button', { name: /^Strike out trial/ }).count()
    await shim.fill(a)
    await float.fill(f)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /^Strike out trial/ })).toHaveCount(before + 1)
  }
  await expect(page.getByTestId('verdict')).toContainText('contradict each other')
  await expect(page.getByRole('table', { name: /Set-ups/ }).getByRole('row')).toHaveCount(3)
  await page.getByRole('button', { name: 'Strike out trial 3' }).click()
  await page.getByRole('dialog').getByLabel('Or another reason').fill('burr on the shim')
  await page.getByRole('dialog').getByRole('button', { name: 'Strike out' }).click()
  await expect(page.getByTestId('loud')).toHaveText('0.990')
  // The wrench gives a second opinion, and does not take over.
  await by(page, 'turning_torque')
  await page.getByLabel('Turning torque', { exact: true }).fill('15 lbf·in')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('side-by-side')).toContainText('1.69 N·m')
  await expect(page.getByTestId('loud')).toHaveText('0.990')
})

test('a stack sum shows its shares, and what another part would give', async ({ page }) => {
  await open(page, 'fifth-thrust')
  await by(page, 'stack_sum')
  await page.getByLabel('Part or depth measured').selectOption('2')
  await page.getByLabel('Measures').fill('7.95')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('loud')).toHaveText('0.200')
  await expect(page.getByText(/Worst case 0.1[45]\d to 0.2[45]\d/)).toBeVisible()
  await page.getByLabel('Which part').selectOption('1')
  await page.getByLabel('Its width').fill('7.90')
  await page.getByRole('button', { name: 'Try' }).click()
  await expect(page.getByText(/It would come to 0.250 float in place of 0.200 float/)).toBeVisible()
})

test('pairs and tilt; a second way is compared, and may count instead', async ({ page }) => {
  await open(page, 'second-side')
  await page.getByRole('button', { name: /dial not zeroed/ }).click()
  await page.getByRole('button', { name: 'tilt and pull' }).click()
  await page.getByLabel(/Plunger tilted/).fill('10')
  for (let i = 0; i < 2; i++) {
    await page.getByLabel('Dial, shaft home').fill('1.02')
    await page.keyboard.press('Enter')
    await expect(page.getByLabel('Dial, shaft out')).toBeFocused()
    await page.keyboard.type('1.24')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /^Strike out trial/ })).toHaveCount(i + 1)
  }
  await expect(page.getByTestId('loud')).toHaveText('0.217')
  await expect(page.getByTestId('working').first()).toContainText('× cos 10.0°')
  await by(page, 'by_hand')
  await page.getByLabel('By feel, from').fill('8 thou')
  await page.keyboard.press('Enter')
  const sides = page.getByTestId('side-by-side')
  await expect(sides).toContainText('by hand')
  await expect(sides.getByRole('button', { name: 'let it count' })).toHaveCount(0)
  await by(page, 'feeler')
  for (const [leaves, fit] of [
    ['0.20', 'goes'],
    ['0.25', 'does not go'],
  ] as const) {
    await page.getByLabel('Leaf, or leaves on each other').fill(leaves)
    await page.getByRole('button', { name: fit, exact: true }).click()
    await expect(page.getByText(`${leaves} ${fit}`).first()).toBeVisible()
  }
  await sides.getByRole('button', { name: 'let it count' }).click()
  await expect(page.getByTestId('loud')).toHaveText('0.225')
})

test('by feel alone nothing is signed off', async ({ page }) => {
  await open(page, 'second-side')
  await by(page, 'by_hand')
  await page.getByLabel('By feel, from').fill('8 thou')
  await page.getByLabel('to', { exact: true }).fill('9 thou')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('verdict')).toContainText('signs nothing off')
  await expect(page.getByRole('button', { name: /Sign off/ })).toHaveCount(0)
})

test('what was seen to is ticked, with who did', async ({ page }) => {
  await open(page, 'input-float')
  await page.getByText('Before the first reading').click()
  const first = page.getByRole('checkbox').first()
  await first.check()
  await expect(page.getByText(/1 of \d seen to/)).toBeVisible()
  await page.reload()
  await page.getByText('Before the first reading').click()
  await expect(page.getByRole('checkbox').first()).toBeChecked()
  await page.getByText(/^History/).click()
  await expect(page.getByText(/saw to it:/)).toBeVisible()
})

test('how sure is shown in its parts, and says where the scatter comes from', async ({ page }) => {
  await open(page, 'second-side')
  await take(page, '0.21', '0.22', '0.21')
  await page.getByText(/^How sure/).click()
  const parts = page.getByRole('table', { name: 'What the uncertainty is made of' })
  await expect(parts).toContainText('known scatter of the gauge')
  await expect(parts).toContainText('step of the scale')
  await expect(page.getByText(/scatter of 0.00\d\d mm/)).toBeVisible()
})

test('a gauge is entered, refused field by field, and one past due warns where it is used', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/gauges')
  await page.getByRole('button', { name: 'New gauge' }).click()
  const card = page.getByRole('dialog')
  await card.getByLabel('What it is called').fill('Bench clock')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  await expect(card.getByRole('alert')).toContainText('nothing is typed')
  await card.getByLabel(/^Step/).fill('0.01')
  await card.getByLabel(/^Error/).fill('0.02')
  await card.getByLabel('Checked last').fill('2024-01-10')
  await card.getByLabel('Due to be checked').fill('2023-01-10')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  await expect(card.getByRole('alert')).toContainText('due after it was checked')
  await card.getByLabel('Due to be checked').fill('2025-01-10')
  await card.getByRole('button', { name: 'Keep the card' }).click()
  const row = page.getByRole('row').filter({ hasText: 'Bench clock' })
  await expect(row).toContainText('overdue')
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await page.getByLabel('With').selectOption('bench-clock')
  await expect(page.getByText(/Bench clock was due to be checked/)).toBeVisible()
  // A gauge in the other unit says so, and can be typed in its own.
  await page.getByLabel('With').selectOption('inch-1')
  await page.getByRole('button', { name: /type in the gauge/ }).click()
  await page.getByLabel(/Travel, turning/).fill('8.5')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('cell', { name: '0.216' })).toBeVisible()
})

test('a turning torque that is a check of its own is measured, signed off, and on the report', async ({
  page,
}) => {
  await atTheBench(page)
  const sheet = (await (await page.request.get('/api/sheets/tolvane-t5/file')).json()) as Record<
    string,
    unknown
  >
  const drag = {
    key: 'drag',
    name: 'Main shaft drag',
    kind: 'turning_torque',
    method: 'turning_torque',
    torque: { low_n_m: 0.5, high_n_m: 1.2 },
  }
  const text = JSON.stringify({ ...sheet, key: 'drag-only', name: 'Drag only', build: [], checks: [drag] })
  const headers = () => ({ 'Idempotency-Key': `drag-${Date.now()}-${Math.random()}` })
  const taken = await page.request.post('/api/sheets', { headers: headers(), data: { text, who: 'RT' } })
  expect(taken.ok()).toBeTruthy()
  const card = { sheet_key: 'drag-only', title: 'Drag', customer: 'Quay', complaint: '', who: 'RT' }
  const opened = await page.request.post('/api/jobs', { headers: headers(), data: card })
  const { job_no } = (await opened.json()) as { job_no: number }
  await page.goto(`/jobs/${job_no}/checks/drag`)
  await expect(page.getByText('Window 0.5 to 1.2 N·m')).toBeVisible()
  const field = page.getByLabel('Turning torque', { exact: true })
  for (const [i, torque] of ['0.8', '7.5 lbf·in'].entries()) {
    await field.fill(torque)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: /^Strike out trial/ })).toHaveCount(i + 1)
  }
  await expect(page.getByTestId('loud')).toHaveText('0.82')
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('at 0.82 N·m')).toBeVisible()
  await page.goto(`/jobs/${job_no}`)
  await expect(page.getByRole('heading', { name: /Every check is signed off/ })).toBeVisible()
  await page.goto(`/jobs/${job_no}/report`)
  const record = page.getByRole('region', { name: 'Main shaft drag' })
  await expect(record).toContainText('By turning torque, Dial torque wrench')
  await expect(page.getByRole('cell', { name: '0.82 N·m' })).toBeVisible()
})

test('the unit is switched on every way, and the report says how each was taken', async ({ page }) => {
  await atTheBench(page)
  await page.goto(await placed(page, '/jobs/{Van 17, five-speed}/checks/input-float'))
  await expect(page.getByTestId('loud')).toHaveText('0.195')
  await page.getByRole('radio', { name: 'thou' }).click()
  await expect(page.getByTestId('loud')).toHaveText('7.7')
  await expect(page.getByTestId('side-by-side')).toContainText('7.7 ± 0.4')
  await expect(page.getByRole('img', { name: /mean 7.7 thou, rising 2.8/ })).toBeVisible()
  await page.getByRole('radio', { name: 'mm' }).click()
  await page.goto(await placed(page, '/jobs/{Van 17, five-speed}/report'))
  const record = page.getByRole('region', { name: 'Input shaft end float' })
  await expect(record).toContainText('By depth from a bar, Depth micrometer (counts)')
  await expect(record).toContainText('By feeler leaves, Feeler set')
  await expect(record).toContainText('at 1: 0.200')
})

/** A gauge under the test's own hand. */
class Gauge {
  server: Server
  screens = new Set<Socket>()
  constructor() {
    this.server = createServer((socket) => {
      this.screens.add(socket)
      socket.on('close', () => this.screens.delete(socket))
      socket.on('error', () => this.screens.delete(socket))
    })
  }
  async plugIn(port = 0) {
    await new Promise<void>((done) => this.server.listen(port, '127.0.0.1', done))
    return (this.server.address() as AddressInfo).port
  }
  say(line: string) {
    for (const screen of this.screens) screen.write(line)
  }
  /** Rests at a figure for so long, as a gauge that speaks fifty times a second. */
  async rest(mm: number, ms = 900) {
    for (let t = 0; t < ms; t += 20) {
      this.say(`${(mm + (t % 40 ? 0.001 : 0)).toFixed(4)} mm\n`)
      await new Promise((done) => setTimeout(done, 20))
    }
  }
  async unplug() {
    for (const screen of this.screens) screen.destroy()
    await new Promise((done) => this.server.close(done))
  }
}

test('a gauge that speaks: held, taken with one key, garbled, flooded, unplugged, on two screens', async ({
  page,
  context,
}) => {
  await atTheBench(page)
  const gauge = new Gauge()
  const port = await gauge.plugIn()
  const list = (await (await page.request.get('/api/gauges')).json()) as {
    gauge_key: string
    version: number
  }[]
  const version = list.find((g) => g.gauge_key === 'digital-1')?.version
  const card = {
    key: 'digital-1',
    name: 'Digital indicator',
    kind: 'dial',
    unit: 'mm',
    resolution: '0.001',
    permissible_error: '0.004',
    live_at: `127.0.0.1:${port}`,
  }
  const put = await page.request.put('/api/gauges', {
    headers: { 'Idempotency-Key': `live-${Date.now()}` },
    data: { card, seen: version, who: 'RT' },
  })
  expect(put.ok()).toBeTruthy()
  const job = await freshJob(page)
  await page.goto(`/jobs/${job}/checks/second-side`)
  await page.getByLabel('With').selectOption('digital-1')
  const live = page.getByRole('region', { name: 'Live gauge' })
  await expect(live.getByRole('status')).toContainText('says nothing')
  const press = live.getByRole('button', { name: /Take the travel/ })
  await expect(press).toBeDisabled()

  await gauge.rest(0.012)
  await expect(live.getByTestId('live-figure')).toContainText('0.01')
  await gauge.rest(0.224)
  await expect(live.getByTestId('live-travel')).toHaveText('0.212')
  await page.keyboard.press('F8')
  await expect(page.getByRole('button', { name: 'Strike out trial 1' })).toBeVisible()
  await expect(page.getByText(/= 0.212/).first()).toBeVisible()
  await expect(live.getByTestId('live-travel')).toHaveText('—')

  // Another screen on the same gauge: one connection serves both.
  const other = await context.newPage()
  await other.goto(`/jobs/${job}/checks/second-side`)
  await other.getByLabel('With').selectOption('digital-1')
  await gauge.rest(0.5)
  expect(gauge.screens.size).toBe(1)
  await expect(other.getByTestId('live-figure')).toContainText('0.50')
  await expect(live.getByTestId('live-figure')).toContainText('0.50')
  await other.close()

  gauge.say('#?!\n0.1.2 mm\n')
  await expect(live.getByRole('status')).toContainText('2 lines not read')
  await expect(live.getByText(/Last line not read: there are two decimal points/)).toBeVisible()

  // A flood: the newest is shown, nothing queues up.
  gauge.say('0.3 mm\n'.repeat(20_000) + '0.777 mm\n')
  await expect(live.getByTestId('live-figure')).toContainText('0.777', { timeout: 3000 })

  await gauge.unplug()
  await expect(live.getByRole('status')).toContainText('unplugged')
  await expect(live.getByTestId('live-figure')).toContainText('—')
  const again = new Gauge()
  await again.plugIn(port)
  await expect(live.getByRole('status')).toContainText('says nothing')
  await again.rest(0.1, 300)
  await expect(live.getByTestId('live-figure')).toContainText('0.10')
  await again.unplug()
})

test('a gauge on the screen’s own serial port is read by the same reader', async ({ page }) => {
  await page.addInitScript(() => {
    const said = new TextEncoder().encode('+0.0100 in\r\n')
    const port = {
      open: () => Promise.resolve(),
      close: () => Promise.resolve(),
      readable: new ReadableStream({
        start(out) {
          setInterval(() => out.enqueue(said), 20)
        },
      }),
    }
    Object.defineProperty(navigator, 'serial', { value: { requestPort: () => Promise.resolve(port) } })
  })
  await open(page, 'second-side')
  await page.getByLabel('With').selectOption('digital-1')
  const live = page.getByRole('region', { name: 'Live gauge' })
  await live.getByRole('button', { name: /serial port/ }).click()
  await expect(live.getByTestId('live-figure')).toContainText('0.254')
  await expect(live.getByTestId('live-home')).toHaveText('0.254')
})
