// Lengths as shown. Stored figures are nanometres and never change; this only writes them down.
import type { Schemas, Unit } from './schema'
import { inSentence } from './words'

export const unitName: Record<Unit, string> = { thou: 'thou', mm: 'mm', um: 'µm' }
/** How many nanometres one of a unit is. */
export const nmOf = { thou: 25_400, mm: 1_000_000, um: 1_000, in: 25_400_000 } as const
const decimals: Record<Unit, number> = { thou: 1, mm: 3, um: 0 }

/** A measured length: as many decimals as a gauge can mean, no sign for preload. */
export const show = (nm: number, unit: Unit, extra = 0) => {
  const text = (nm / nmOf[unit]).toFixed(decimals[unit] + extra)
  return Number(text) === 0 ? text.replace('-', '') : text.replace('-', '−')
}

/** A stated length, such as a limit or a piece: without needless zeros. */
export const showStated = (nm: number, unit: Unit) => {
  const places = { thou: 2, mm: 4, um: 1 }[unit]
  let text = (nm / nmOf[unit]).toFixed(places)
  // Millimetres keep two decimals, as people write them: 1.10, not 1.1.
  text = unit === 'mm' ? text.replace(/0{1,2}$/, '') : String(Number(text))
  return text.replace('-', '−')
}

/** What is left and what is missing, by the kind of check: float is a shaft's, a pack has clearance. */
const SHAFT = { above: 'float', nil: 'nil', below: 'preload', tight: 'tight', loose: 'loose' }
const CLEARANCE = { above: 'clearance', below: 'tight' }
const WORDS: Partial<Record<Schemas['CheckKind'], Partial<typeof SHAFT>>> = {
  thrust_clearance: CLEARANCE,
  gear_side_clearance: CLEARANCE,
  clutch_pack_clearance: CLEARANCE,
  pinion_end_play: { ...CLEARANCE, above: 'end play' },
  retainer_pinch: { below: 'pinch' },
  selector_centring: { loose: 'too far' },
  selector_limits: {
    above: 'to spare',
    nil: 'on its limit',
    below: 'missing',
    tight: 'too little',
    loose: 'more',
  },
  seat_height: { above: 'proud', nil: 'flush', below: 'below', tight: 'low', loose: 'high' },
  pinion_height: { above: '', below: 'below', tight: 'low', loose: 'high' },
  backlash: { above: 'backlash', below: 'tight' },
  fit: { above: 'clearance', below: 'interference' },
}

export const kindWords = (kind?: Schemas['CheckKind']) => ({ ...SHAFT, ...(kind && WORDS[kind]) })

/** A clearance in words by its kind, such as float above nil and preload below, never with a minus sign; of a selector
 *  how far off the middle. */
export const clearance = (nm: number, unit: Unit, stated = false, kind?: Schemas['CheckKind']) => {
  const figure = stated ? showStated(Math.abs(nm), unit) : show(Math.abs(nm), unit)
  const nil = Number(figure) === 0
  const words = kindWords(kind)
  const word = nil ? words.nil : nm < 0 ? words.below : words.above
  return { figure, word: kind === 'selector_centring' ? 'off the middle' : word }
}

/** A window in words. */
export function windowWords(
  ends: { low_nm?: number | null; high_nm?: number | null } | null | undefined,
  unit: Unit,
  kind?: Schemas['CheckKind'],
) {
  if (kind === 'pass_fail') return 'yes or no by hand'
  if (!ends) return 'in newton metres'
  const { low_nm: low, high_nm: high } = ends
  const u = unitName[unit]
  const side = (nm: number) => {
    const { figure, word } = clearance(nm, unit, true, kind)
    return nm < 0 ? `${figure} ${u} ${word}` : `${figure} ${u}`
  }
  if (low == null && high != null) return `up to ${side(high)}`
  if (high == null && low != null) return `${side(low)} or more`
  if (low == null || high == null) return ''
  if (low < 0 && high <= 0)
    return `${showStated(-high, unit)} to ${showStated(-low, unit)} ${u} ${clearance(low, unit, true, kind).word}`
  if (low < 0) return `${side(low)} to ${side(high)}`
  return `${showStated(low, unit)} to ${side(high)}`
}

/** What was answered and what was measured, where both cannot be so. */
export const clashWords = (clash: Schemas['Clash'], unit: Unit) => {
  const words = (nm: number, stated: boolean) => {
    const { figure, word } = clearance(nm, unit, stated, clash.kind)
    return `${figure} ${unitName[unit]}${nm === 0 ? '' : ` ${word}`}`
  }
  const beyond = kindWords(clash.kind)[clash.tighter ? 'tight' : 'loose']
  return `They contradict each other: “${clash.proof}” was answered as it should be, and ${inSentence(clash.check)} is ${words(clash.clearance_nm, false)}, ${beyond} of the ${words(clash.limit_nm, true)} at which that could still be so. Look again at both.`
}

/** The window of a check, and whether it is only what the book's chart leaves. */
export const windowOf = (
  check: { window?: Parameters<typeof windowWords>[0]; kind: Schemas['CheckKind']; by_chart: boolean },
  unit: Unit,
) => `${check.by_chart ? 'by the chart, ' : ''}${windowWords(check.window, unit, check.kind)}`

export const percent = (chance: number) => {
  if (chance > 0.9995) return '> 99.9\u00a0%'
  if (chance < 0.0005) return '< 0.1\u00a0%'
  const pc = chance * 100
  return `${pc.toFixed(pc > 99 || pc < 1 ? 1 : 0)}\u00a0%`
}

// By hand: to make the browser's own formatter takes longer than all the rest of a first view's arithmetic.
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sept', 'Oct', 'Nov', 'Dec']
const two = (n: number) => String(n).padStart(2, '0')

export const dayText = (iso: string) => {
  const at = new Date(iso)
  return `${at.getDate()} ${MONTHS[at.getMonth()]} ${at.getFullYear()}`
}

/** The time of day. */
export const clockText = (iso: string) => {
  const at = new Date(iso)
  return `${two(at.getHours())}:${two(at.getMinutes())}`
}

export const whenText = (iso: string) => `${dayText(iso)}, ${clockText(iso)}`

/** How a piece's thickness is known, where it is not simply as marked. */
export const gradeWords: Record<Schemas['Grade'], string> = {
  marked: '',
  miked: 'measured',
  used: 'used, measured',
}

/** A stack of pieces: `2 × 0.15 + 0.50`. */
export function piecesText(
  pieces: { thickness_nm: number; count: number; grade?: Schemas['Grade'] }[],
  unit: Unit,
) {
  return pieces
    .map((p) => {
      const grade = gradeWords[p.grade ?? 'marked']
      const size = showStated(p.thickness_nm, unit) + (grade && ` (${grade})`)
      return (p.count > 1 ? `${p.count} × ` : '') + size
    })
    .join(' + ')
}
