/** A header as somebody copied it out of a program, which may have copied more than the header. */
export interface PastedHeader {
  /** The lines that are header fields (RFC 5322 2.2), with CRLF; the empty line after them is not part of it. */
  header: string
  /** Lines among them that are none: the caption of a button, a line that lost its indentation. Numbered from 1. */
  unread: { line: number, text: string }[]
  /** So many lines with text come after the empty line that ends the header (RFC 5322 2.1). */
  below: number
}

const FIELD = /^[!-9;-~]+[ \t]*:/

/** Takes the header fields out of a pasted text. Any text is read; what is left of it is named. */
export function readPastedHeader(pasted: string): PastedHeader {
  const lines = pasted.split(/\r\n|\r|\n/)
  const fields: string[] = []
  const unread: PastedHeader['unread'] = []
  let wasField = false
  for (const [i, line] of lines.entries()) {
    if (!line.trim()) {
      if (!fields.length) continue
      return { header: fields.join('\r\n'), unread, below: lines.slice(i).filter(l => l.trim()).length }
    }
    const continues: boolean = /^[ \t]/.test(line) && wasField
    wasField = continues || FIELD.test(line)
    if (wasField) fields.push(line)
    else unread.push({ line: i + 1, text: line.trim() })
  }
  return { header: fields.join('\r\n'), unread, below: 0 }
}
