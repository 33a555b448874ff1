// A reading that is off its prediction by just what differs between trial and final build.
import { useFacts } from '../../ui/acts'
import type { CheckView } from '../../domain/schema'

/** Said before anything else: counted twice, or not at all, it makes a right box look wrong. */
export function OffBy({ check }: { check: CheckView }) {
  const later = useFacts(check)
  const by = check.adjustments.find((a) => a.what === check.off_by)
  if (by?.as_final == null || !check.allowed.change) return null
  return (
    <div role="alert" className="mx-3 mb-3 border-l-4 border-brass bg-card px-3 py-2 sm:mx-6">
      <p className="font-semibold">
        It is off by just what this makes: {by.what}.{' '}
        {by.as_final ? 'It is not counted: is it so still?' : 'It is added: is it in the box already?'}
      </p>
      <button className="press-quiet mt-2" onClick={() => void later.tick(by.tick, !by.as_final)}>
        {by.as_final ? 'Count it' : 'It is in: do not add it'}
      </button>
    </div>
  )
}
