// Labels for the box and for the bags its parts lie in: what each is, what it stays with, and a code that opens its card.
import { encode } from 'uqr'
import { useMemo, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Refused } from '../../api/client'
import { useBox, useParts } from '../../api/queries'
import type { Box } from '../../domain/schema'
import { Choice } from '../../ui/Field'
import { Loading, Trouble } from '../../ui/Parts'
import { useTitle } from '../../ui/title'
import type { OnJob } from '../strip/acts'
import { labelled, type Label } from './choose'

export function LabelsView() {
  const jobNo = Number(useParams().jobNo)
  const { data: box, error: noBox } = useBox(jobNo)
  const { data: parts, error } = useParts(jobNo)
  useTitle(box && `Labels, job ${jobNo}, ${box.title}`)
  const trouble = error ?? noBox
  if (trouble && !parts) return <Trouble error={trouble as unknown as Refused} />
  if (!box || !parts) return <Loading what="the parts" />
  return <Labels box={box} parts={parts.parts} />
}

/** A sheet of labels as they are sold plain, three across and eight down; or a roll, one after the other. */
const PAPERS = [
  ['sheet', 'a sheet of labels, 3 × 8'],
  ['roll', 'a roll, 62 × 29 mm'],
] as const

function Labels({ box, parts }: { box: Box; parts: OnJob[] }) {
  const all = useMemo(() => labelled(box, parts), [box, parts])
  const [off, setOff] = useState<ReadonlySet<string>>(
    () => new Set(all.filter((l) => !l.usual).map((l) => l.key)),
  )
  const [paper, setPaper] = useState<string>('sheet')
  const printed = all.filter((l) => !off.has(l.key))
  const turn = (key: string) =>
    setOff((now) => {
      const next = new Set(now)
      if (!next.delete(key)) next.add(key)
      return next
    })
  return (
    <main className="px-3 pb-16 sm:px-6 print:p-0">
      <style>
        {paper === 'roll' ? '@page { size: 62mm 29mm; margin: 0 }' : '@page { size: A4; margin: 8mm 7mm }'}
      </style>
      <div className="no-print flex flex-wrap items-end gap-4 py-5">
        <div className="mr-auto">
          <h1 className="text-2xl">Labels</h1>
          <p className="text-dim">
            <Link className="link" to={`/jobs/${box.job_no}`}>
              Job {box.job_no}, {box.title}
            </Link>
            . The code on each opens its card.
          </p>
        </div>
        <div className="w-64">
          <Choice label="Printed on" value={paper} onChange={setPaper} options={PAPERS} />
        </div>
        <button className="press" disabled={printed.length === 0} onClick={() => print()}>
          Print {printed.length} {printed.length === 1 ? 'label' : 'labels'}
        </button>
      </div>
      <div className="grid gap-x-8 lg:grid-cols-[minmax(0,1fr)_22rem] print:block">
        <div
          className={paper === 'roll' ? 'labels-roll' : 'labels-sheet'}
          role="list"
          aria-label="Labels to print"
        >
          {printed.map((label) => (
            <OneLabel key={label.key} label={label} box={box} />
          ))}
          {printed.length === 0 && <p className="no-print">None is chosen.</p>}
        </div>
        <fieldset className="no-print">
          <legend className="text-lg font-bold">Which</legend>
          <ul>
            {all.map((label) => (
              <li key={label.key}>
                <label className="flex min-h-11 items-center gap-3">
                  <input
                    type="checkbox"
                    className="size-6 shrink-0"
                    checked={!off.has(label.key)}
                    onChange={() => turn(label.key)}
                  />
                  {label.name}
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
      </div>
    </main>
  )
}

function OneLabel({ label, box }: { label: Label; box: Box }) {
  return (
    <div role="listitem" className="label" aria-label={label.name}>
      <Code text={new URL(label.path, window.location.origin).href} of={label.name} />
      <div className="min-w-0">
        <p className="label-name">{label.name}</p>
        {label.lines.map((line) => (
          <p key={line}>{line}</p>
        ))}
        <p className="label-job">
          Job {box.job_no} · {box.title}
        </p>
      </div>
    </div>
  )
}

/** A code that a camera reads: an address of this program. */
function Code({ text, of }: { text: string; of: string }) {
  const { data, size } = useMemo(() => encode(text, { ecc: 'M', border: 2 }), [text])
  const dark = data.flatMap((row, y) => row.map((on, x) => (on ? `M${x} ${y}h1v1h-1z` : ''))).join('')
  return (
    <svg viewBox={`0 0 ${size} ${size}`} role="img" aria-label={`Code that opens ${of}`} data-opens={text}>
      <rect width={size} height={size} fill="#fff" />
      <path d={dark} fill="#000" />
    </svg>
  )
}
