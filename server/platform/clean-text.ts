/** What PostgreSQL accepts as text: without U+0000, lone surrogates replaced. */
export function cleanText(text: string): string {
  const wellFormed = text.isWellFormed() ? text : text.toWellFormed()
  return wellFormed.includes('\0') ? wellFormed.replaceAll('\0', '\uFFFD') : wellFormed
}

// As JSON writes what must not be stored: U+0000, and surrogates that stand alone.
const UNCLEAN = /\\u(?:0000|d[89a-f])/

/** The same for every string inside a JSON value. */
export function cleanJson<T>(value: T): T {
  return UNCLEAN.test(JSON.stringify(value) ?? '') ? cleaned(value) : value
}

function cleaned<T>(value: T): T {
  if (typeof value === 'string') return cleanText(value) as T
  if (Array.isArray(value)) return value.map(v => cleaned(v as unknown)) as T
  if (value && typeof value === 'object')
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [cleanText(k), cleaned(v as unknown)])) as T
  return value
}

const INDEXED = 500

/** Clean text cut to what an index key may hold. */
export function indexKey(text: string): string {
  return cleanText(text.length > INDEXED ? text.slice(0, INDEXED) : text)
}
