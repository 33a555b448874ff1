// Ratios from tooth counts, and the gear that a turn test names.
import { answer, server } from '../../api/client'
import { Labelled, Trouble, Working } from '../../ui/Parts'
import { Field } from '../../ui/Field'
import { PutOnLog } from './PutOnLog'
import { figureOf, useFields, useSum } from './fields'

const start = 'first 17:31 13:35\nsecond 17:31 19:29\nthird 17:31 26:24\nfourth\nreverse 17:31 14:36 back'

export function Ratios() {
  const { fields, set } = useFields({ gears: start, input: '', output: '', give: '0.03' })
  const input = figureOf(fields.input)
  const output = figureOf(fields.output)
  const give = figureOf(fields.give)
  const bad = Object.entries({ input, output, give }).find(([, value]) => Number.isNaN(value))?.[0]
  const { data, error, fault } = useSum('ratios', fields, () =>
    answer(
      server.POST('/api/calc/ratios', {
        body: {
          gears: fields.gears,
          input_turns: bad ? null : input,
          output_turns: bad ? null : output,
          give: bad ? null : give,
        },
      }),
    ),
  )
  const turns = (name: string, field: string) =>
    bad === name ? 'Turns are a figure, such as 0.26.' : fault(field)
  const named = data?.test ? data.ratios[data.test.gear] : undefined
  const tested = input !== null && output !== null && !bad
  return (
    <div className="grid gap-x-10 lg:grid-cols-[24rem_1fr]">
      <form onSubmit={(e) => e.preventDefault()}>
        <Labelled
          label="Gears, one a line"
          hint="Name, then driver:driven in the order of the drive; “back” where it turns backwards; a name alone is direct."
          error={fault('gears')}
        >
          {(id) => (
            <textarea
              id={id}
              className="field figure h-auto py-2"
              rows={8}
              value={fields.gears}
              spellCheck={false}
              onChange={(e) => set('gears')(e.target.value)}
            />
          )}
        </Labelled>
        <Field
          label="Input turned, turns"
          value={fields.input}
          onChange={set('input')}
          fault={turns('input', 'input_turns')}
        />
        <Field
          label="Output turned, turns"
          hint="Backwards with a minus."
          value={fields.output}
          onChange={set('output')}
          fault={turns('output', 'output_turns')}
        />
        <Field
          label="Give or take, output turns"
          value={fields.give}
          onChange={set('give')}
          fault={turns('give', 'give')}
        />
      </form>
      <section aria-label="Answer">
        {error && !error.problem.field && <Trouble error={error} />}
        {data && tested && (
          <p className="mb-3 text-2xl" aria-live="polite" data-testid="named">
            {named ? (
              <>
                It is in <strong>{named.name}</strong>
                {data.test?.sure ? '.' : ', or in another that turns as near: turn it further to tell.'}
              </>
            ) : (
              <strong>No gear of these turns so: count again, or it is between gears.</strong>
            )}
          </p>
        )}
        {data && (
          <>
            <table className="w-full">
              <caption className="sr-only">Ratios</caption>
              <thead>
                <tr>
                  <th className="th">Gear</th>
                  <th className="th text-right">Ratio</th>
                  <th className="th text-right">Output for one turn</th>
                  <th className="th">Working</th>
                </tr>
              </thead>
              <tbody>
                {data.ratios.map((r, i) => (
                  <tr key={i} className={r === named ? 'bg-blue-soft' : ''}>
                    <td className="td font-bold">{r.name}</td>
                    <td className="td figure text-right text-xl font-semibold">{r.ratio.toFixed(3)}</td>
                    <td className="td figure text-right">
                      {r.output_turns.toFixed(3).replace('-', '')}
                      {r.output_turns < 0 && <span className="block font-sans text-sm">backwards</span>}
                    </td>
                    <td className="td">
                      <Working lines={r.working} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <PutOnLog
              said={
                named && tested
                  ? `Turn test: input ${fields.input}, output ${fields.output} turns: ${named.name}.`
                  : `Ratios: ${data.ratios.map((r) => `${r.name} ${r.ratio.toFixed(3)}`).join(', ')}.`
              }
            />
          </>
        )}
      </section>
    </div>
  )
}
