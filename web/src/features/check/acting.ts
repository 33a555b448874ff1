// What is under way on the check of a screen.
import type { CheckAct } from '../../api/acts'
import type { Doing } from '../../ui/acts'

/** An act on a check under way, with what it was refused with. */
export type Acting = Doing<CheckAct>
