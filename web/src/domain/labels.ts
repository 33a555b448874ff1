// Every word that stands for something the program keeps by key, once.
import type { Schemas } from './schema'

/** What a check or its job waits for. */
type Wait = Schemas['Phase'] | Schemas['JobWait']

/** What a job waits for, as the beginning of a line that ends in the check's name. */
export const phaseWords: Record<Wait, string> = {
  measure: 'measure',
  choose: 'choose a piece for',
  await_part: 'wait for a piece for',
  fit: 'fit the piece for',
  measure_again: 'measure again',
  sign: 'sign off',
  signed: 'signed off',
  hand_over: 'hand over',
  for_parts: 'for parts',
  elsewhere: 'not measured here',
}

/** What a job waits for, by itself. */
export const phaseName: Record<Wait, string> = {
  measure: 'to measure',
  choose: 'to choose',
  await_part: 'waiting for a piece',
  fit: 'to fit',
  measure_again: 'to measure again',
  sign: 'to sign off',
  signed: 'signed',
  hand_over: 'to hand over',
  for_parts: 'for parts',
  elsewhere: 'not measured here',
}

/** What was done with a job as a whole. */
export const jobMarkWords: Record<Schemas['MarkOfJob'], string> = {
  handed_over: 'handed over',
  taken_back: 'taken back to the bench',
  put_away: 'put away',
  brought_back: 'brought back to the bench',
}

export const kindName: Record<Schemas['CheckKind'], string> = {
  end_float: 'end float',
  thrust_clearance: 'thrust clearance',
  gear_side_clearance: 'gear side clearance',
  bearing_preload: 'bearing preload',
  clutch_pack_clearance: 'clutch pack clearance',
  pinion_end_play: 'pinion end play',
  retainer_pinch: 'retainer pinch',
  selector_centring: 'selector centring',
  selector_limits: 'selector gaps with limits',
  seat_height: 'seat height',
  pinion_height: 'pinion height',
  backlash: 'backlash',
  fit: 'fit in a bore',
  turning_torque: 'turning torque',
  pass_fail: 'yes or no by hand',
}

/** What a box does that it should not, where no gear is named. */
export const symptomName: Record<Schemas['Symptom'], string> = {
  jumps_out: 'jumps out of gear',
  will_not_select: 'will not go into gear',
  grates: 'grates into gear',
  whines: 'whines',
  growls: 'growls in every gear',
  knocks: 'knocks',
  leaks: 'leaks',
  slips: 'slips',
  drags: 'drags',
  bangs_in: 'bangs into gear',
  no_drive: 'no drive',
  no_drive_hot: 'no drive when hot',
  no_drive_cold: 'no drive when cold',
  stiff_lever: 'stiff lever',
}

/** How it stands with a part that has to be got. */
export const supplyName: Record<Schemas['SupplyState'], string> = {
  needed: 'To order',
  will_not_come: 'Will not come',
  ordered: 'On order',
  come: 'Here',
}

export const boxName: Record<Schemas['BoxKind'], string> = {
  manual: 'manual gearbox or transaxle',
  automatic: 'automatic',
  motorcycle: 'motorcycle gearbox',
  transfer_case: 'transfer case',
}

export const sourceWords: Record<Schemas['Availability'], string> = {
  on_hand: 'on hand',
  on_order: 'on order',
  to_order: 'to order',
  discontinued: 'no longer made',
}

export const slipWords: Record<Schemas['Cause'], string> = {
  one_decimal: 'a decimal place lost',
  two_decimals: 'two decimal places lost',
  three_decimals: 'three decimal places, or µm for mm',
  inch_for_mm: 'inches for millimetres, or the reverse',
  thou_for_mm: 'thou for millimetres, or the reverse',
  hundredths_for_thou: 'hundredths of a millimetre for thou, or the reverse',
  pound_inches: 'pound-force inches for newton metres, or the reverse',
  nought: 'nothing read where the others read something: a gauge that did not touch, a shaft not moved',
}

export const partName: Record<Schemas['PartKind'], string> = {
  bearing: 'bearing',
  taper_bearing: 'taper bearing',
  needle_bearing: 'needle bearing',
  gear: 'gear',
  hub: 'hub',
  sleeve: 'sleeve',
  washer: 'washer',
  shim: 'shim',
  snap_ring: 'snap ring',
  spacer: 'spacer',
  thrust_plate: 'thrust plate',
  pressure_plate: 'pressure plate',
  friction: 'friction',
  steel: 'steel',
  wave_plate: 'wave plate',
  drum: 'drum',
  planet: 'planet gear',
  diff_case: 'differential case',
  seal: 'seal',
  retainer: 'retainer',
  housing: 'housing',
  collar: 'collar',
}

export const materialName: Record<Schemas['Material'], string> = {
  steel: 'steel',
  cast_iron: 'cast iron',
  aluminium: 'aluminium',
  magnesium: 'magnesium',
  bronze: 'bronze',
}

export const methodName: Record<Schemas['Method'], string> = {
  dial_travel: 'dial travel',
  feeler: 'feeler leaves',
  depth_from_bar: 'depth from a bar',
  stack_sum: 'stack sum',
  no_shim: 'no shim at all',
  known_shim: 'known shim',
  turning_torque: 'turning torque',
  one_by_one: 'one by one',
  at_teeth: 'at the teeth',
  selector_gaps: 'selector gaps',
  yes_no: 'yes or no',
  by_hand: 'by hand',
}

/** A method by what it is at this kind of check. */
export const methodWords = (method: Schemas['Method'], kind: Schemas['CheckKind']) =>
  kind === 'fit' && method === 'stack_sum' ? 'both diameters' : methodName[method]

export const fitWords: Record<Schemas['Fit'], string> = {
  goes: 'goes',
  refused: 'does not go',
  just: 'just fills it',
}

export const actWords: Record<Schemas['DrawerAct'], { press: string; done: string }> = {
  take: { press: 'Take out', done: 'Took' },
  return: { press: 'Put in', done: 'Put in' },
  scrap: { press: 'Scrap', done: 'Scrapped' },
  order: { press: 'Order', done: 'Ordered' },
  come: { press: 'Has come', done: 'Come in:' },
  cut_order: { press: 'Not coming', done: 'Off the order:' },
}

/** A line of the record. */
export const moveWords: Record<Schemas['StockChange'], string> = {
  counted: 'counted',
  imported: 'taken in from a file',
  fitted: 'fitted',
  put_back: 'put back',
  taken: 'taken out',
  returned: 'put in',
  scrapped: 'scrapped',
  ordered: 'ordered',
  order_cut: 'taken off the order',
  came: 'come from the order',
  miked: 'measured by micrometer',
  undone: 'undone',
}

export const gaugeKindName: Record<Schemas['GaugeKind'], string> = {
  dial: 'Indicators',
  depth: 'Depth gauges',
  micrometer: 'Micrometers',
  feeler: 'Feeler sets',
  torque_wrench: 'Torque wrenches',
  spring_scale: 'Spring scales',
}

export const gaugeName: Record<Schemas['GaugeKind'], string> = {
  dial: 'indicator',
  depth: 'depth gauge',
  micrometer: 'micrometer',
  feeler: 'feeler set',
  torque_wrench: 'torque wrench',
  spring_scale: 'spring scale',
}

/** Where a check's pin is; nowhere while nothing is measured. */
export type MarkState = Schemas['Call'] | 'none'

export const markOf = (call: Schemas['Call'] | null | undefined): MarkState => call ?? 'none'

export const markWords: Record<MarkState, string> = {
  none: 'not measured',
  in: 'in',
  tight: 'tight',
  loose: 'loose',
  too_close: 'too close to call',
  failed: 'not as it should be',
}

export const answerName: Record<Schemas['YesNo'], string> = { yes: 'Yes', no: 'No' }

/** What a component of an uncertainty comes from. */
export const uncertaintySourceName: Record<Schemas['Source'], string> = {
  scatter: 'scatter of the readings',
  repeatability: 'known scatter of the gauge',
  resolution: 'step of the scale',
  permissible_error: 'error of the gauge',
  adjustment: 'trial to final build',
  pieces: 'thickness of pieces',
  bracket: 'gap between the leaves',
  tolerance: 'limits of a part',
  feel: 'fingers',
  usual: 'usual difference',
}

export const faceName: Record<Schemas['Face'], string> = {
  chamfer: 'chamfer',
  bevel: 'bevel',
  lettering: 'lettering',
  recess: 'recess',
  dimples: 'dimples',
  taper: 'taper',
  open_side: 'open side',
  ridge: 'ridge',
  shoulder: 'shoulder',
  sharp_edge: 'sharp edge',
  smooth_face: 'smooth face',
  groove: 'groove',
  dogs: 'dogs',
  lip: 'lip',
}

export const itemName: Record<Schemas['ItemKind'], string> = {
  seal: 'seal',
  gasket: 'gasket',
  ring: 'ring',
  spring: 'spring',
  ball: 'ball',
  key: 'key',
  roller: 'roller',
  pin: 'pin',
  fork: 'fork',
  selector_drum: 'selector drum',
  rod: 'rod',
  cover: 'cover',
  fastener: 'fastener',
  piston: 'piston',
  pump: 'pump',
  other: 'other',
}

export const waitName: Record<Schemas['WaitKind'], string> = {
  oven: 'the oven',
  freezer: 'the freezer',
  soak: 'a bath',
  cure: 'setting',
  cool: 'cooling',
}

export const stepStateName: Record<Schemas['StepState'], string> = {
  done: 'done',
  left_out: 'left out',
  waiting: 'takes its time',
  ready: 'ready',
  later: 'later',
  held: 'held',
  out_of_reach: 'out of reach',
}

/** What becomes of a part. */
export const partStateName: Record<Schemas['PartState'], string> = {
  reused: 'Goes back in',
  renewed: 'New one',
  reworked: 'Reworked',
  swapped: 'Another kind',
  missing: 'Was missing',
  from_another: 'From another box',
}

/** The same of a box that gives its parts. */
export const givenPartName: Record<Schemas['PartState'], string> = {
  ...partStateName,
  reused: 'Sound',
  renewed: 'No good',
}

/** What a used part is good for. */
export const usedStateName: Record<Schemas['UsedState'], string> = {
  sound: 'sound',
  worn: 'worn',
  not_looked_at: 'not looked at',
  no_good: 'no good',
  missing: 'missing',
  given: 'given away',
  another: 'another part',
  gone: 'gone with its box',
}
