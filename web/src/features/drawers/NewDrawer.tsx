// A drawer that no sheet has brought, and sizes put into one that is there.
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Drawer, Schemas } from '../../domain/schema'
import { useBench } from '../../domain/session'
import { unitName } from '../../domain/units'
import { inSentence } from '../../domain/words'
import { Choice, Field } from '../../ui/Field'
import { Presses } from '../../ui/Presses'
import { Ask, Trouble } from '../../ui/Parts'
import type { Done } from './DoneLine'
import { useDrawersWritten } from './writes'

/** What selective pieces are. */
const KINDS = [
  ['shim', 'Shims'],
  ['washer', 'Thrust washers'],
  ['snap_ring', 'Snap rings'],
  ['spacer', 'Spacers'],
  ['thrust_plate', 'Thrust plates'],
  ['pressure_plate', 'Pressure plates'],
  ['steel', 'Steel plates'],
] as const satisfies readonly (readonly [Schemas['PartKind'], string])[]

const LIST = 'One after the other, or from to by: 1.10 to 1.25 by 0.05; 1.40'

interface Props {
  onClose: () => void
  onDone: (done: Done) => void
}

export function NewDrawer({ onClose, onDone }: Props) {
  const { unit, who } = useBench()
  const written = useDrawersWritten()
  const [name, setName] = useState('')
  const [kind, setKind] = useState<Schemas['PartKind']>('shim')
  const [tolerance, setTolerance] = useState('')
  const [sizes, setSizes] = useState('')
  const [place, setPlace] = useState('')
  const save = useMutation<Drawer[], Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/drawers', {
          params: { header: { 'Idempotency-Key': writeKey() } },
          body: { name, kind, tolerance, sizes, unit, place, who },
        }),
      ),
    onSuccess: (drawers) => {
      written(drawers)
      onDone({ said: `${name.trim()} has a drawer now. Count it through to say what lies there.` })
    },
  })
  const fault = useFault(save.error)
  return (
    <Ask open onClose={onClose} title="Open a drawer">
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          save.mutate()
        }}
      >
        <Field
          label="What the pieces are called"
          words
          value={name}
          onChange={setName}
          fault={fault('name')}
        />
        <Choice
          label="What they are"
          value={kind}
          onChange={(k) => setKind(k as Schemas['PartKind'])}
          options={KINDS}
        />
        <Field
          label="How far one may be off its mark, ±"
          value={tolerance}
          onChange={setTolerance}
          fault={fault('tolerance')}
          placeholder={`in ${unitName[unit]}`}
        />
        <Field
          label="Sizes"
          hint={LIST}
          value={sizes}
          onChange={setSizes}
          fault={fault('sizes')}
          placeholder={`in ${unitName[unit]}`}
        />
        <Field label="Where the drawer is" words value={place} onChange={setPlace} />
        {!fault.known && <Trouble error={save.error} />}
        <Presses onClose={onClose} pending={save.isPending} press="Open it" />
      </form>
    </Ask>
  )
}

export function AddSizes({ drawer, onClose, onDone }: Props & { drawer: Drawer }) {
  const { unit, who } = useBench()
  const written = useDrawersWritten()
  const [sizes, setSizes] = useState('')
  const [count, setCount] = useState('0')
  const [countFault, setCountFault] = useState('')
  const [place, setPlace] = useState(drawer.sizes.find((s) => s.place)?.place ?? '')
  const save = useMutation<Drawer[], Refused, string>({
    mutationFn: (key) =>
      answer(
        server.POST('/api/drawers/{family}/sizes', {
          params: { path: { family: drawer.key }, header: { 'Idempotency-Key': key } },
          body: { sizes, on_hand: Number(count), unit, place, who },
        }),
      ),
    onSuccess: (drawers, actKey) => {
      written(drawers)
      const now = drawers.find((d) => d.key === drawer.key)?.sizes.length ?? 0
      const many = now - drawer.sizes.length
      onDone({
        said: `${many} ${many === 1 ? 'size' : 'sizes'} added to ${inSentence(drawer.name)}, ${count.trim()} of each.`,
        ...(Number(count) > 0 && { actKey }),
      })
    },
  })
  const fault = useFault(save.error)
  return (
    <Ask open onClose={onClose} title={`Add sizes to ${inSentence(drawer.name)}`}>
      <form
        noValidate
        onSubmit={(e) => {
          e.preventDefault()
          const whole = /^\d{1,6}$/.test(count.trim())
          setCountFault(whole ? '' : 'Count whole pieces, such as 4.')
          if (whole) save.mutate(writeKey())
        }}
      >
        <Field
          label="Thickness, one or several"
          hint={LIST}
          value={sizes}
          onChange={setSizes}
          fault={fault('sizes')}
          placeholder={`in ${unitName[unit]}`}
        />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <Field
            label="How many of each are there"
            numeric
            value={count}
            onChange={setCount}
            fault={countFault || fault('on_hand')}
          />
          <Field label="Where the drawer is" words value={place} onChange={setPlace} />
        </div>
        {!fault.known && <Trouble error={save.error} />}
        <Presses onClose={onClose} pending={save.isPending} press="Add" />
      </form>
    </Ask>
  )
}

/** What is wrong with a field, as it was refused. */
function useFault(error: Refused | null) {
  const { field, title } = error?.problem ?? {}
  const fault = (of: string) => (field === of ? title : undefined)
  return Object.assign(fault, { known: ['name', 'tolerance', 'sizes', 'on_hand'].includes(field ?? '') })
}
