// A check that is a question: answered by a press or by a key, signed off, marked on the rail, told in the report.
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { atTheBench, does, freshJob } from './bench'

const QUESTION = /does the input shaft turn free/

test('a no is told with what it usually means, and signed off only with a reason', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/turns-free`)
  await expect(page.getByText(QUESTION)).toBeVisible()
  await expect(page.getByText('Not answered yet')).toBeVisible()
  await page.getByRole('button', { name: 'No', exact: true }).click()
  await expect(page.getByTestId('loud')).toHaveText('No')
  await expect(page.getByTestId('verdict')).toContainText('Not as it should be')
  await expect(page.getByTestId('verdict')).toContainText('the pinch shim is too thin')
  const sign = page.getByRole('button', { name: 'Sign off as RT' })
  await expect(sign).toBeDisabled()
  await page.getByLabel('Reason for signing it all the same').fill('the owner takes it as it is')
  await sign.click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
})

test('answered by keys, the last answer counts; the rail and the report say so', async ({ page }) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/turns-free`)
  await expect(page.getByLabel('Y for yes, N for no')).toBeFocused()
  await page.keyboard.press('n')
  await expect(page.getByTestId('loud')).toHaveText('No')
  await page.keyboard.press('y')
  await expect(page.getByTestId('loud')).toHaveText('Yes')
  await expect(page.getByText('The answer is the one wanted.')).toBeVisible()
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  await page.goto(`/jobs/${job}`)
  await expect(page.getByRole('link', { name: /^Input shaft turns free: .*signed/ }).first()).toBeVisible()
  const checks = page.getByRole('list', { name: 'Checks' })
  await expect(checks.getByRole('listitem').filter({ hasText: 'Input shaft turns free' })).toContainText(
    'Yes',
  )
  await page.goto(`/jobs/${job}/report`)
  const line = page.getByRole('row', { name: /Input shaft turns free/ })
  await expect(line).toContainText(QUESTION)
  await expect(line).toContainText('yes')
  await expect(page.getByRole('region', { name: 'Input shaft turns free' })).toContainText('no')
})

test('a question is written on a sheet, and what is left out is told at its field', async ({ page }) => {
  await atTheBench(page)
  await page.goto('/sheets/brannoch-r2/write')
  await page.getByRole('tab', { name: 'Checks' }).click()
  await page.getByRole('button', { name: 'Input shaft turns free' }).click()
  await expect(page.getByLabel('The question')).toHaveValue(QUESTION)
  await page.getByLabel('How it is usually taken').selectOption('dial travel')
  await expect(page.getByText('a question is answered yes or no: it is taken no other way')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('it is taken no other way')).toHaveCount(0)
})

test('a question is asked again once a later check is signed, and what was signed of it is reopened', async ({
  page,
}) => {
  await atTheBench(page)
  const job = await freshJob(page, 'brannoch-r2')
  await page.goto(`/jobs/${job}/checks/turns-free`)
  await page.getByRole('button', { name: 'Yes', exact: true }).click()
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
  // The input shaft's float, summed from the sheet's figures, is signed with a reason.
  const sign = { act: 'sign', reason: 'a trial' }
  const signed = await does(page, job, { of: 'check', check: 'input-float', did: sign })
  expect(signed.ok(), await signed.text()).toBe(true)
  await page.reload()
  await expect(page.getByText('Asked again: not answered yet')).toBeVisible()
  await page.getByText(/^History/).click()
  await expect(
    page.getByText(/Asked again: Input shaft end float was signed off since/).first(),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Yes', exact: true }).click()
  await page.getByRole('button', { name: 'Sign off as RT' }).click()
  await expect(page.getByText('Signed off by RT')).toBeVisible()
})

for (const theme of ['light', 'dark'] as const) {
  test(`a proof is accessible in the ${theme} theme, and fits a phone`, async ({ page }) => {
    await atTheBench(page, theme)
    const job = await freshJob(page, 'brannoch-r2')
    await page.setViewportSize({ width: 390, height: 844 })
    await page.goto(`/jobs/${job}/checks/turns-free`)
    await expect(page.getByText(QUESTION)).toBeVisible()
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze()
    expect(violations.map((v) => v.id)).toEqual([])
    const over = await page.evaluate(
      () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
    )
    expect(over).toBe(0)
  })
}
