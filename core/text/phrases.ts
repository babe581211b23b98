import { plainView, type View } from './view'
import { isWholeWords } from './words'

/** A stretch of the original text, in UTF-16 units. */
export interface Span {
  start: number
  end: number
}

/** A phrase in the form in which it is sought: white space at its ends does not count. */
export function phraseKey(phrase: string): string {
  return plainView(phrase.trim()).text
}

/**
 * Every place where a phrase stands in a view, mapped back to the original text. A phrase is literal: `?` and brackets
 * match themselves; a space in it matches any run of white space. A hit must not begin or end inside what one original
 * character became.
 * @param most stop after so many hits
 */
export function findPhrase(view: View, key: string, whole: boolean, most = 20): Span[] {
  const spans: Span[] = []
  if (!key) return spans
  for (let at = view.text.indexOf(key); at >= 0 && spans.length < most; at = view.text.indexOf(key, at + 1)) {
    const span = sourceSpan(view, at, at + key.length)
    if (span && (!whole || isWholeWords(view.source, span.start, span.end))) spans.push(span)
  }
  return spans
}

function sourceSpan(view: View, start: number, end: number): Span | null {
  if (start > 0 && view.starts[start] === view.starts[start - 1]) return null
  if (end < view.text.length && view.ends[end] === view.ends[end - 1]) return null
  return { start: view.starts[start]!, end: view.ends[end - 1]! }
}

/** Splits what people type into phrases: one a line, or separated by commas; a comma inside "double quotes" stays. */
export function splitPhrases(text: string): string[] {
  const out: string[] = []
  for (const line of text.split(/\r?\n/)) {
    // A quoted piece is one that ends at a comma or at the end of the line; any other quote is a character like others.
    for (const [, quoted, plain] of line.matchAll(/\s*(?:"([^"]*)"\s*(?:,|$)|([^,]+)(?:,|$)|,)/g)) {
      const phrase = (quoted ?? plain ?? '').trim().replace(/\s+/gu, ' ')
      if (phrase && !out.includes(phrase)) out.push(phrase)
    }
  }
  return out
}
