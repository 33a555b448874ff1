// A piece measured by micrometer becomes its own: its thickness is what it measures.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { Micrometer } from '../../ui/Micrometer'
import { Ask, Labelled, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { showStated, unitName } from '../../domain/units'
import type { Done } from './DoneLine'
import { useDrawersWritten } from './writes'
import { inSentence } from '../../domain/words'

interface FormProps {
  drawer: Drawer
  /** The size it is marked as, where it comes out of the drawer. */
  marked?: Schemas['DrawerSize']
  onDone: (done: Done) => void
}

export function MikePiece({ onClose, ...props }: FormProps & { onClose: () => void }) {
  return (
    <Ask open onClose={onClose} title={`Put a measured piece in ${inSentence(props.drawer.name)}`}>
      <p className="mb-3 text-dim">
        One out of a box, or out of a mixed lot. What it measures is its thickness from now on.
      </p>
      <MikeForm {...props} />
    </Ask>
  )
}

export function MikeForm({ drawer, marked, onDone }: FormProps) {
  const { unit, who } = useBench()
  const written = useDrawersWritten()
  const [measured, setMeasured] = useState('')
  const [used, setUsed] = useState(!marked)
  const [gauge, setGauge] = useState<string>()
  const save = useMutation<Drawer[], Refused, string>({
    mutationFn: (key) =>
      answer(
        server.POST('/api/drawers/{family}/miked', {
          params: { path: { family: drawer.key }, header: { 'Idempotency-Key': key } },
          body: {
            marked_nm: marked?.thickness_nm,
            measured,
            unit,
            gauge_key: gauge,
            used,
            place: marked?.place ?? drawer.sizes.find((s) => s.place)?.place ?? '',
            who,
          },
        }),
      ),
    onSuccess: (drawers, key) => {
      written(drawers)
      const as = marked ? `, marked ${showStated(marked.thickness_nm, unit)} ${unitName[unit]}` : ''
      onDone({ said: `A piece of ${measured.trim()}${as} is now its own.`, actKey: key })
    },
  })
  const fault = save.error?.problem.field === 'measured' ? save.error.problem.title : undefined
  return (
    <form
      noValidate
      onSubmit={(e) => {
        e.preventDefault()
        save.mutate(writeKey())
      }}
    >
      <Labelled
        label={marked ? 'One of them measures, by micrometer' : 'It measures, by micrometer'}
        error={fault}
      >
        {(id) => (
          <span className="flex gap-2">
            <input
              id={id}
              className="field figure"
              value={measured}
              placeholder={`in ${unitName[unit]}`}
              autoComplete="off"
              onChange={(e) => setMeasured(e.target.value)}
            />
            <button className="press-quiet shrink-0" disabled={!measured.trim() || save.isPending}>
              Keep as its own
            </button>
          </span>
        )}
      </Labelled>
      <Micrometer value={gauge} onChange={setGauge} />
      {!marked && (
        <label className="flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6 accent-[var(--blue)]"
            checked={used}
            onChange={(e) => setUsed(e.target.checked)}
          />
          It has been in a box, and is sound
        </label>
      )}
      {!fault && <Trouble error={save.error} />}
    </form>
  )
}
