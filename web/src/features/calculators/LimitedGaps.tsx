// Gaps of a selector with limits of their own: what each has to spare, and where the shims put one shaft or two best.
import { answer, server } from '../../api/client'
import { shimsWords } from '../../charts/Forks'
import { GapsThen, WaysToLay, movesWords } from '../../charts/LimitedGaps'
import { useBench } from '../../domain/session'
import { show, unitName } from '../../domain/units'
import { Field } from '../../ui/Field'
import { Working } from '../../ui/Parts'
import { Layout } from './Layout'
import { PutOnLog } from './PutOnLog'
import { AddRow, TakeOut, inOneField } from './Rows'
import { useFields, useSum } from './fields'

const START = [
  'dogs of second, engaged: 2.15; 1+; 2.40; ; 2',
  'behind the dogs of second: 0.95; 1-; 0.35; ; 1',
  'fork pad in its groove: 0.46; 1-; 0.08; 0.55; 1',
  'fourth in line with its mate: -0.12; 1+2-; -0.60; 0.60; 1',
  'dogs of fourth, engaged: 2.70; 2+; 2.40; ; 1',
  'behind the dogs of fourth: 0.55; 2-; 0.35; ; 1',
].join('\n')

const MOVES: [string, string][] = [
  ['1+', 'grows as shaft 1 moves left'],
  ['1-', 'shrinks as shaft 1 moves left'],
  ['2+', 'grows as shaft 2 moves left'],
  ['2-', 'shrinks as shaft 2 moves left'],
  ['1+2-', 'grows with shaft 1, shrinks with 2'],
  ['1-2+', 'shrinks with shaft 1, grows with 2'],
]

export function LimitedGaps() {
  const { unit } = useBench()
  const { fields, set } = useFields({
    gaps: START,
    left: '0.50 0.30 mm',
    right: '0.30 0.20 mm',
    left2: '0.40 mm',
    right2: '0.60 mm',
    drawer: '',
    tighter: '',
    looser: '',
  })
  const { data, error, fault } = useSum('limited-gaps', fields, (unit) =>
    answer(server.POST('/api/calc/limited-gaps', { body: { ...fields, unit } })),
  )
  const text = (name: keyof typeof fields, label: string, hint?: string) => (
    <Field label={label} hint={hint} value={fields[name]} onChange={set(name)} fault={fault(name)} />
  )
  const best = data?.ways[0]
  const u = unitName[unit]
  return (
    <Layout
      error={error}
      form={
        <>
          <Gaps text={fields.gaps} onChange={set('gaps')} fault={fault('gaps')} />
          {text('left', 'Shims at the left of shaft 1', 'With spaces between.')}
          {text('right', 'Shims at the right of shaft 1')}
          {text('left2', 'Shims at the left of shaft 2')}
          {text('right2', 'Shims at the right of shaft 2')}
          {text('drawer', 'Sizes in the drawer', 'Empty: only those that are in change ends.')}
          {text('tighter', 'A float may get less by', 'Empty: it stays what it is.')}
          {text('looser', 'A float may get more by')}
        </>
      }
    >
      {data && best && (
        <>
          <p className="text-2xl" aria-live="polite">
            <strong className="figure text-[3.2rem] leading-none" data-testid="spare">
              {show(Math.abs(best.worst_nm), unit)}
            </strong>{' '}
            {u} {best.worst_nm < 0 ? 'is missing at the worst gap' : 'to spare at the worst gap'}
          </p>
          <p className="mt-1">
            Weighted; as it is now{' '}
            {data.worst_now_nm < 0
              ? `${show(-data.worst_now_nm, unit)} is missing`
              : `${show(data.worst_now_nm, unit)} is to spare`}
            . {best.shafts.map((s, i) => `Shaft ${i + 1}: ${movesWords(s.shift_nm, unit)}`).join('; ')}.
          </p>
          <GapsThen gaps={data.gaps} />
          <WaysToLay ways={data.ways} />
          <Working lines={data.working} />
          <PutOnLog
            said={`Gaps with limits: ${best.shafts
              .map(
                (s, i) =>
                  `shaft ${i + 1} left ${shimsWords(s.left_nm, unit)}, right ${shimsWords(s.right_nm, unit)}`,
              )
              .join(
                '; ',
              )} ${u}; the worst has ${show(best.worst_nm, unit)} to spare, weighted, was ${show(data.worst_now_nm, unit)} ${u}.`}
          />
        </>
      )}
    </Layout>
  )
}

interface Row {
  name: string
  now: string
  moves: string
  least: string
  most: string
  weight: string
}

const read = (text: string): Row[] =>
  text.split('\n').map((line) => {
    const [name = '', rest = ''] = line.split(/:(.*)/s)
    const [now = '', moves = '', least = '', most = '', weight = ''] = rest.split(';').map((t) => t.trim())
    return { name, now, moves, least, most, weight }
  })

const written = (rows: Row[]) =>
  rows.map((r) => `${r.name}: ${[r.now, r.moves, r.least, r.most, r.weight].join('; ')}`).join('\n')

const FIGURES: [keyof Row, string][] = [
  ['now', 'Now'],
  ['least', 'From'],
  ['most', 'To'],
  ['weight', 'Weighs'],
]

/** The gaps as they are entered. */
function Gaps({ text, onChange, fault }: { text: string; onChange: (text: string) => void; fault?: string }) {
  const rows = read(text)
  const change = (i: number, part: Partial<Row>) =>
    onChange(written(rows.map((r, j) => (j === i ? { ...r, ...part } : r))))
  return (
    <fieldset className="mb-4">
      <legend className="font-semibold">Gaps, each with its limits</legend>
      <p className="text-sm text-dim">
        From and to may be left empty. A gap with no other stop weighs more: up to 10.
      </p>
      {rows.map((row, i) => (
        <div key={i} className="mt-2 border-l-4 border-line pl-2">
          <div className="grid grid-cols-[1fr_auto] gap-1">
            <input
              className="field px-2"
              aria-label={`Name, gap ${i + 1}`}
              value={row.name}
              maxLength={60}
              onChange={(e) => change(i, { name: inOneField(e.target.value) })}
            />
            <TakeOut
              what={`gap ${i + 1}`}
              disabled={rows.length === 1}
              onPress={() => onChange(written(rows.filter((_, j) => j !== i)))}
            />
          </div>
          <div className="mt-1 grid grid-cols-4 gap-1">
            {FIGURES.map(([part, label]) => (
              <label key={part} className="text-sm text-dim">
                {label}
                <input
                  className="field figure px-2 text-ink"
                  aria-label={`${label}, gap ${i + 1}`}
                  value={row[part]}
                  maxLength={20}
                  onChange={(e) => change(i, { [part]: inOneField(e.target.value) })}
                />
              </label>
            ))}
          </div>
          <select
            className="field mt-1"
            aria-label={`How gap ${i + 1} moves`}
            value={row.moves}
            onChange={(e) => change(i, { moves: e.target.value })}
          >
            {MOVES.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
        </div>
      ))}
      <AddRow
        fault={fault}
        onPress={() =>
          onChange(
            written([
              ...rows,
              { name: `gap ${rows.length + 1}`, now: '', moves: '1+', least: '0', most: '', weight: '' },
            ]),
          )
        }
      >
        Add a gap
      </AddRow>
    </fieldset>
  )
}
