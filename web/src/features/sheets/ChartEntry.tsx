// A check's selection chart: looked at, typed or taken in, with its faults by row.
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server, writeKey, type Refused } from '../../api/client'
import type { Schemas } from '../../domain/schema'
import { Ask, Labelled, Trouble } from '../../ui/Parts'
import { useBench } from '../../domain/session'
import { showStated, unitName } from '../../domain/units'
import { inSentence } from '../../domain/words'

type Check = Schemas['SheetCheck']

export function ChartEntry({ sheet, check }: { sheet: string; check: Check }) {
  const [open, setOpen] = useState(false)
  const { chart } = check
  return (
    <>
      <button className="link min-h-11" onClick={() => setOpen(true)}>
        {chart ? `chart, ${chart.rows.length} rows` : 'add a chart'}
      </button>
      {open && (
        <Ask open title={`Chart of ${inSentence(check.name)}`} onClose={() => setOpen(false)}>
          <Form sheet={sheet} check={check} onDone={() => setOpen(false)} />
        </Ask>
      )}
    </>
  )
}

function Form({ sheet, check, onDone }: { sheet: string; check: Check; onDone: () => void }) {
  const { unit, who } = useBench()
  const client = useQueryClient()
  const { chart } = check
  const [measured, setMeasured] = useState(chart?.measured ?? '')
  const [step, setStep] = useState(chart ? showStated(chart.step_nm, unit) : '')
  const [rows, setRows] = useState(
    chart?.rows
      .map((r) => [r.from_nm, r.to_nm, r.piece_nm, ...(r.piece_to_nm > r.piece_nm ? [r.piece_to_nm] : [])])
      .map((row) => row.map((nm) => showStated(nm, unit)).join(', '))
      .join('\n') ?? '',
  )
  const act = useMutation<unknown, Refused, string>({
    mutationFn: (text) =>
      answer(
        server.PUT('/api/sheets/{key}/checks/{check_key}/chart', {
          params: {
            path: { key: sheet, check_key: check.key },
            header: { 'Idempotency-Key': writeKey() },
          },
          body: { measured, step, rows: text, unit, who },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries()
      onDone()
    },
  })
  const fault = (field: string) => (act.error?.problem.field === field ? act.error.problem.title : undefined)
  const keep = (text: string) => act.mutate(text)
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        keep(rows)
      }}
    >
      <Trouble error={act.error?.problem.field ? null : act.error} />
      <Labelled label="What is measured to read it" error={fault('measured')}>
        {(id) => (
          <input
            id={id}
            className="field"
            value={measured}
            placeholder="such as depth from the joint face to the bearing"
            onChange={(e) => setMeasured(e.target.value)}
          />
        )}
      </Labelled>
      <div className="mt-3">
        <Labelled
          label={`The chart’s step, ${unitName[unit]}`}
          hint="Rows that end and begin a step apart meet."
          error={fault('step')}
        >
          {(id) => (
            <input
              id={id}
              className="field figure"
              value={step}
              placeholder={unit === 'mm' ? '0.01' : unit === 'um' ? '10' : '1'}
              onChange={(e) => setStep(e.target.value)}
            />
          )}
        </Labelled>
      </div>
      <div className="mt-3">
        <Labelled
          label={`Rows: from, to, piece, ${unitName[unit]}`}
          hint="One row a line; a fourth figure where pieces up to another will do. Paste from a spreadsheet, or take in a CSV file; a figure may have a unit of its own."
        >
          {(id) => (
            <textarea
              id={id}
              className="field figure py-2"
              rows={9}
              spellCheck={false}
              value={rows}
              onChange={(e) => setRows(e.target.value)}
            />
          )}
        </Labelled>
      </div>
      <label className="press-quiet mt-3 cursor-pointer focus-within:outline-3">
        Take in a CSV file
        <input
          type="file"
          accept=".csv,.tsv,text/csv"
          className="sr-only"
          onChange={(e) => void e.target.files?.[0]?.text().then(setRows)}
        />
      </label>
      <div className="mt-4 flex flex-wrap gap-3">
        <button className="press" disabled={act.isPending || !rows.trim()}>
          Keep as a new revision
        </button>
        {chart && (
          <button type="button" className="press-quiet" disabled={act.isPending} onClick={() => keep('')}>
            Take the chart off
          </button>
        )}
      </div>
      <p className="mt-2 text-sm text-dim">Jobs that are open keep the revision they were opened with.</p>
    </form>
  )
}
