/** A name within a sentence: its first letter small, unless it is an abbreviation or a number ("ATF pump" stays). */
export const inSentence = (name: string) =>
  /^\p{Lu}(?:\p{Ll}|\s|$)/u.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name

/** Where a figure lies that is as it should be: a rule of thumb is no window, however well it is kept. */
export const inside = (check: { rule: string; by_chart: boolean }) =>
  check.by_chart ? 'as the chart has it' : check.rule ? 'about what the rule asks' : 'in the window'

/** A sentence begins with it. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

/** Names one after another within a sentence. */
export const allInSentence = (names: string[]) => names.map(inSentence).join(', ')

/** Letters that no accent comes off. */
const BARRED: Record<string, string> = { ø: 'o', ł: 'l', đ: 'd' }

/** A text as it is searched for: small letters without accents, as the server searches. */
export const plain = (text: string) =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[øłđ]/g, (letter) => BARRED[letter] ?? letter)

/** Whether a text has each of these words somewhere, whatever their accents and capitals. */
export function hasWords(text: string, words: string) {
  const searched = plain(text)
  return plain(words)
    .split(/\s+/)
    .every((word) => searched.includes(word))
}
