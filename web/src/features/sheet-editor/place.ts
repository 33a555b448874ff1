// A place of a sheet in words.
import { at, type Sheet } from './draft'

const LIST: Record<string, string> = {
  shafts: 'shaft',
  parts: 'part',
  families: 'pieces',
  sizes: 'size',
  checks: 'check',
  build: 'step',
  variants: 'build',
  identify: 'question',
  answers: 'answer',
  windows: 'window for some builds',
  packs: 'pack',
  plates: 'plate',
  rows: 'row',
  ready: 'tick',
  adjustments: 'difference',
  stack: 'term',
  moved_by: 'moved by',
}
const FIELD: Record<string, string> = {
  key: 'short name',
  name: 'name',
  how: 'how to take it',
  gap_before: 'bare shaft before it',
  mates: 'its mate',
  between: 'where it is cut in',
  window: 'window',
  shop_window: 'the shop’s own window',
  set_by: 'set by',
  n_m: 'N·m',
}

/** `shaft Main shaft › part 3, First gear › width`. */
export function placeWords(sheet: Sheet, place: string): string {
  const tokens = place.split('/').slice(1)
  const words: string[] = []
  tokens.forEach((token, i) => {
    if (token === '') return
    if (/^\d+$/.test(token)) {
      const thing = at(sheet, `/${tokens.slice(0, i + 1).join('/')}`) as Record<string, unknown> | undefined
      const name = [thing?.name, thing?.what, thing?.tick, thing?.thickness].find(
        (n) => typeof n === 'string' && n !== '',
      )
      const list = LIST[tokens[i - 1] ?? ''] ?? tokens[i - 1] ?? ''
      words[words.length - 1] =
        `${list} ${Number(token) + 1}${typeof name === 'string' && name ? `, ${name}` : ''}`
    } else
      words.push(LIST[token] && i < tokens.length - 1 ? token : (FIELD[token] ?? token.replaceAll('_', ' ')))
  })
  return words.join(' › ') || 'the sheet'
}
