// @vitest-environment happy-dom
// A list of a sheet typed along without a mouse: Enter goes on, Alt with an arrow moves, a bare figure takes the
// sheet's unit, and a fault stands at its field once somebody has been there.
import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { expect, test, vi } from 'vitest'
import { length, words, type Column } from './Cell'
import { put as putAt } from './draft'
import { Rows } from './Rows'
import { Writing } from './writing'

const COLUMNS: Column[] = [
  { ...words('name', 'Name'), names: true },
  length('width', 'Width', true),
  { field: 'count', label: 'Count', as: 'count' },
]

interface Sheet {
  parts?: Record<string, unknown>[]
}

function open(start: Sheet, more: { faults?: [string, string][]; showAll?: boolean } = {}) {
  const nameIt = vi.fn()
  let now = start
  const faults = new Map(more.faults)
  function Sheeted() {
    const [sheet, setSheet] = useState(start)
    now = sheet
    const put = (place: string, value: unknown) => setSheet((was) => putAt(was, place, value))
    return (
      <Writing.Provider value={{ put, nameIt, rest: () => {}, unit: 'mm', showAll: more.showAll ?? false }}>
        <Rows
          of="/parts"
          rows={sheet.parts}
          columns={COLUMNS}
          fresh={() => ({ name: '' })}
          noun="part"
          faults={faults}
          optional
        />
      </Writing.Provider>
    )
  }
  render(<Sheeted />)
  return { nameIt, sheet: () => now, names: () => now.parts?.map((p) => p.name) }
}

const two = { parts: [{ name: 'Bearing' }, { name: 'Gear' }] }
const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label)

test('Enter goes on to what must be filled in, and from the last on to a new row', async () => {
  const list = open(two)
  await userEvent.type(field('Name, part 1, Bearing'), '{Enter}')
  await waitFor(() => expect(document.activeElement?.id).toBe('/parts/0/count'))
  await userEvent.keyboard('2{Enter}')
  await waitFor(() => expect(document.activeElement?.id).toBe('/parts/1/name'))
  await userEvent.keyboard('{Enter}{Enter}')
  await waitFor(() => expect(document.activeElement?.id).toBe('/parts/2/name'))
  expect(list.names()).toEqual(['Bearing', 'Gear', ''])
})

test('Alt with an arrow moves the row, and stops at either end', async () => {
  const list = open(two)
  await userEvent.type(field('Name, part 2, Gear'), '{Alt>}{ArrowUp}{/Alt}')
  expect(list.names()).toEqual(['Gear', 'Bearing'])
  await waitFor(() => expect(document.activeElement?.id).toBe('/parts/0/name'))
  await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}')
  expect(list.names()).toEqual(['Gear', 'Bearing'])
  expect(screen.getByLabelText<HTMLButtonElement>('Move part 2, Bearing down').disabled).toBe(true)
})

test('a row is taken out, and a list with none is left out of the sheet', async () => {
  const list = open(two)
  await userEvent.click(screen.getByLabelText('Take out part 1, Bearing'))
  expect(list.names()).toEqual(['Gear'])
  await userEvent.click(screen.getByLabelText('Take out part 1, Gear'))
  expect(list.sheet().parts).toBeUndefined()
  await userEvent.click(screen.getByRole('button', { name: 'Add a part' }))
  expect(list.names()).toEqual([''])
})

test('a bare figure takes the sheet’s unit at once, on the screen when the field is left', async () => {
  const list = open({ parts: [{ name: 'Bearing' }] })
  const width = field('Width, part 1, Bearing')
  await userEvent.type(width, '17')
  expect(list.sheet().parts?.[0]?.width).toBe('17 mm')
  expect(width.value).toBe('17')
  await userEvent.tab()
  expect(width.value).toBe('17 mm')
  await userEvent.clear(width)
  expect(list.sheet().parts?.[0]).not.toHaveProperty('width')
})

test('a count is a figure in the sheet, and what is none is kept as it was typed', async () => {
  const list = open({ parts: [{ name: 'Roller' }] })
  const count = field('Count, part 1, Roller')
  await userEvent.type(count, '18')
  expect(list.sheet().parts?.[0]?.count).toBe(18)
  await userEvent.type(count, 'x')
  expect(list.sheet().parts?.[0]?.count).toBe('18x')
})

test('a name that is left gives the thing its key', async () => {
  const { nameIt } = open({ parts: [{ name: '' }] })
  await userEvent.type(field('Name, part 1'), 'Hub')
  expect(nameIt).not.toHaveBeenCalled()
  await userEvent.tab()
  expect(nameIt).toHaveBeenCalledWith('/parts/0')
})

test('a fault stands at its field once somebody has been there, or where all are asked for', async () => {
  const faults: [string, string][] = [['/parts/0/width', 'A width is more than nothing.']]
  open({ parts: [{ name: 'Bearing' }] }, { faults })
  expect(screen.queryByText('A width is more than nothing.')).toBeNull()
  await userEvent.click(field('Width, part 1, Bearing'))
  await userEvent.tab()
  const told = screen.getByText('A width is more than nothing.')
  expect(field('Width, part 1, Bearing').getAttribute('aria-describedby')).toBe(told.id)
})

test('a fault of the list itself stands under it', () => {
  open(two, { faults: [['/parts', 'A shaft has a bearing at each end.']], showAll: true })
  expect(screen.getByText('A shaft has a bearing at each end.')).toBeTruthy()
})
