// The server's own types, by the names that the code uses.
import type { components } from '../api/schema'

export type Schemas = components['schemas']
export type CheckView = Schemas['CheckView']
export type Box = Schemas['BoxView']
export type JobRow = Schemas['JobRow']
export type Drawer = Schemas['Drawer']
export type Problem = Schemas['Problem']
export type Unit = 'thou' | 'mm' | 'um'
