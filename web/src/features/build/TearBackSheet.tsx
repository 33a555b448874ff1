// What comes out to get at something again, before anybody begins.
import { useState } from 'react'
import { useTearBack } from '../../api/queries'
import type { Refused } from '../../api/client'
import { Field } from '../../ui/Field'
import { Ask, Loading, Trouble } from '../../ui/Parts'
import { minutesWords, type Build, type Doing } from './acts'

export type Wanted = { step: string } | { part: string } | { check: string }

interface Props {
  job: number
  to: Wanted
  build: Build
  doing: Doing
  onClose: () => void
}

export function TearBackSheet({ job, to, build, doing, onClose }: Props) {
  const { data, error } = useTearBack(job, to)
  const [why, setWhy] = useState('')
  return (
    <Ask open onClose={onClose} title={data ? `Back to: ${data.what}` : 'Back to it'}>
      {error && <Trouble error={error as unknown as Refused} />}
      {!data && !error && <Loading what="what comes out" />}
      {data?.out.length === 0 && (
        <p className="text-lg">Nothing has to come out: it can be got at as the box stands.</p>
      )}
      {data && data.out.length > 0 && (
        <form
          data-testid="tear-back"
          onSubmit={(e) => {
            e.preventDefault()
            doing.mutate({ act: 'torn_back', to: data.to, why }, { onSuccess: onClose })
          }}
        >
          <p className="text-lg">
            <strong className="figure text-3xl">{data.out.length}</strong>{' '}
            {data.out.length === 1 ? 'step comes out and goes' : 'steps come out and go'} back in
            {data.back_in_minutes != null &&
              `; back in takes about ${minutesWords(data.back_in_minutes)}${data.by_own_times ? ' by this shop’s own times' : ''}`}
            .
          </p>
          <ol className="mt-2 list-decimal pl-7" aria-label="What comes out, in this order">
            {data.out.map((at) => (
              <li key={at} className="py-0.5">
                {build.steps[at]?.step.what}
              </li>
            ))}
          </ol>
          {data.new_again.length > 0 && (
            <p className="mt-3">
              <strong>New when it goes back:</strong> {data.new_again.join(', ')}
            </p>
          )}
          {data.falls.length > 0 && (
            <div className="mt-3 border-l-4 border-oxide bg-card px-3 py-2">
              <p className="font-bold">Signatures that fall</p>
              <ul>
                {data.falls.map((f) => (
                  <li key={f.check}>
                    {f.name}, signed by {f.signed_by}
                  </li>
                ))}
              </ul>
            </div>
          )}
          {data.asked_again.length > 0 && (
            <p className="mt-3">
              <strong>Asked again:</strong> {data.asked_again.join(' ')}
            </p>
          )}
          {data.passed_over.length > 0 && (
            <p className="mt-3 text-dim">Stays passed over: {data.passed_over.join(', ')}</p>
          )}
          <div className="mt-4">
            <Field
              words
              label="Why the box is taken apart again"
              value={why}
              onChange={setWhy}
              fault={doing.error?.problem.field === 'why' ? doing.error.problem.title : undefined}
            />
            {doing.error && doing.error.problem.field !== 'why' && <Trouble error={doing.error} />}
          </div>
          <div className="flex justify-end gap-3">
            <button type="button" className="press-quiet" onClick={onClose}>
              Leave it together
            </button>
            <button className="press" disabled={doing.isPending}>
              Begin
            </button>
          </div>
        </form>
      )}
    </Ask>
  )
}
