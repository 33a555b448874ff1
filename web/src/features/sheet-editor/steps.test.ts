import { expect, test } from 'vitest'
import { at, blank } from './draft'
import { begin, reduce, type Action } from './steps'

const after = (...actions: Action[]) => actions.reduce(reduce, begin(blank()))
const typed = (value: string): Action => ({ act: 'put', pointer: '/name', value })

test('keys pressed at one place one after the other are undone together', () => {
  const state = after(typed('B'), typed('Bo'), typed('Box'))
  expect(state.past).toHaveLength(1)
  expect(reduce(state, { act: 'undo' }).now.name).toBe('')
})

test('a rest between them makes two steps', () => {
  const state = after(typed('B'), { act: 'rest' }, typed('Box'))
  expect(state.past).toHaveLength(2)
  expect(reduce(state, { act: 'undo' }).now.name).toBe('B')
})

test('what is undone can be done again, until something else is done', () => {
  const undone = after(typed('Box'), { act: 'undo' })
  expect(reduce(undone, { act: 'redo' }).now.name).toBe('Box')
  const other = reduce(undone, { act: 'put', pointer: '/notes', value: 'n' })
  expect(reduce(other, { act: 'redo' })).toBe(other)
})

test('nothing to undo or to do again changes nothing', () => {
  const state = begin(blank())
  expect(reduce(state, { act: 'undo' })).toBe(state)
  expect(reduce(state, { act: 'redo' })).toBe(state)
})

test('a key made from a name is undone with the name', () => {
  const parts = [{ key: 'new-1', name: '', kind: 'gear', width: '1 mm' }]
  const state = after(
    { act: 'put', pointer: '/shafts/0/parts', value: parts },
    { act: 'put', pointer: '/shafts/0/parts/0/name', value: 'Fourth' },
    { act: 'named', pointer: '/shafts/0/parts/0' },
  )
  expect(at(state.now, '/shafts/0/parts/0/key')).toBe('fourth')
  expect(at(reduce(state, { act: 'undo' }).now, '/shafts/0/parts/0')).toEqual(parts[0])
})

test('only so many steps are kept', () => {
  const many = Array.from({ length: 400 }, (_, i): Action[] => [typed(`${i}`), { act: 'rest' }]).flat()
  expect(after(...many).past).toHaveLength(300)
})
