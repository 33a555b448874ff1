// @vitest-environment happy-dom
// One form a method: what a press of Enter hands on, where the next figure goes, and what is put back when it is
// refused. A gauge that types its figure and Enter needs no click between two readings.
import { cleanup, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { createRef } from 'react'
import { describe, expect, test, vi } from 'vitest'
import { atBench, checkOf, readingOf } from '../../../../test/bench'
import type { Method, ReadingInput } from '../../../domain/readings'
import type { CheckView, Schemas, Unit } from '../../../domain/schema'
import { Take } from './Take'
import type { Fault } from './parts'

const gauge = (own: Partial<Schemas['GaugeView']>) => ({ leaves_nm: [], ...own }) as Schemas['GaugeView']

function open(
  way: Method,
  own: Partial<CheckView> = {},
  more: {
    gauge?: Schemas['GaugeView']
    refused?: ReadingInput
    fault?: Fault
    unit?: Unit
    takes?: boolean
  } = {},
) {
  const onTake = vi.fn<(entry: ReadingInput) => boolean>(() => more.takes ?? true)
  const clearFault = vi.fn()
  atBench(
    <Take
      way={way}
      check={checkOf(own)}
      gauge={more.gauge}
      unitWord="mm"
      onTake={onTake}
      first={createRef<HTMLInputElement>()}
      refused={more.refused}
      fault={more.fault ?? null}
      clearFault={clearFault}
    />,
    more.unit,
  )
  const field = (label: string | RegExp) => screen.getByLabelText<HTMLInputElement>(label)
  const press = (name: string | RegExp) => userEvent.click(screen.getByRole('button', { name }))
  const type = (label: string | RegExp, text: string) => userEvent.type(field(label), text)
  return { onTake, clearFault, field, press, type, last: () => onTake.mock.lastCall?.[0] }
}

describe('backlash at the teeth', () => {
  const mesh = { places: 4, run_out_nm: 50_000, per_move: 0.7, u_per_move: 0 }

  test('one tooth after another, as the gear is set', async () => {
    const form = open('at_teeth', { mesh })
    await form.type(/^Backlash at place 1/, '0.14{Enter}')
    expect(form.last()).toEqual({ kind: 'tooth', place: 1, play: '0.14', moved: '' })
    await form.type(/^Backlash at place 2/, '0.15{Enter}')
    expect(form.last()).toEqual({ kind: 'tooth', place: 2, play: '0.15', moved: '' })
  })

  test('a second set-up says how far the ring gear was moved, until it is as it is set again', async () => {
    const form = open('at_teeth', { mesh })
    await form.press(/second set-up/)
    await form.type(/moved away from the pinion by/, '0.2')
    await form.type(/^Backlash at place 1/, '0.28{Enter}')
    expect(form.last()).toEqual({ kind: 'tooth', place: 1, play: '0.28', moved: '0.2' })
    await form.press('As it is set')
    await form.type(/^Backlash at place/, '0.14{Enter}')
    expect(form.last()).toMatchObject({ kind: 'tooth', play: '0.14', moved: '' })
  })
})

describe('travel of a dial', () => {
  test('a figure and Enter is a reading, and the field is empty for the next', async () => {
    const form = open('dial_travel')
    await form.type(/^Travel/, '0.21{Enter}')
    expect(form.last()).toEqual({ kind: 'travel', travel: '0.21', tilt: '', pull: '' })
    expect(form.field(/^Travel/).value).toBe('')
    expect(document.activeElement).toBe(form.field(/^Travel/))
  })

  test('what was not taken up stays', async () => {
    const form = open('dial_travel', {}, { takes: false })
    await form.type(/^Travel/, 'o.21{Enter}')
    expect(form.field(/^Travel/).value).toBe('o.21')
  })

  test('both ends: the first Enter goes on to the second figure, the second keeps both', async () => {
    const form = open('dial_travel')
    await form.press('dial not zeroed: read both ends')
    await form.type('Dial, shaft home', '1.02{Enter}')
    expect(form.onTake).not.toHaveBeenCalled()
    expect(document.activeElement).toBe(form.field('Dial, shaft out'))
    await userEvent.keyboard('1.17{Enter}')
    expect(form.last()).toEqual({ kind: 'pair', home: '1.02', out: '1.17', tilt: '', pull: '' })
    expect(document.activeElement).toBe(form.field('Dial, shaft home'))
  })

  test('the tilt stays for the next trial, the pull does not', async () => {
    const form = open('dial_travel')
    await form.press('tilt and pull')
    await form.type('Plunger tilted, °', '5')
    await form.type('Pulled with, N', '20')
    await form.type(/^Travel/, '0.2{Enter}')
    expect(form.last()).toEqual({ kind: 'travel', travel: '0.2', tilt: '5', pull: '20' })
    expect(form.field('Plunger tilted, °').value).toBe('5')
    expect(form.field('Pulled with, N').value).toBe('')
  })

  test('without a shim it asks for the travel with every shim out', () => {
    expect(open('no_shim').field('Travel with every shim out')).toBeTruthy()
  })

  test('what the server refused is put back with its field marked', async () => {
    const form = open(
      'dial_travel',
      {},
      {
        refused: { kind: 'pair', home: '2', out: '1', tilt: '', pull: '' },
        fault: { field: 'out', title: 'the dial reads less out than home' },
      },
    )
    expect(form.field('Dial, shaft home').value).toBe('2')
    const out = form.field('Dial, shaft out')
    expect(out.value).toBe('1')
    expect(out.getAttribute('aria-invalid')).toBe('true')
    const said = out.getAttribute('aria-describedby') ?? ''
    expect(document.getElementById(said)?.textContent).toBe('the dial reads less out than home')
    await form.type('Dial, shaft out', '4')
    expect(form.clearFault).toHaveBeenCalled()
  })
})

describe('feeler leaves', () => {
  const set = gauge({ leaves_nm: [50_000, 100_000, 152_400] })

  test('Enter says that it goes; the other presses say how else', async () => {
    const form = open('feeler')
    await form.type(/^Leaf, or/, '0.10{Enter}')
    expect(form.last()).toEqual({ kind: 'leaf', leaves: '0.10', fit: 'goes' })
    await form.type(/^Leaf, or/, '0.15')
    await form.press('does not go')
    expect(form.last()).toEqual({ kind: 'leaf', leaves: '0.15', fit: 'refused' })
    await form.type(/^Leaf, or/, '0.12')
    await form.press('just fills it')
    expect(form.last()).toEqual({ kind: 'leaf', leaves: '0.12', fit: 'just' })
  })

  test('leaves are tapped as they are etched, whatever the bench’s unit, and lie on each other', async () => {
    const form = open('feeler', {}, { gauge: set, unit: 'thou' })
    await form.press('0.10 mm')
    await form.press('0.05 mm')
    expect(form.field(/^Leaf, or/).value).toBe('0.10 mm + 0.05 mm')
  })

  test('the adviser’s leaf is taken with a press', async () => {
    const form = open('feeler', {
      next_leaf: { kind: 'try', leaves_nm: [250_000, 50_000], size_nm: 300_000, at_most: 2 },
    })
    expect(screen.getByTestId('advice').textContent).toContain('2 tries at the most')
    await form.press('take it')
    expect(form.field(/^Leaf, or/).value).toBe('0.25 mm + 0.05 mm')
  })

  test.each([
    [{ kind: 'settled' }, 'no further leaf can change it'],
    [{ kind: 'cannot_settle' }, 'they cannot settle it'],
  ] as const)('advice %o is told', (next_leaf, words) => {
    open('feeler', { next_leaf })
    expect(screen.getByTestId('advice').textContent).toContain(words)
  })
})

describe('depths from a bar', () => {
  const depth = (place: number, own = {}) =>
    readingOf({ kind: 'depth', place, of: 4, depth_nm: 30_000_000, bar_nm: 12_000_000 }, own)

  test('the next place comes by itself, and the bar stays what it was', async () => {
    const form = open('depth_from_bar')
    await form.type('Bar is thick', '12')
    await form.type('Depth at place 1', '30.02{Enter}')
    expect(form.last()).toEqual({ kind: 'depth', place: 1, of: 6, depth: '30.02', bar: '12' })
    await form.type('Depth at place 2', '30.04{Enter}')
    expect(form.last()).toEqual({ kind: 'depth', place: 2, of: 6, depth: '30.04', bar: '12' })
  })

  test('it goes on where the readings of this round left off', () => {
    const readings = [depth(1), depth(2), depth(3, { struck: true }), depth(4, { round: 1 })]
    const form = open('depth_from_bar', { readings })
    expect(form.field('Depth at place 3')).toBeTruthy()
    expect(form.field('Places').value).toBe('4')
    expect(form.field('Bar is thick').value).toBe('12.00 mm')
  })

  test('fewer places leave none outside the circle', async () => {
    const form = open('depth_from_bar')
    await form.press('6')
    await userEvent.selectOptions(form.field('Places'), '3 round')
    expect(form.field('Depth at place 3')).toBeTruthy()
  })
})

describe('pinions one by one', () => {
  const pinion = (no: number) => readingOf({ kind: 'pinion', pinion: no, play_nm: 300_000 })
  const three = { pinions: { count: 3, alike_nm: 100_000 } } as Partial<CheckView>

  test('the first without a reading is asked for, then the next', async () => {
    const form = open('one_by_one', { ...three, readings: [pinion(1)] })
    await form.type('End play of pinion 2', '0.31{Enter}')
    expect(form.last()).toEqual({ kind: 'pinion', pinion: 2, play: '0.31' })
    expect(form.field('End play of pinion 3')).toBeTruthy()
  })

  test('another is picked by its number, which says whether it has a reading', async () => {
    const form = open('one_by_one', { ...three, readings: [pinion(1)] })
    await form.press('1 (has a reading)')
    expect(document.activeElement).toBe(form.field('End play of pinion 1'))
  })
})

describe('selector gaps', () => {
  const selector = {
    gears: [
      { name: 'Second', mark: '2', fork: 'left fork', weight: 1 },
      { name: 'Third', mark: '', fork: '', weight: 2 },
    ],
  } as unknown as CheckView['selector']

  test('left, right, and the drum turns to the next gear', async () => {
    const form = open('selector_gaps', { selector })
    await form.type('Left gap', '0.6{Enter}')
    expect(form.onTake).not.toHaveBeenCalled()
    expect(document.activeElement).toBe(form.field('Right gap'))
    await userEvent.keyboard('0.9{Enter}')
    expect(form.last()).toEqual({ kind: 'gaps', gear: 1, left: '0.6', right: '0.9' })
    expect(screen.getByRole('button', { pressed: true }).textContent).toContain('Third')
    expect(form.field('Left gap').value).toBe('')
  })

  test('gaps that were taken stand at their gear', () => {
    const readings = [readingOf({ kind: 'gaps', gear: 1, left_nm: 600_000, right_nm: 900_000 })]
    open('selector_gaps', { selector, readings })
    expect(screen.getByRole('button', { name: /Second/ }).textContent).toContain('0.600 | 0.900')
    expect(screen.getByRole('button', { name: /Third/ }).getAttribute('aria-pressed')).toBe('true')
  })
})

describe('the rest', () => {
  test('a known shim stays in for the next float', async () => {
    const form = open('known_shim')
    await form.type('Shim in', '3')
    await form.type('Float felt', '1{Enter}')
    expect(form.last()).toEqual({ kind: 'known_shim', shim: '3', float: '1' })
    expect(form.field('Shim in').value).toBe('3')
    expect(form.field('Float felt').value).toBe('')
  })

  test('the shim that was in last stands there, or else the sheet’s', () => {
    const taken = { kind: 'known_shim', shim_nm: 250_000, float_nm: 30_000 }
    const readings = [{ reading_no: 1, taken, struck: null }] as unknown as CheckView['readings']
    expect(open('known_shim', { known_shim_nm: 600_000 }).field('Shim in').value).toBe('0.60 mm')
    cleanup()
    expect(open('known_shim', { known_shim_nm: 600_000, readings }).field('Shim in').value).toBe('0.25 mm')
  })

  test('terms of a sum follow one another, and round again', async () => {
    const terms = [{ what: 'bore depth' }, { what: 'race' }] as CheckView['terms']
    const form = open('stack_sum', { terms })
    await form.type('Measures', '20{Enter}')
    await form.type('Measures', '18{Enter}')
    expect(form.onTake.mock.calls.map(([e]) => e)).toEqual([
      { kind: 'term', term: 1, length: '20' },
      { kind: 'term', term: 2, length: '18' },
    ])
    expect(form.field('Part or depth measured').value).toBe('1')
  })

  test('a sum without terms says what to do', () => {
    open('stack_sum')
    expect(screen.getByText(/Enter them on the sheet/)).toBeTruthy()
  })

  test('a wrench gives a torque, a scale a pull at its radius', async () => {
    const wrench = open('turning_torque', {}, { gauge: gauge({ kind: 'torque_wrench' }) })
    await wrench.type('Turning torque', '1.9{Enter}')
    expect(wrench.last()).toEqual({ kind: 'torque', torque: '1.9' })
  })

  test('a scale keeps its radius', async () => {
    const scale = open('turning_torque', {}, { gauge: gauge({ kind: 'spring_scale' }) })
    await scale.type('At a radius of', '75 mm')
    await scale.type('Pull', '20{Enter}')
    expect(scale.last()).toEqual({ kind: 'pull', force: '20', radius: '75 mm' })
    expect(scale.field('At a radius of').value).toBe('75 mm')
  })

  test('a question is answered by a press or by its letter, and Enter answers nothing', async () => {
    const form = open('yes_no', {
      proof: { question: 'Does it turn free?', wanted: 'yes' } as CheckView['proof'],
    })
    await form.press('No')
    expect(form.last()).toEqual({ kind: 'answer', answer: 'no' })
    await userEvent.keyboard('y')
    expect(form.last()).toEqual({ kind: 'answer', answer: 'yes' })
    await userEvent.keyboard('{Enter}x')
    expect(form.onTake).toHaveBeenCalledTimes(2)
  })

  test('by feel, about or from and to', async () => {
    const form = open('by_hand')
    await form.type('By feel, from', '6{Enter}')
    expect(form.last()).toEqual({ kind: 'by_hand', from: '6', to: '' })
    await form.type('By feel, from', '6')
    await form.type('to', '8{Enter}')
    expect(form.last()).toEqual({ kind: 'by_hand', from: '6', to: '8' })
  })
})
