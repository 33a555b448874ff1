// Why a check gets something else together than one by one, in words.
import type { Schemas, Unit } from '../../domain/schema'
import { piecesText, show, unitName } from '../../domain/units'
import { inSentence } from '../../domain/words'

type Line = Schemas['AllocationLine']

const listed = (words: string[]) =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`

export function why(line: Line, lines: Line[], unit: Unit): string {
  if (!line.why) return ''
  const name = (at: number) => {
    const other = lines[at]
    return other
      ? inSentence(other.name) + (other.job_no === line.job_no ? '' : ` of job ${other.job_no}`)
      : ''
  }
  const off = (choice: Schemas['LineChoice']) =>
    `${show(choice.outcome.off_target_nm, unit)} ${unitName[unit]} off target`
  const said: string[] = []
  const { leaves_for: leaves, gets_from: gets } = line.why
  if (leaves.length > 0 && line.alone) {
    const gained = leaves
      .map((at) => lines[at])
      .filter((other): other is Line => !!other && !other.alone && !!other.together)
    said.push(
      `Leaves ${piecesText(line.alone.pieces, unit)} for ${listed(leaves.map(name))}` +
        (gained.length > 0 ? ', which would have nothing in its window otherwise' : '') +
        '.',
    )
  }
  if (gets.length > 0 && line.together) {
    said.push(
      `Gets ${piecesText(line.together.pieces, unit)}, which ${listed(gets.map(name))} would have taken: ` +
        (line.alone
          ? `${off(line.together)} in place of ${off(line.alone)}.`
          : 'one by one it would have nothing in its window.'),
    )
  }
  if (said.length === 0) {
    said.push(
      line.together && line.alone
        ? `${off(line.together)} in place of ${off(line.alone)}, so that the others do better.`
        : line.together
          ? 'One by one it would have nothing in its window.'
          : 'Left out so that more of the others land in their windows.',
    )
  }
  return said.join(' ')
}
