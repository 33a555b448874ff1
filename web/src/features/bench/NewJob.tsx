import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useSheets } from '../../api/queries'
import { Ask, Labelled, Trouble } from '../../ui/Parts'
import { Choice } from '../../ui/Field'
import { INTAKE_FIELDS, IntakeFields } from '../intake/IntakeFields'
import { CARD, begun, type NewCard } from './card'
import { SheetChoice } from './SheetChoice'
import { forget, keep, useBench } from '../../domain/session'

/** The card a box comes in with. */
export function NewJob({ sheet: asked, onClose }: { sheet: string; onClose: () => void }) {
  const { who } = useBench()
  const { data: sheets } = useSheets()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [key] = useState(writeKey)
  const [card, setCard] = useState<NewCard>(() => ({ ...begun(), ...(asked ? { sheetKey: asked } : {}) }))
  const { sheetKey, variant, identity, title, customer, complaint, intake, forParts } = card
  const set = (part: Partial<NewCard>) => setCard((before) => ({ ...before, ...part }))
  useEffect(() => keep(CARD, JSON.stringify(card)), [card])
  const sheet = sheetKey || (sheets?.length === 1 ? (sheets[0]?.key ?? '') : '')
  const builds = sheets?.find((s) => s.key === sheet)?.variants ?? []
  const build = builds.some((b) => b.key === variant) ? variant : ''
  const open = useMutation<{ job_no: number }, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/jobs', {
          params: { header: { 'Idempotency-Key': key } },
          body: {
            sheet_key: sheet,
            variant: build,
            identity,
            title,
            customer,
            complaint,
            intake,
            for_parts: forParts,
            who,
          },
        }),
      ),
    onSuccess: ({ job_no }) => {
      forget(CARD)
      void client.invalidateQueries({ queryKey: ['jobs'] })
      void navigate(`/jobs/${job_no}`)
    },
  })
  const fault = (field: string) =>
    open.error?.problem.field === field ? open.error.problem.title : undefined
  const placed = ['sheet_key', 'variant', 'title', 'customer', 'complaint', ...INTAKE_FIELDS].some((f) =>
    fault(f),
  )
  return (
    <Ask open onClose={onClose} title="New job">
      <form
        onSubmit={(e) => {
          e.preventDefault()
          open.mutate()
        }}
      >
        <Labelled label="Spec sheet of the box" error={fault('sheet_key')}>
          {(id) => (
            <SheetChoice
              id={id}
              sheets={sheets ?? []}
              value={sheet}
              onChange={(sheetKey) => set({ sheetKey })}
            />
          )}
        </Labelled>
        <p className="-mt-3 mb-4">
          <Link className="link mr-4 inline-flex min-h-11 items-center" to="/identify">
            Not sure what it is: find out
          </Link>
          <Link className="link inline-flex min-h-11 items-center" to="/sheets/new">
            Not in the list: write its sheet
          </Link>
        </p>
        {builds.length > 0 && (
          <div className="mb-4">
            <Choice
              label="Which build of it"
              value={build}
              onChange={(variant) => set({ variant })}
              options={[
                ['', 'not known yet'] as const,
                ...builds.map((b) => [b.key, b.note ? `${b.name}: ${b.note}` : b.name] as const),
              ]}
            />
            {fault('variant') && <p className="mt-1 font-semibold text-oxide">{fault('variant')}</p>}
          </div>
        )}
        {identity.length > 0 && (
          <p className="mb-4 flex flex-wrap items-center gap-x-4">
            {identity.length === 1 ? 'One thing' : `${identity.length} things`} seen of the box{' '}
            {identity.length === 1 ? 'goes' : 'go'} with the card.
            <button type="button" className="link min-h-11" onClick={() => set({ identity: [] })}>
              Leave that out
            </button>
          </p>
        )}
        <Labelled label="What is on the bench" hint="Such as: Van 3, five-speed" error={fault('title')}>
          {(id) => (
            <input id={id} className="field" value={title} onChange={(e) => set({ title: e.target.value })} />
          )}
        </Labelled>
        <Labelled label="Whose it is" error={fault('customer')}>
          {(id) => (
            <input
              id={id}
              className="field"
              value={customer}
              onChange={(e) => set({ customer: e.target.value })}
            />
          )}
        </Labelled>
        <Labelled
          label="Complaint, in the customer’s words"
          hint="Such as: only on the hill home, since the last oil"
          error={fault('complaint')}
        >
          {(id) => (
            <input
              id={id}
              className="field"
              value={complaint}
              onChange={(e) => set({ complaint: e.target.value })}
            />
          )}
        </Labelled>
        <IntakeFields sheet={sheet} value={intake} onChange={(intake) => set({ intake })} fault={fault} />
        <label className="mb-4 flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="size-6"
            checked={forParts}
            onChange={(e) => set({ forParts: e.target.checked })}
          />
          <span>For parts: it is not overhauled, its parts go into other boxes</span>
        </label>
        {!placed && <Trouble error={open.error} />}
        <div className="flex justify-end gap-3">
          <button
            type="button"
            className="press-quiet"
            onClick={() => {
              forget(CARD)
              onClose()
            }}
          >
            Leave it
          </button>
          <button className="press" disabled={open.isPending}>
            Open the job
          </button>
        </div>
      </form>
    </Ask>
  )
}
