// The units of torque, as people write them.
import type { Schemas } from '../../domain/schema'

export type TorqueUnit = Schemas['TorqueUnit']

export const torques: [TorqueUnit, string][] = [
  ['newton_metre', 'N·m'],
  ['pound_foot', 'lbf·ft'],
  ['pound_inch', 'lbf·in'],
  ['kilogram_metre', 'kgf·m'],
]

export const torqueName = Object.fromEntries(torques) as Record<TorqueUnit, string>
