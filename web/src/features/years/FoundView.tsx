// Over the years: what was found on boxes of a sheet, by what they came in with.
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useFound, useSheet } from '../../api/queries'
import { capital, hasWords } from '../../domain/words'
import { Field } from '../../ui/Field'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'

export function FoundView() {
  const { sheetKey = '' } = useParams()
  const { data: sheet } = useSheet(sheetKey)
  const { data, error } = useFound(sheetKey)
  const [words, setWords] = useState('')
  useTitle(sheet && `Found over the years, ${sheet.name}`)
  if (error) return <Trouble error={error as unknown as Refused} />
  if (!data || !sheet) return <Loading what="what was found" />
  const text = (of: (typeof data)[number]) =>
    [of.complaint, ...of.parts.flatMap((p) => [p.name, ...p.conditions.map(([word]) => word)])].join(' ')
  const shown = data.filter((of) => hasWords(text(of), words))
  return (
    <main className="mx-auto max-w-[70rem] px-3 pb-16 sm:px-6">
      <h1 className="pt-5 text-2xl">Found over the years</h1>
      <p className="text-dim">
        On boxes of{' '}
        <Link className="link" to={`/sheets/${sheetKey}`}>
          {sheet.name}
        </Link>{' '}
        that came in with a complaint, were looked through and handed over.
      </p>
      {data.length === 0 ? (
        <p className="py-4 text-lg">None yet: it fills with each box that is handed over.</p>
      ) : (
        <div className="mt-4 max-w-sm">
          <Field words label="A complaint, a part, a condition" value={words} onChange={setWords} />
        </div>
      )}
      {data.length > 0 && shown.length === 0 && (
        <p role="status" className="text-lg">
          Nothing was found with “{words}”.
        </p>
      )}
      {shown.map((of) => (
        <section key={of.complaint} aria-label={of.complaint} className="mt-5">
          <h2 className="text-xl">{capital(of.complaint)}</h2>
          <p className="text-dim">
            {of.boxes === 1 ? 'One box' : `${of.boxes} boxes`};{' '}
            {of.explained === of.boxes
              ? 'something was found on each'
              : `something was found on ${of.explained}`}
            .
          </p>
          <ul className="ruled mt-1">
            {of.parts.map((p) => (
              <li key={p.part} className="grid items-center gap-x-4 py-2 sm:grid-cols-[14rem_1fr]">
                <span className="font-bold">{p.name}</span>
                <span className="flex flex-wrap items-center gap-x-3">
                  <svg
                    viewBox="0 0 100 12"
                    className="h-3 w-40"
                    aria-hidden="true"
                    preserveAspectRatio="none"
                  >
                    <rect width="100" height="12" fill="none" stroke="var(--dim)" />
                    <rect width={(100 * p.boxes) / of.boxes} height="12" fill="var(--steel-line)" />
                  </svg>
                  <span className="figure">
                    {p.boxes} of {of.boxes}
                  </span>
                  <span>
                    {p.conditions.map(([word, n]) => (n === p.boxes ? word : `${word} ${n} ×`)).join(', ')}
                  </span>
                  <span className="text-dim">{p.renewed > 0 && `new one ${p.renewed} ×`}</span>
                </span>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </main>
  )
}
