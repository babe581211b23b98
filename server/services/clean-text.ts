/** What PostgreSQL accepts as text: without U+0000, lone surrogates replaced. */
export function cleanText(text: string): string {
  const wellFormed = text.isWellFormed() ? text : text.toWellFormed()
  return wellFormed.includes('\0') ? wellFormed.replaceAll('\0', '\uFFFD') : wellFormed
}

/** The same for every string inside a JSON value. */
export function cleanJson<T>(value: T): T {
  if (typeof value === 'string') return cleanText(value) as T
  if (Array.isArray(value)) return value.map(v => cleanJson(v as unknown)) as T
  if (value && typeof value === 'object') return Object.fromEntries(Object.entries(value).map(([k, v]) => [cleanText(k), cleanJson(v as unknown)])) as T
  return value
}

const INDEXED = 500

/** Clean text cut to what an index key may hold. */
export function indexKey(text: string): string {
  return cleanText(text.length > INDEXED ? text.slice(0, INDEXED) : text)
}
