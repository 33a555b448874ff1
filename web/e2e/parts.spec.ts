// Parts for the boxes on the bench: what has to be got is ordered, comes and is booked in once, and the bench follows.
import { expect, test, type Page } from '@playwright/test'
import { atTheBench, does, freshJob, placed } from './bench'

const group = (page: Page, name: string) => page.getByRole('group', { name })

test('what a box needs is ordered, comes in two lots, and what will not come is asked for elsewhere', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'tolvane-t5', 'Quarry van')
  await page.goto(`/jobs/${job}/strip`)
  await page.getByRole('link', { name: 'Order', exact: true }).click()
  const bolts = 'Bolts of the final drive ring'
  await page.getByRole('button', { name: `Ordered: ${bolts}, job ${job}` }).click()
  const ordering = page.getByRole('dialog', { name: `Ordered: ${bolts}` })
  await ordering.getByLabel('Where').fill('Harbour Chandlery')
  await ordering.getByLabel('How many, of 8').fill('9')
  await ordering.getByLabel('What one costs').fill('1.20')
  await page.keyboard.press('Enter')
  await expect(ordering.getByRole('alert')).toContainText('From 1 to 8')
  await ordering.getByLabel('How many, of 8').fill('8')
  await page.keyboard.press('Enter')
  await expect(group(page, 'On order')).toContainText('8 on order at Harbour Chandlery, 1.20 each')
  await page.getByRole('button', { name: `Here: ${bolts}, job ${job}` }).click()
  await page.getByRole('dialog').getByLabel('How many, of 8').fill('6')
  await page.keyboard.press('Enter')
  await expect(group(page, 'On order')).toContainText('6 here · 2 on order')
  await page.getByRole('button', { name: `Will not come: ${bolts}, job ${job}` }).click()
  await page.getByRole('button', { name: 'no longer made' }).click()
  await expect(group(page, 'Will not come')).toContainText(
    '6 here · 2 to order · will not come: no longer made',
  )
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(group(page, 'On order')).toContainText('6 here · 2 on order')
  // All the rest in one go, with one undoing.
  await page.getByRole('button', { name: /^All 5 that are missing are ordered/ }).click()
  await page.getByRole('dialog').getByLabel('Where').fill('Sound Supplies')
  await page.keyboard.press('Enter')
  await expect(page.getByText('On order: 5 parts', { exact: true })).toBeVisible()
  await expect(group(page, 'To order')).toHaveCount(0)
  await page.goto('/?q=quarry')
  await expect(page.getByRole('list', { name: 'Open jobs' })).toContainText(/parts: \d+ on order/)
})

test('the whole bench has one list of parts, the boxes promised first before the others', async ({
  page,
}) => {
  await atTheBench(page)
  await page.goto('/order')
  const here = group(page, 'Here')
  await expect(here).toContainText('Third, input')
  await expect(group(page, 'On order')).toContainText('Rear bearing, main shaft')
  await expect(group(page, 'Will not come')).toContainText('no longer made')
  // Booked in at another screen meanwhile: told, and not counted twice.
  const address = await placed(page, '/jobs/{Library van}')
  const job = Number(address.split('/').at(-1))
  const booked = await does(page, job, { of: 'part', did: { act: 'come', part: 'main-rear' } })
  expect(booked.ok()).toBeTruthy()
  await page.getByRole('button', { name: `Here: Rear bearing, main shaft, job ${job}` }).click()
  await expect(page.getByRole('alert')).toContainText('It has come already, booked in by OB')
  await expect(here).toContainText('Rear bearing, main shaft')
})

test('a step that puts in what has not come says so', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'skelt-b2', 'Post 8 sidecar, bevel box')
  const say = async (did: object) => {
    const said = await does(page, job, { of: 'part', did })
    expect(said.ok()).toBeTruthy()
  }
  await say({ act: 'found', part: 'p-inner', state: 'renewed' })
  await say({ act: 'ordered', part: 'p-inner', from: 'Lowland Bearings' })
  await page.goto(`/jobs/${job}/build`)
  const steps = page.getByRole('list', { name: 'Steps' })
  await expect(steps).toBeVisible()
  await page.locator('[data-next]').click()
  await expect(page.getByRole('region', { name: 'Next' })).toContainText('Inner bearing on the pinion')
  await expect(page.getByTestId('not-here')).toContainText('Inner bearing: on order at Lowland Bearings')
  await say({ act: 'come', part: 'p-inner' })
  await page.reload()
  await expect(steps).toBeVisible()
  await expect(page.getByTestId('not-here')).toHaveCount(0)
})
