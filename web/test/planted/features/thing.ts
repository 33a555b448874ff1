// Planted: one half of a ring, and what the lowest folder looks into.
import { other } from './other'

export const thing: string = other
