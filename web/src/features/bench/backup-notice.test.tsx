// @vitest-environment happy-dom
// What the bench says of backups that are too old.
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, test } from 'vitest'
import { TooOld } from './BackupNotice'

afterEach(cleanup)

const said = (backups: Partial<Parameters<typeof TooOld>[0]['backups']>) => {
  render(<TooOld backups={{ too_old: true, nightly: true, ...backups }} />)
  return screen.getByRole('status').textContent
}

test('never one, and none by itself', () => {
  const text = said({ nightly: false })
  expect(text).toContain('There is no backup of this shop')
  expect(text).toContain('None is made by itself here')
  expect(text).toContain('./backup FILE')
})

test('too old, and why', () => {
  const text = said({ last: '2026-03-04T02:05:09Z', failed: 'backups: No space left on device' })
  expect(text).toMatch(/The last backup is of .*4.*:/)
  expect(text).toContain('The last try came to nothing: backups: No space left on device')
  expect(text).toContain('within the hour')
})
