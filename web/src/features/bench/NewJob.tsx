import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, server, writeKey, type Refused } from '../../api/client'
import { useSheets } from '../../api/queries'
import { Ask, Labelled, Trouble } from '../../ui/Parts'
import { INTAKE_FIELDS, IntakeFields, NO_INTAKE, type Intake } from '../intake/IntakeFields'
import { SheetChoice } from './SheetChoice'
import { forget, keep, keptJson, useBench } from '../../domain/session'

interface NewCard {
  sheetKey: string
  title: string
  customer: string
  complaint: string
  intake: Intake
}

/** A half-filled card is there again, whatever led away from it. */
const CARD = 'new-job'

function begun(): NewCard {
  const none = { sheetKey: '', title: '', customer: '', complaint: '', intake: NO_INTAKE }
  const found = keptJson(CARD)
  return typeof found === 'object' ? { ...none, ...found } : none
}

/** The card a box comes in with. */
export function NewJob({ sheet: asked, onClose }: { sheet: string; onClose: () => void }) {
  const { who } = useBench()
  const { data: sheets } = useSheets()
  const client = useQueryClient()
  const navigate = useNavigate()
  const [key] = useState(writeKey)
  const [card, setCard] = useState<NewCard>(() => ({ ...begun(), ...(asked ? { sheetKey: asked } : {}) }))
  const { sheetKey, title, customer, complaint, intake } = card
  const set = (part: Partial<NewCard>) => setCard((before) => ({ ...before, ...part }))
  useEffect(() => keep(CARD, JSON.stringify(card)), [card])
  const sheet = sheetKey || (sheets?.length === 1 ? (sheets[0]?.key ?? '') : '')
  const open = useMutation<{ job_no: number }, Refused>({
    mutationFn: () =>
      answer(
        server.POST('/api/jobs', {
          params: { header: { 'Idempotency-Key': key } },
          body: { sheet_key: sheet, title, customer, complaint, intake, who },
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
  const placed = ['sheet_key', 'title', 'customer', 'complaint', ...INTAKE_FIELDS].some((f) => fault(f))
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
          <Link className="link inline-flex min-h-11 items-center" to="/sheets/new">
            Not in the list: write its sheet
          </Link>
        </p>
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
