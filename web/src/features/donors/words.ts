// Used parts in words.
import { usedStateName } from '../../domain/labels'
import type { Schemas, Unit } from '../../domain/schema'
import { percent, showStated, unitName } from '../../domain/units'

type Used = Schemas['UsedPart']

/** What is to be said of a used part beside its state. */
export function usedWords(part: Used, unit: Unit) {
  return [
    ...(part.conditions ?? []),
    part.used != null && `${percent(part.used)} worn`,
    part.width_nm != null && `${showStated(part.width_nm, unit)} ${unitName[unit]} wide`,
    part.size_nm != null && part.width_nm == null && `${showStated(part.size_nm, unit)} ${unitName[unit]}`,
    part.place && `on the shelf, ${part.place}`,
  ].filter((word): word is string => Boolean(word))
}

/** Where it stands with a part of a box, in a word or a few. */
export const stateWords = (part: Used) =>
  part.state === 'given' && part.given_to != null ? `in job ${part.given_to}` : usedStateName[part.state]

/** Whether it can go into a box. */
export const isUsable = (part: Used) => part.state === 'sound' || part.state === 'worn'
