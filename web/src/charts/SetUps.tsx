// Known shims: each set-up with what it gives, kept whether or not they agree.
import type { Schemas } from '../domain/schema'
import { useBench } from '../domain/session'
import { clearance, show, showStated, unitName } from '../domain/units'

export function SetUps({ setUps }: { setUps: Schemas['SetUp'][] }) {
  const { unit } = useBench()
  return (
    <table className="mt-4 w-full">
      <caption className="pb-1 text-left font-semibold">Set-ups, {unitName[unit]}</caption>
      <thead>
        <tr>
          <th className="th">Shim in</th>
          <th className="th text-right">Float felt</th>
          <th className="th text-right">So without</th>
        </tr>
      </thead>
      <tbody>
        {setUps.map((s) => {
          const c = clearance(s.gives_nm, unit)
          return (
            <tr key={s.shim_nm}>
              <td className="td figure">{s.shim_nm === 0 ? 'none' : showStated(s.shim_nm, unit)}</td>
              <td className="td figure text-right">{show(s.float_nm, unit)}</td>
              <td className="td figure text-right">
                {s.at_most ? 'at most ' : ''}
                {c.figure} {c.word === 'nil' ? '' : c.word}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}
