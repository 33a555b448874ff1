// A fit: the two diameters drawn, how they go together, and what can be done where the part is loose.
import { BoreAndPart } from '../../../charts/BoreAndPart'
import type { CheckView, Schemas } from '../../../domain/schema'
import { useBench } from '../../../domain/session'
import { percent, show, showStated, unitName } from '../../../domain/units'
import { Cautions, Working } from '../../../ui/Parts'

type Fit = NonNullable<CheckView['fit']>

export function FitPanel({ fit }: { fit: Fit }) {
  return (
    <>
      <div className="mt-3">
        <BoreAndPart {...fit} />
      </div>
      {fit.ways_out.length > 0 && (
        <div className="mt-4 border-l-4 border-brass bg-brass-soft px-3 py-2" data-testid="fit-ways-out">
          <p className="font-semibold">It is loose. What can be done:</p>
          <ul className="mt-1 list-disc pl-5">
            {fit.ways_out.map((way) => (
              <li key={way.kind} className="py-1">
                <Remedy way={way} />
              </li>
            ))}
          </ul>
        </div>
      )}
      {fit.heat && fit.ways_out.length === 0 && <Together heat={fit.heat} />}
    </>
  )
}

function Remedy({ way }: { way: Schemas['FitRemedy'] }) {
  const { unit } = useBench()
  const u = unitName[unit]
  switch (way.kind) {
    case 'compound':
      return (
        <>
          Retaining compound fills up to {showStated(way.up_to_nm, unit)} {u}: {percent(way.chance)} that this
          is no wider.
        </>
      )
    case 'other_part':
      return (
        <>
          Another part: {show(way.diameter_nm, unit)} {u} would be right in this bore.
        </>
      )
    case 'sleeve':
      return <>Bore it out and sleeve it; or another case.</>
  }
}

/** The temperatures that let the part drop in. */
function Together({ heat }: { heat: Schemas['Fitted'] }) {
  return (
    <section className="mt-4" aria-label="Putting it together">
      <h3 className="font-semibold">Putting it together</h3>
      {heat.bore_c == null ? (
        <p className="mt-1">It drops in cold.</p>
      ) : (
        <p className="mt-1" data-testid="drops-in">
          It drops in with the bore at <strong className="figure">{heat.bore_c.toFixed(0)} °C</strong>
          {heat.part_alone_c != null && (
            <>
              , or with the part at{' '}
              <strong className="figure">{heat.part_alone_c.toFixed(0).replace('-', '−')} °C</strong> in a
              bore at 20 °C
            </>
          )}
          .{heat.too_hot && ' That is hotter than a bearing may get: chill the part as well, or press it in.'}
        </p>
      )}
      <Working lines={heat.working} />
      <Cautions of={heat.cautions} />
    </section>
  )
}
