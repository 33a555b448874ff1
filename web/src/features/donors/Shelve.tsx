// What is sound in a box that gives its parts goes on the shelf, in one press.
import { useState } from 'react'
import { Link } from 'react-router'
import { useShelf } from '../../api/queries'
import type { Box } from '../../domain/schema'
import { Field } from '../../ui/Field'
import { useDonorAct } from '../../ui/acts'
import { Trouble } from '../../ui/Parts'

export function Shelve({ box }: { box: Box }) {
  const { data } = useShelf()
  const shelving = useDonorAct()
  const [place, setPlace] = useState('')
  const there = (data ?? []).filter((p) => p.job_no === box.job_no)
  const fault = shelving.error?.problem.field?.endsWith('place') ? shelving.error.problem.title : undefined
  const shelve = () => shelving.mutate({ job: box.job_no, did: { act: 'shelve', parts: [], place } })
  return (
    <section aria-label="Shelf">
      <h2 className="text-lg">For parts</h2>
      <p className="text-dim">
        {there.length === 0
          ? 'Say of each part whether it is sound. What is sound can be taken for boxes of this model, and goes on the shelf when the box itself goes.'
          : `${there.length} of its parts lie on the shelf.`}{' '}
        <Link className="link inline-flex min-h-11 items-center" to="/shelf">
          The shelf
        </Link>
      </p>
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          shelve()
        }}
      >
        <div className="min-w-0 flex-1">
          <Field
            words
            label="Put what is sound on the shelf, where"
            value={place}
            onChange={setPlace}
            fault={fault}
          />
        </div>
        <button className="press-quiet mb-4" disabled={shelving.isPending}>
          Put it there
        </button>
      </form>
      {!fault && <Trouble error={shelving.error} />}
    </section>
  )
}
