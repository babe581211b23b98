import { FORMS_OF, type ViewForm, type ViewName } from './forms'
import { viewText, type View } from './view'
import { viewOf } from './view-of'
import { isWholeWords, wholeEnds, type WholeEnds } from './words'

/** A stretch of the original text, in UTF-16 units. */
export interface Span {
  start: number
  end: number
}

/** One form in which a phrase is sought. */
export interface PhraseKey {
  form: ViewForm
  key: string
  /** Counts only within letters that were spaced apart: the phrase without its spaces. */
  joinedOnly: boolean
}

/**
 * The keys under which a phrase is sought in a view: it passes the same transformation as the text. obfuscated it is
 * sought as the skeleton of its fold, and as the fold of the skeleton of its lower, Title and UPPER form.
 */
export function phraseKeys(phrase: string, view: ViewName): PhraseKey[] {
  const text = phrase.trim()
  const keys = new Map<string, PhraseKey>()
  for (const form of FORMS_OF[view]) {
    const written = form === 'fold of skeleton' ? [text.toLowerCase(), titled(text), text.toUpperCase()] : [text]
    for (const one of written) {
      const key = viewText(viewOf(one, form)).trim()
      if (!key) continue
      keys.set(`${form} ${key}`, { form, key, joinedOnly: false })
      const tight = key.replaceAll(' ', '')
      if (view === 'obfuscated' && tight !== key && tight.length >= 3)
        keys.set(`${form} joined ${tight}`, { form, key: tight, joinedOnly: true })
    }
  }
  return [...keys.values()]
}

function titled(text: string): string {
  return text.toLowerCase().replace(/(^|\s)(\S)/gu, (_, space: string, c: string) => space + c.toUpperCase())
}

/**
 * The stretch of the original from which units start..end of a view came; null where it would begin or end inside what
 * one original character became.
 */
export function sourceSpan(view: View, start: number, end: number): Span | null {
  const [from, to] = [view.startOf(start), view.startOf(end)]
  if (start > 0 && from === view.startOf(start - 1)) return null
  if (end < view.length && to === view.startOf(end - 1)) return null
  // Between joined letters stands the separator that was taken out; it is not part of the hit.
  return { start: from, end: to - (endsInsideJoined(view, end) ? 1 : 0) }
}

function endsInsideJoined(view: View, end: number): boolean {
  for (let i = 0; i < view.joined.length; i += 2) if (end > view.joined[i]! && end < view.joined[i + 1]!) return true
  return false
}

/** True if units start..end lie within letters that were spaced apart. */
export function liesJoined(view: View, start: number, end: number): boolean {
  for (let i = 0; i < view.joined.length; i += 2) if (start >= view.joined[i]! && end <= view.joined[i + 1]!) return true
  return false
}

/**
 * Every place where a key stands in a view, by a plain search: the oracle of the indexed one.
 * @param text the view's text
 * @param most stop after so many hits
 */
export function findKey(view: View, text: string, key: PhraseKey, whole: boolean, most: number): Span[] {
  const spans: Span[] = []
  const ends = wholeEnds(key.key, whole)
  for (let at = text.indexOf(key.key); at >= 0 && spans.length < most; at = text.indexOf(key.key, at + 1)) {
    const span = acceptSpan(view, at, at + key.key.length, key.joinedOnly, ends)
    if (span) spans.push(span)
  }
  return spans
}

/** The stretch of a hit at units start..end if it counts. */
export function acceptSpan(view: View, start: number, end: number, joinedOnly: boolean, ends: WholeEnds): Span | null {
  if (joinedOnly && !liesJoined(view, start, end)) return null
  const span = sourceSpan(view, start, end)
  return span && isWholeWords(view.source, span.start, span.end, ends) ? span : null
}

/** Splits what people type into phrases: one a line, or separated by commas; a comma inside "double quotes" stays. */
export function splitPhrases(text: string): string[] {
  const out = new Set<string>()
  for (const line of text.split(/\r?\n/)) for (const piece of splitLine(line)) if (piece) out.add(piece.replace(/\s+/gu, ' '))
  return [...out]
}

// A quoted piece is one that ends at a comma or at the end of the line; any other quotation mark is a character like others.
function* splitLine(line: string): Generator<string> {
  for (let at = 0; at < line.length;) {
    while (at < line.length && line[at]!.trim() === '') at++
    const close = line[at] === '"' ? line.indexOf('"', at + 1) : -1
    let end = close + 1
    while (close >= 0 && end < line.length && line[end]!.trim() === '') end++
    if (close >= 0 && (end === line.length || line[end] === ',')) {
      yield line.slice(at + 1, close).trim()
    }
    else {
      end = line.indexOf(',', at)
      if (end < 0) end = line.length
      yield line.slice(at, end).trim()
    }
    at = end + 1
  }
}
