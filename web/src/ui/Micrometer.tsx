// Which micrometer a size was taken with, where the register has more than one.
import { useGauges } from '../api/queries'
import { Choice } from './Field'

interface Props {
  /** Its key; none while nobody has said, and the usual one is taken for it. */
  value: string | undefined
  onChange: (key: string) => void
}

export function Micrometer({ value, onChange }: Props) {
  const { data: gauges = [] } = useGauges()
  // The usual one stands first.
  const micrometers = gauges.filter((g) => g.kind === 'micrometer' && (!g.retired || g.gauge_key === value))
  if (micrometers.length < 2) return null
  return (
    <Choice
      label="Measured with"
      value={value ?? micrometers[0]?.gauge_key ?? ''}
      onChange={onChange}
      options={micrometers.map((g) => [g.gauge_key, g.name] as const)}
    />
  )
}
