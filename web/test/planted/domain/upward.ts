// Planted: the lowest folder looks into the highest but one.
import { thing } from '../features/thing'

export const looked = thing
