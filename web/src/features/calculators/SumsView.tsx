// The sums of the bench that need no job, each with its working; the figures live in the address.
import { NavLink, useParams } from 'react-router'
import { useTitle } from '../../ui/title'
import { Centring } from './Centring'
import { HeatFit } from './HeatFit'
import { Hot } from './Hot'
import { KnownShim } from './KnownShim'
import { LimitedGaps } from './LimitedGaps'
import { Piece } from './Piece'
import { Pinch } from './Pinch'
import { Ratios } from './Ratios'
import { Rollers } from './Rollers'
import { Stack } from './Stack'
import { Torque } from './Torque'
import { Units } from './Units'

const sums = [
  ['piece', 'Piece wanted', Piece],
  ['known-shim', 'Known shim', KnownShim],
  ['pinch', 'Retainer pinch', Pinch],
  ['stack', 'Stack sum', Stack],
  ['hot', 'Hot and cold', Hot],
  ['centring', 'Selector centring', Centring],
  ['limited-gaps', 'Dogs, forks and pads', LimitedGaps],
  ['needle-rows', 'Needle rows', Rollers],
  ['ratios', 'Ratios and the turn test', Ratios],
  ['heat-fit', 'Heat and chill fit', HeatFit],
  ['torque', 'Torque', Torque],
  ['units', 'Units', Units],
] as const

export function SumsView() {
  const { sum } = useParams()
  const [key, name, Sum] = sums.find(([key]) => key === sum) ?? sums[0]
  useTitle(`${name}, sums`)
  return (
    <main className="mx-auto max-w-[90rem] px-3 pb-16 sm:px-6">
      <nav aria-label="Sums" className="no-print flex flex-wrap gap-x-2 border-b border-line py-2">
        {sums.map(([to, label]) => (
          <NavLink
            key={to}
            to={`/sums/${to}`}
            aria-current={to === key ? 'page' : undefined}
            className={`inline-flex min-h-12 items-center px-2 ${to === key ? 'font-bold underline decoration-2 underline-offset-8' : ''}`}
          >
            {label}
          </NavLink>
        ))}
      </nav>
      <h1 className="py-5 text-3xl">{name}</h1>
      <Sum key={key} />
    </main>
  )
}
