/** A name within a sentence: its first letter small, unless it is an abbreviation or a number ("ATF pump" stays). */
export const inSentence = (name: string) =>
  /^\p{Lu}(?:\p{Ll}|\s|$)/u.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name

/** Names one after another within a sentence. */
export const allInSentence = (names: string[]) => names.map(inSentence).join(', ')

/** A text as it is searched for: small letters without accents. */
export const plain = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
