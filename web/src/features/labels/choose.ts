// What is worth a label: the box, what stays together, twins, and what lies in a bag.
import type { Box } from '../../domain/schema'
import { inSentence } from '../../domain/words'
import type { OnJob } from '../strip/acts'

export interface Label {
  key: string
  name: string
  lines: string[]
  /** Where its code leads. */
  path: string
  /** It is printed unless somebody says otherwise. */
  usual: boolean
}

/** The labels of a job: the box first, then its parts in their order. */
export function labelled(
  box: Pick<Box, 'job_no' | 'sheet' | 'customer' | 'intake'>,
  parts: OnJob[],
): Label[] {
  const job = `/jobs/${box.job_no}`
  const own: Label = {
    key: '',
    name: box.sheet,
    lines: [box.customer, box.intake.stamped && `number ${box.intake.stamped}`].filter(Boolean) as string[],
    path: job,
    usual: true,
  }
  return [own, ...parts.map((part) => labelOf(job, part))]
}

function labelOf(job: string, part: OnJob): Label {
  const together = part.kept_with ?? []
  return {
    key: part.key,
    name: part.count > 1 ? `${part.count} × ${part.name}` : part.name,
    lines: [
      part.which,
      together.length > 0 && `stays with ${together.map(inSentence).join(', ')}`,
      part.twin && `not ${inSentence(part.twin)}`,
    ].filter(Boolean) as string[],
    path: `${job}/strip?part=${encodeURIComponent(part.key)}`,
    usual: together.length > 0 || Boolean(part.twin) || part.count > 1,
  }
}
