/**
 * Reads a tag list (RFC 6376 3.2), as DKIM signatures, DKIM keys and DMARC records have them: "a=1; b=2". White space around names and
 * values is taken off.
 * @returns null where a tag has no name or comes twice: such a list is not valid
 */
export function readTags(text: string): Map<string, string> | null {
  const tags = new Map<string, string>()
  const pieces = text.split(';')
  for (const [i, piece] of pieces.entries()) {
    const equals = piece.indexOf('=')
    const name = piece.slice(0, Math.max(0, equals)).trim()
    if (equals < 0 && piece.trim() === '' && i === pieces.length - 1) break // after the last semicolon
    if (!/^[a-z]\w*$/i.test(name) || tags.has(name)) return null
    tags.set(name, piece.slice(equals + 1).trim())
  }
  return tags
}

/** A value without its white space, as in b= and h=. */
export function unfolded(value: string): string {
  return value.replace(/\s+/g, '')
}
