/**
 * Reads a tag list (RFC 6376 3.2), as DKIM signatures, DKIM keys and DMARC records have them: "a=1; b=2". White space around names and
 * values is taken off.
 * @param skipMalformed what is no tag is passed over (RFC 7489 6.3)
 * @returns null where a tag is malformed or comes twice: such a list is not valid
 */
export function readTags(text: string, { skipMalformed = false } = {}): Map<string, string> | null {
  const tags = new Map<string, string>()
  const pieces = text.split(';')
  if (pieces.at(-1)!.trim() === '') pieces.pop() // after the last semicolon
  for (const piece of pieces) {
    const equals = piece.indexOf('=')
    const name = piece.slice(0, Math.max(0, equals)).trim()
    const isTag = /^[a-z]\w*$/i.test(name)
    if (!isTag && skipMalformed) continue
    if (!isTag || tags.has(name)) return null
    tags.set(name, piece.slice(equals + 1).trim())
  }
  return tags
}

/** A value without its white space, as in b= and h=. */
export function unfolded(value: string): string {
  return value.replace(/\s+/g, '')
}
