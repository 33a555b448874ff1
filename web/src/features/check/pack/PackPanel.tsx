// The clutch pack of a check: as the sheet has it, and laid out plate by plate with what is wrong told at once.
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, server } from '../../../api/client'
import type { CheckView, Schemas } from '../../../domain/schema'
import { PLATE_KINDS, PackStack, plateName } from '../../../charts/PackStack'
import { forget, keep, keptJson, useBench } from '../../../domain/session'
import { showStated, unitName, whenText } from '../../../domain/units'
import type { Acting } from '../acting'
import { LaidPlates } from './LaidPlates'

type Kind = Schemas['PartKind']
type Pack = NonNullable<CheckView['pack']>

export function PackPanel({ check, act }: { check: CheckView; act: Acting }) {
  const { pack } = check
  const [laying, setLaying] = useState(() => keptDraft(check) !== null)
  if (!pack) return null
  const { laid } = pack
  // As it lies, where that is not as on the sheet.
  const otherwise = laid && laid.plates.join() !== pack.drawn.plates.map((p) => p.kind).join()
  return (
    <section
      aria-label="Clutch pack"
      className="check-pack far min-w-0 border-b border-line px-3 py-5 sm:px-6"
    >
      <h2 className="text-lg">{pack.drawn.name}, from the piston outwards</h2>
      <div className="mt-2 max-w-5xl">
        <PackStack pack={pack.drawn} />
      </div>
      {check.rule && <Rule check={check} pack={pack} />}
      {laid ? (
        <div className="mt-2">
          <p>
            Laid out {laid.soaked ? 'with soaked frictions' : 'dry'} by {laid.who}, {whenText(laid.at)}
            {laid.springs != null && `, ${laid.springs} return springs`}
            {laid.faults.length === 0 ? ': as the sheet has it.' : '.'}
          </p>
          {otherwise && (
            <div className="mt-2 max-w-5xl">
              <h3 className="text-base">As it is laid</h3>
              <PackStack pack={laid.drawn} faults={laid.faults} />
            </div>
          )}
          <Faults of={laid.faults} />
        </div>
      ) : (
        <p className="mt-2 font-semibold">Not laid out yet: count the plates before measuring.</p>
      )}
      {check.allowed.lay &&
        (laying ? (
          <LayOut check={check} pack={pack} act={act} onDone={() => setLaying(false)} />
        ) : (
          <button className="press-quiet mt-3" onClick={() => setLaying(true)}>
            {laid ? 'Lay it out again' : 'Lay it out'}
          </button>
        ))}
    </section>
  )
}

function Rule({ check, pack }: { check: CheckView; pack: Pack }) {
  const { unit } = useBench()
  const { thumb, frictions } = pack.drawn
  return (
    <p className="mt-2 border-l-4 border-brass bg-brass-soft px-3 py-2">
      <strong>No book gives this window:</strong> {check.rule}.
      {thumb &&
        ` By rule of thumb, ${frictions} frictions would have about ${showStated(thumb.at_nm, unit)} ${unitName[unit]}.`}
    </p>
  )
}

function Faults({ of }: { of: Schemas['PackFault'][] }) {
  if (of.length === 0) return null
  return (
    <div role="alert">
      <ul className="mt-1">
        {of.map((f, i) => (
          <li key={i} className="font-semibold text-oxide">
            △ {f.plate != null ? `Plate ${f.plate + 1}: ` : ''}
            {f.message}.
          </li>
        ))}
      </ul>
    </div>
  )
}

/** What is laid and not kept yet, over a reload. */
interface Draft {
  plates: Kind[]
  soaked: boolean | null
  springs: string
}

const draftName = (check: CheckView) => `pack.${check.job_no}.${check.check_key}`

function keptDraft(check: CheckView): Draft | null {
  const found = keptJson(draftName(check)) as Partial<Draft> | null
  if (!Array.isArray(found?.plates)) return null
  return { plates: found.plates, soaked: found.soaked ?? null, springs: found.springs ?? '' }
}

/** Plates are pressed in as they are laid in. */
function LayOut({
  check,
  pack,
  act,
  onDone,
}: {
  check: CheckView
  pack: Pack
  act: Acting
  onDone: () => void
}) {
  const [draft, setDraft] = useState<Draft>(
    () => keptDraft(check) ?? { plates: [], soaked: null, springs: '' },
  )
  const [at, setAt] = useState<number | null>(null)
  const put = (part: Partial<Draft>) => {
    const next = { ...draft, ...part }
    setDraft(next)
    keep(draftName(check), JSON.stringify(next))
  }
  const leave = () => {
    forget(draftName(check))
    onDone()
  }
  const { plates, soaked, springs } = draft
  const sheet = pack.drawn.plates.map((p) => p.kind)
  // While plates are still to come, only what is wrong with those that lie there is said.
  const whole = plates.length >= sheet.length
  const { data: drawn } = useQuery({
    queryKey: ['laid', check.job_no, check.check_key, plates],
    enabled: plates.length > 0,
    placeholderData: (before) => before,
    queryFn: () =>
      answer(
        server.POST('/api/jobs/{job_no}/checks/{check_key}/pack/drawn', {
          params: { path: { job_no: check.job_no, check_key: check.check_key } },
          body: { plates },
        }),
      ),
  })
  const shown = plates.length === 0 ? [] : (drawn?.faults ?? []).filter((f) => whole || f.plate != null)
  const used = PLATE_KINDS.filter(([kind]) => sheet.includes(kind))
  const next = sheet[plates.length]
  const count = Number(springs)
  const badSprings = springs.trim() !== '' && !(Number.isInteger(count) && count >= 0 && count <= 200)
  const add = (kind: Kind) => {
    const where = at === null ? plates.length : at + 1
    put({ plates: plates.toSpliced(where, 0, kind) })
    if (at !== null) setAt(where)
  }
  return (
    <div className="mt-3 max-w-5xl border-2 border-ink p-3" role="group" aria-label="Lay the pack out">
      <p>
        {at === null ? (
          <>
            Press each plate as you lay it in, the piston’s side first.
            {next && (
              <>
                {' '}
                Plate {plates.length + 1} of {sheet.length} on the sheet: <strong>{plateName(next)}</strong>.
              </>
            )}
          </>
        ) : (
          <>
            What you press now goes in after plate {at + 1}.{' '}
            <button type="button" className="link min-h-11" onClick={() => setAt(null)}>
              At the end again
            </button>
          </>
        )}
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        {used.map(([kind, name]) => (
          <button key={kind} type="button" className="press-quiet" onClick={() => add(kind)}>
            + {name}
          </button>
        ))}
      </div>
      <LaidPlates
        plates={plates}
        faulty={shown.flatMap((f) => f.plate ?? [])}
        at={at}
        onAt={setAt}
        onChange={(plates) => put({ plates })}
      />
      {drawn && plates.length > 0 && <PackStack pack={drawn} faults={shown} />}
      <Faults of={shown} />
      <div className="mt-3 flex flex-wrap items-end gap-4">
        <fieldset>
          <legend className="font-semibold">Frictions are</legend>
          {(
            [
              [true, 'soaked'],
              [false, 'dry'],
            ] as const
          ).map(([value, name]) => (
            <label key={name} className="mr-4 inline-flex min-h-12 items-center gap-2">
              <input
                type="radio"
                name="soaked"
                className="size-6"
                checked={soaked === value}
                onChange={() => put({ soaked: value })}
              />
              {name}
            </label>
          ))}
        </fieldset>
        {pack.springs != null && (
          <label>
            <span className="block font-semibold">Return springs fitted, of {pack.springs}</span>
            <input
              className="field figure w-32"
              inputMode="numeric"
              value={springs}
              onChange={(e) => put({ springs: e.target.value })}
            />
            {badSprings && (
              <span role="alert" className="block font-semibold text-oxide">
                Whole springs, such as {pack.springs}.
              </span>
            )}
          </label>
        )}
        <button
          type="button"
          className="press"
          disabled={plates.length === 0 || soaked === null || badSprings || act.isPending}
          onClick={() =>
            act.mutate(
              {
                act: 'lay',
                plates,
                soaked: soaked ?? false,
                springs: springs.trim() === '' ? null : count,
              },
              { onSuccess: leave },
            )
          }
        >
          Keep as laid
        </button>
        <button type="button" className="press-quiet" onClick={leave}>
          Leave it
        </button>
      </div>
    </div>
  )
}
