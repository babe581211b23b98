/** A typed search, as it is read. */
export interface SearchTerms {
  /** Text of which each word is sought, or one that begins so. */
  words: string
  /** Texts in quotes: their words are sought one after the other, as they are. */
  quoted: string[]
}

/** By which quotation marks a text begins, and by which it ends. */
const ENDS: Record<string, string> = { '"': '"', '“': '”', '„': '“”', '«': '»' }

/** Reads a search: words, and texts in quotes, all of which a message must have. A quote that is never closed is none. */
export function searchTerms(text: string): SearchTerms {
  const quoted: string[] = []
  let words = ''
  let open: { at: number, ends: string } | null = null
  for (let i = 0; i < text.length; i++) {
    const character = text[i]!
    if (open?.ends.includes(character)) {
      const inside = text.slice(open.at + 1, i).trim().replace(/\s+/g, ' ')
      if (inside) quoted.push(inside)
      words += ' '
      open = null
    }
    else if (!open && ENDS[character]) open = { at: i, ends: ENDS[character] }
    else if (!open) words += character
  }
  return { words: `${words}${open ? text.slice(open.at + 1) : ''}`.trim(), quoted }
}
