import type { Schemas } from '../api/client'

type Kind = Schemas['GaugeKind']

export const kindName: Record<Kind, string> = {
  dial: 'Indicators',
  depth: 'Depth gauges',
  micrometer: 'Micrometers',
  feeler: 'Feeler sets',
  torque_wrench: 'Torque wrenches',
  spring_scale: 'Spring scales',
}

export const oneOf: Record<Kind, string> = {
  dial: 'indicator',
  depth: 'depth gauge',
  micrometer: 'micrometer',
  feeler: 'feeler set',
  torque_wrench: 'torque wrench',
  spring_scale: 'spring scale',
}
