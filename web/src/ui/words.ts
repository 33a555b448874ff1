// The names people use for what the program keeps by key.
import type { Schemas } from '../api/client'

export const phaseWords: Record<string, string> = {
  measure: 'measure',
  choose: 'choose a piece for',
  await_part: 'on order for',
  fit: 'fit the piece for',
  measure_again: 'measure again',
  sign: 'sign off',
  signed: 'signed off',
  hand_over: 'hand over',
  elsewhere: 'not measured here',
}

export const phaseName: Record<string, string> = {
  measure: 'to measure',
  choose: 'to choose',
  await_part: 'part on order',
  fit: 'to fit',
  measure_again: 'to measure again',
  sign: 'to sign off',
  signed: 'signed',
  hand_over: 'to hand over',
  elsewhere: 'not measured here',
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
  turning_torque: 'turning torque',
}

export const boxName: Record<Schemas['BoxKind'], string> = {
  manual: 'manual gearbox or transaxle',
  automatic: 'automatic',
  motorcycle: 'motorcycle gearbox',
  transfer_case: 'transfer case',
}

export const sourceWords: Record<Schemas['Source'], string> = {
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
}
