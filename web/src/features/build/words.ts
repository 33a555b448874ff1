// The words of a build.
import type { Schemas } from '../../domain/schema'

export const waitWords: Record<Schemas['WaitKind'], { begin: string; end: string }> = {
  oven: { begin: 'It is in the oven', end: 'It is out of the oven' },
  freezer: { begin: 'It is in the freezer', end: 'It is out of the freezer' },
  soak: { begin: 'It soaks', end: 'It is soaked' },
  cure: { begin: 'It sets now', end: 'It is set' },
  cool: { begin: 'It cools now', end: 'It is cool' },
}

export function stageWords(stage: Schemas['sheet.Stage']) {
  switch (stage.to) {
    case 'seat':
      return 'seat'
    case 'torque':
      return `${stage.n_m} N·m`
    case 'back_off':
      return `back ${turns(stage.degrees)}`
    case 'angle':
      return `${stage.degrees}° further`
  }
}

/** An angle, in turns where it is more than half of one. */
const turns = (degrees: number) =>
  degrees % 90 === 0 && degrees >= 180 ? `${degrees / 360} turns` : `${degrees}°`

/** So many notches, and which way. */
export const notchWords = (notches: number) =>
  `${Math.abs(notches)} ${Math.abs(notches) === 1 ? 'notch' : 'notches'} ${notches > 0 ? 'on' : 'back'}`
