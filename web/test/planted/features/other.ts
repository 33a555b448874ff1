// Planted: the other half of the ring.
import { thing } from './thing'

export const other: string = thing
