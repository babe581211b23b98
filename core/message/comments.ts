/** Takes comments out, nested ones too (RFC 5322 3.2.2); a comment leaves one space. */
export function withoutComments(text: string): string {
  let out = ''
  let depth = 0
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text[i]!
    if (c === '\\' && (quoted || depth)) {
      if (!depth) out += text.slice(i, i + 2)
      i++
    }
    else if (!depth && c === '"') {
      quoted = !quoted
      out += c
    }
    else if (!quoted && c === '(') {
      if (depth++ === 0) out += ' '
    }
    else if (!quoted && c === ')' && depth) {
      depth--
    }
    else if (!depth) {
      out += c
    }
  }
  return out
}

/** Splits at a separator that stands outside quoted strings. */
export function splitOutsideQuotes(text: string, by: string): string[] {
  const out: string[] = []
  let start = 0
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '\\' && quoted) i++
    else if (text[i] === '"') quoted = !quoted
    else if (text[i] === by && !quoted) {
      out.push(text.slice(start, i))
      start = i + 1
    }
  }
  out.push(text.slice(start))
  return out
}
