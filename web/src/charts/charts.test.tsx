// @vitest-environment happy-dom
// The drawings, by what they say to someone who hears the page and by where they put things: a pin left of its slot is
// tight, a pin in it is in, and nothing is drawn outside its ground.
import { screen } from '@testing-library/react'
import { describe, expect, test } from 'vitest'
import { atBench, checkOf } from '../../test/bench'
import type { Drawer, Schemas, Unit } from '../domain/schema'
import { Carrier } from './Carrier'
import { DepthRing } from './DepthRing'
import { DrawerScale } from './DrawerScale'
import { Arrangements, Forks, shimsWords } from './Forks'
import { HotLine, HotSaid } from './HotPlot'
import { LeafTrack } from './LeafTrack'
import { PackStack } from './PackStack'
import { ProofMark } from './ProofMark'
import { RingGear } from './RingGear'
import { SetUps } from './SetUps'
import { SlotGauge, SlotStrip } from './SlotGauge'
import { Bars } from './StackBars'
import { TorqueGauge } from './TorqueGauge'

const said = () => screen.getByRole('img').getAttribute('aria-label') ?? ''
const text = () => document.body.textContent ?? ''

/** Every x that a path or shape begins at, to hold it against the ground it is drawn on. */
const starts = (path: string) => Number(/^M(-?[\d.]+)/.exec(path)?.[1])
const pins = () =>
  [...document.querySelectorAll('path[stroke-linejoin="round"]')].map((p) => ({
    x: starts(p.getAttribute('d') ?? ''),
    outline: p.getAttribute('fill') === 'none',
    canted: p.parentElement?.getAttribute('transform')?.startsWith('rotate') ?? false,
  }))

describe('the slot gauge', () => {
  const window = { low_nm: 100_000, high_nm: 300_000 }
  const aim = { from_nm: 200_000, to_nm: 200_000 }
  const pin = (nm: number, call: Schemas['Call'], label = 'measured') => ({
    nm,
    expanded_nm: 10_000,
    call,
    label,
  })

  test.each([
    [pin(200_000, 'in'), 'mm', 'measured 0.200 mm float'],
    [pin(-25_400, 'tight'), 'thou', 'measured 1.0 thou preload'],
    [pin(400_000, 'loose'), 'um', 'measured 400 µm float'],
  ] as const)('says %o in %s', (measured, unit: Unit, words) => {
    atBench(<SlotGauge window={window} aim={aim} measured={measured} />, unit)
    expect(said()).toContain(words)
    expect(said()).toContain('Window')
  })

  test('a tight pin lies left of one that is in, and that left of a loose one', () => {
    const at = (nm: number, call: Schemas['Call']) => {
      const { unmount } = atBench(<SlotGauge window={window} aim={aim} measured={pin(nm, call)} />)
      const [first] = pins()
      unmount()
      return first?.x ?? NaN
    }
    const [tight, inside, loose] = [at(60_000, 'tight'), at(200_000, 'in'), at(340_000, 'loose')]
    expect(tight).toBeLessThan(inside)
    expect(inside).toBeLessThan(loose)
  })

  test('what is predicted is an outline, what is measured is solid, what is too close leans', () => {
    atBench(
      <SlotGauge
        window={window}
        aim={aim}
        predicted={pin(210_000, 'in', 'expected')}
        measured={pin(298_000, 'too_close')}
      />,
    )
    expect(pins().map(({ outline, canted }) => ({ outline, canted }))).toEqual([
      { outline: true, canted: false },
      { outline: false, canted: true },
    ])
  })

  test('a pin far outside stays on the drawing and says which way it is further', () => {
    atBench(<SlotGauge window={window} aim={aim} measured={pin(9_000_000, 'loose')} />)
    expect(text()).toContain('further →')
    expect(pins().every((p) => p.x > 0 && p.x < 800)).toBe(true)
  })

  test('its own words for a pinch and for a selector', () => {
    atBench(
      <SlotGauge
        window={{ low_nm: -60_000, high_nm: -20_000 }}
        aim={aim}
        kind="retainer_pinch"
        measured={pin(-40_000, 'in')}
      />,
    )
    expect(said()).toContain('0.040 mm pinch')
  })

  test('of a selector, what is off the middle is too far', () => {
    atBench(
      <SlotGauge
        window={{ high_nm: 150_000 }}
        aim={{ from_nm: 0, to_nm: 0 }}
        kind="selector_centring"
        measured={pin(90_000, 'in')}
      />,
    )
    expect(said()).toContain('0.090 mm off the middle')
    expect(text()).toContain('too far')
    expect(text()).not.toContain('loose')
  })

  test.each([
    ['in', 'lands inside, 0.20 mm'],
    ['loose', 'lands loose, 0.20 mm'],
  ] as const)('in a line, a choice that lands %s says so', (lands, words) => {
    atBench(<SlotStrip window={window} pin={{ nm: 200_000, lands }} />)
    expect(said()).toBe(words)
  })
})

test('leaves that leave it open upward say so', () => {
  const check = checkOf({ adjustments: [] })
  const { unmount } = atBench(
    <LeafTrack check={check} detail={{ kind: 'leaves', goes_nm: 150_000, refused_nm: null }} />,
  )
  expect(said()).toBe('The clearance is 0.150 mm or more')
  unmount()
  atBench(<LeafTrack check={check} detail={{ kind: 'leaves', goes_nm: 150_000, refused_nm: 200_000 }} />)
  expect(said()).toBe('The clearance is 0.150 to below 0.200 mm')
})

test('a turning torque is told with its window, or as not measured', () => {
  const torque_window = { low_n_m: 1, high_n_m: 2.5 }
  const { unmount } = atBench(<TorqueGauge check={checkOf({ torque_window })} />)
  expect(said()).toContain('not measured yet')
  expect(text()).toContain('2.5 N·m')
  unmount()
  const torque = { torque_n_m: 1.62, expanded_n_m: 0.1, call: 'in' } as Schemas['TorqueFound']
  atBench(<TorqueGauge check={checkOf({ torque_window, torque })} />)
  expect(said()).toContain('turning torque 1.62 N·m')
})

test('set-ups with known shims say preload, and “at most” where nothing moved', () => {
  const setUp = (shim_nm: number, gives_nm: number, at_most: boolean) => ({
    shim_nm,
    float_nm: gives_nm + shim_nm,
    gives_nm,
    u_nm: 1_000,
    at_most,
  })
  // Common practice, no source: 3 thou in and 1 thou of float is 2 thou of preload.
  atBench(<SetUps setUps={[setUp(0, 0, true), setUp(76_200, -50_800, false)]} />, 'thou')
  const cells = screen.getAllByRole('cell').map((c) => c.textContent?.trim())
  expect(cells).toEqual(['none', '0.0', 'at most 0.0', '3', '1.0', '2.0 preload'])
})

describe('a carrier', () => {
  const found = {
    count: 4,
    each: [
      { pinion: 1, play_nm: 320_000, u_nm: 5_000, readings: 1 },
      { pinion: 2, play_nm: 80_000, u_nm: 5_000, readings: 1 },
      { pinion: 4, play_nm: 340_000, u_nm: 5_000, readings: 1 },
    ],
    alike_nm: 100_000,
    spread_nm: 260_000,
    alike: 'tight',
    odd: 2,
  } as Schemas['PinionsFound']

  test('each pinion is told, the odd one marked, the missing one too', () => {
    atBench(<Carrier check={checkOf()} found={found} />)
    expect(said()).toBe(
      'Carrier: pinion 1 0.320 mm, loose; pinion 2 0.080 mm, tight; pinion 3 not yet; pinion 4 0.340 mm, loose',
    )
    expect(text()).toContain('△ tight')
    expect(text()).toContain('Loosest less tightest 0.260 mm; alike up to 0.100 mm.')
  })
})

test('a ring gear says the backlash at each place, its widest and narrowest, and its run-out', () => {
  const tooth = (place: number, play_nm: number) => ({ place, play_nm, readings: 1 })
  const found: Schemas['BacklashFound'] = {
    each: [tooth(1, 120_000), tooth(2, 190_000), tooth(4, 150_000)],
    places: 4,
    run_out_nm: 70_000,
    u_run_out_nm: 6_000,
    dof: null,
    allowed_nm: 50_000,
    true_running: 'failed',
    per_move: 0.7,
    u_per_move: 0.03,
    found_here: false,
    moved_untried: [],
  }
  atBench(<RingGear found={found} />)
  expect(said()).toBe(
    'Ring gear: place 1 0.120 mm narrowest; place 2 0.190 mm widest; place 3 not yet; place 4 0.150 mm',
  )
  expect(text()).toContain('Run-out 0.070 mm, up to 0.050 mm: too much.')
})

test('a ring says its mean, its rise and what does not belong', () => {
  const place = (angle_deg: number, depth_nm: number, stray = false) => ({
    angle_deg,
    depth_nm,
    fitted_nm: depth_nm,
    stray,
  })
  const ring = {
    mean_nm: 18_000_000,
    rise_nm: 42_000,
    deepest_deg: 90,
    places: [place(0, 18_000_000), place(90, 18_021_000), place(180, 18_090_000, true)],
    missing: [4],
  }
  atBench(<DepthRing ring={ring} called={false} />)
  expect(said()).toBe(
    '3 depths round a circle, mean 18.000 mm, rising 0.042 across it, 1 that does not belong',
  )
  // The deepest is a quarter round with the clock from the top: to the right of the middle.
  const dots = [...document.querySelectorAll('circle[r="5"]')].map((c) => Number(c.getAttribute('cx')))
  expect(dots[1]).toBeGreaterThan(140)
  expect(text()).toContain('Deepest at 90° from place 1')
})

test('the terms of a sum lie end to end: what opens above, what fills below, to one scale', () => {
  const term = (what: string, opens: boolean, length_nm: number) => ({
    what,
    opens,
    length_nm,
    limits_nm: 20_000,
    u_nm: 11_547,
    share: 1 / 3,
    measured: false,
  })
  const sum = {
    terms: [
      term('bore', true, 40_000_000),
      term('race', false, 25_000_000),
      term('spacer', false, 14_800_000),
    ],
    worst_low_nm: 140_000,
    worst_high_nm: 260_000,
    expanded_nm: 40_000,
  }
  atBench(<Bars sum={sum} />)
  const blocks = [...document.querySelectorAll('svg rect')].map((r) => [
    Number(r.getAttribute('x')),
    Number(r.getAttribute('width')),
  ])
  const [bore, race, spacer] = blocks as [[number, number], [number, number], [number, number]]
  expect(race[0]).toBeCloseTo(bore[0])
  expect(spacer[0]).toBeCloseTo(race[0] + race[1])
  expect((race[1] + spacer[1]) / bore[1]).toBeCloseTo(39.8 / 40)
  expect(text()).toContain('Worst case 0.140 to 0.260')
})

test('hot and cold: what is there, and where it is gone', () => {
  const line = {
    from_c: 20,
    to_c: 100,
    from_nm: -50_000,
    to_nm: 110_000,
    growth_nm_per_k: 2_000,
    nil_at_c: 45,
  } as Schemas['HotAndCold']
  const { unmount } = atBench(<HotSaid line={line} />)
  expect(text()).toContain('the preload of 0.050 mm at 20 °C is gone at 45 °C.')
  unmount()
  atBench(<HotLine window={{ low_nm: -80_000, high_nm: -20_000 }} line={line} />)
  expect(said()).toBe('Clearance from −0.050 at 20 °C to 0.110 mm at 100 °C')
  expect(text()).toContain('nil')
})

describe('shims shared out', () => {
  test('shims in words', () => {
    expect(shimsWords([], 'mm')).toBe('none')
    expect(shimsWords([100_000, 250_000], 'mm')).toBe('0.10 + 0.25')
  })

  test('each way says what moves where and what then touches', () => {
    const way = (shift_nm: number, fouls: string[]) =>
      ({
        left_nm: [100_000],
        right_nm: [],
        shift_nm,
        worst_nm: 50_000,
        fouls,
      }) as unknown as Schemas['Arrangement']
    atBench(<Arrangements of={[way(0, []), way(-100_000, ['Third']), way(100_000, [])]} />)
    const rows = screen
      .getAllByRole('row')
      .slice(1)
      .map((r) => r.textContent)
    expect(rows[0]).toContain('as now')
    expect(rows[1]).toContain('0.100 right')
    expect(rows[1]).toContain('△ Third touches')
    expect(rows[2]).toContain('0.100 left')
  })

  test('a gear that stands left of the middle is told and drawn there', () => {
    const gear = (now_nm: number) => ({
      name: 'Second',
      weight: 1,
      left_nm: 300_000,
      right_nm: 500_000,
      now_nm,
      then_nm: 0,
    })
    atBench(<Forks gears={[gear(-100_000), gear(0)]} shift={0} />)
    expect(text()).toContain('0.100 left')
    expect(text()).toContain('0.000')
  })
})

test('a proof says what is wanted, and what was found', () => {
  const proof = {
    question: 'Does it turn free?',
    wanted: 'yes',
    found: null,
  } as unknown as Schemas['ProofView']
  const { unmount } = atBench(<ProofMark proof={proof} />)
  expect(said()).toBe('not answered yet; wanted is yes')
  unmount()
  atBench(<ProofMark proof={{ ...proof, found: { answer: 'no', answers: 1, call: 'failed' } }} />)
  expect(said()).toContain('No')
})

test('a pack is told by its count and what the stated sizes leave', () => {
  const plate = (kind: Schemas['PartKind'], from_nm: number, to_nm: number) => ({
    kind,
    name: '',
    from_nm,
    to_nm,
  })
  const pack = {
    name: 'Forward',
    frictions: 1,
    steels: 1,
    clearance_nm: 900_000,
    plates: [
      plate('steel', 0, 1_800_000),
      plate('friction', 1_800_000, 3_400_000),
      plate('snap_ring', 3_400_000, 5_000_000),
    ],
    faults: [],
  } as unknown as Schemas['DrawnPack']
  atBench(<PackStack pack={pack} />)
  expect(said()).toBe('Forward: 1 friction, 1 steel; the stated sizes leave 0.90 mm')
  const names = [...document.querySelectorAll('title')].map((t) => t.textContent)
  expect(names).toEqual(['steel, 1.80 mm', 'friction, 1.60 mm', 'snap ring, 1.60 mm'])
})

test('a drawer is drawn along its range, its gaps told', () => {
  const size = (thickness_nm: number, on_hand: number) => ({
    thickness_nm,
    grade: 'marked',
    on_hand,
    on_order: 0,
    reserved: 0,
  })
  const drawer = {
    name: 'Float washers',
    sizes: [size(1_000_000, 2), size(1_050_000, 1), size(1_200_000, 4)],
    range: { step_nm: 50_000, gaps: [{ from_nm: 1_050_000, to_nm: 1_200_000 }] },
  } as unknown as Drawer
  atBench(<DrawerScale drawer={drawer} />)
  expect(said()).toBe('Float washers along their range. Nothing free between 1.05 to 1.20 mm.')
})
