// Answers to what a box is, in words.
import type { Schemas, Unit } from '../../domain/schema'
import { showStated, unitName } from '../../domain/units'

export type Identified = Schemas['Identified']
export type Judged = Schemas['Judged']
export type Question = Schemas['IdentityQuestion']
export type Given = Schemas['Given']
export type AnswerIn = Schemas['TypedAnswer']

/** What was seen, as people say it. */
export function givenWords(given: Given, unit: Unit) {
  switch (given.kind) {
    case 'count':
      return String(given.count)
    case 'text':
      return `“${given.text}”`
    case 'length':
      return `${showStated(given.size_nm, unit)} ${unitName[unit]}`
    case 'yes_no':
      return given.yes ? 'yes' : 'no'
    default:
      return 'cannot be seen'
  }
}

/** What a build is called: by its own name on its sheet, by the sheet's among several. */
export const buildName = (of: Pick<Judged, 'sheet' | 'name'>) =>
  of.name ? `${of.sheet}, ${of.name}` : of.sheet

/** An answer that a build may give, as its sheet has it. */
export function tellsWords(tells: Schemas['sheet.Tells']) {
  if (tells.count != null) return String(tells.count)
  if (tells.text != null) return `“${tells.text}”`
  if (tells.yes != null) return tells.yes ? 'yes' : 'no'
  if (tells.at_least == null) return `${tells.at_most} or less`
  return tells.at_most == null ? `${tells.at_least} or more` : `${tells.at_least} to ${tells.at_most}`
}
