// The card of a box that is coming in, kept until its job is open, whatever led away from it.
import type { Schemas } from '../../domain/schema'
import { keep, keptJson } from '../../domain/session'
import { NO_INTAKE, type Intake } from '../intake/IntakeFields'

export interface NewCard {
  sheetKey: string
  /** The build of the box, where it is known. */
  variant: string
  /** What was seen of it, to tell what it is. */
  identity: Schemas['TypedAnswer'][]
  title: string
  customer: string
  complaint: string
  intake: Intake
  /** It is not overhauled: its parts go into other boxes. */
  forParts: boolean
}

export const CARD = 'new-job'

/** The card that was begun. */
export function begun(): NewCard {
  const none = {
    sheetKey: '',
    variant: '',
    identity: [],
    title: '',
    customer: '',
    complaint: '',
    intake: NO_INTAKE,
    forParts: false,
  }
  const found = keptJson(CARD)
  return typeof found === 'object' ? { ...none, ...found } : none
}

/** Puts what was told at the door on the card that was begun. */
export const takeAlong = (part: Partial<NewCard>) => keep(CARD, JSON.stringify({ ...begun(), ...part }))
