import type { Content, Segment } from '../message'
import { viewOf, viewText, type View } from '../text'

/** How words are compared: as they are written, or through look-alike letters, digits for letters, and letters spaced apart. */
export type WordView = 'plain' | 'obfuscated'

/** A word of a message. */
export interface SpokenWord {
  /** What it is compared by. */
  key: string
  /** As it is written, in small letters. */
  text: string
}

/** Words that nothing but white space parts: they can be sought as one phrase. */
export interface WordRun {
  words: SpokenWord[]
  /** They are from the subject. */
  subject: boolean
}

/** Of a message what its writer says: only subject and own text are looked at. */
export type Said = Pick<Content, 'segments'>

const RUN = /[\p{L}\p{N}\p{M}'’-]+(?:\s+[\p{L}\p{N}\p{M}'’-]+)*/gu
// Of the two forms of this view the one in which a digit nought is a letter.
const FORM = { plain: 'plain', obfuscated: 'fold of skeleton' } as const

/**
 * The words of a message’s subject and its writer’s own text, in runs.
 * @param most so many characters are looked at, from the beginning
 */
export function wordRuns({ segments }: Said, view: WordView, most: number): WordRun[] {
  const out: WordRun[] = []
  let left = most
  for (const segment of segments) {
    if (!isLookedAt(segment) || left <= 0) continue
    const source = segment.text.slice(0, left)
    left -= source.length
    const seen = viewOf(source, FORM[view])
    for (const { 0: run, index } of viewText(seen).matchAll(RUN))
      out.push({ words: wordsOf(run, { seen, index, view }), subject: segment.place === 'subject' })
  }
  return out
}

function isLookedAt({ place }: Segment): boolean {
  return place === 'subject' || place === 'own'
}

function wordsOf(run: string, { seen, index, view }: { seen: View, index: number, view: WordView }): SpokenWord[] {
  if (view === 'plain') return run.split(/\s+/).map(text => ({ key: text, text }))
  const out: SpokenWord[] = []
  for (const { 0: key, index: at } of run.matchAll(/\S+/g)) {
    const from = index + at
    const written = seen.source.slice(seen.startOf(from), seen.startOf(from + key.length)).trim()
    // A mark at the end of a sentence is a letter to this view, and none to a reader.
    let end = written.length
    while (end > 0 && '!$'.includes(written[end - 1]!)) end--
    if (end) out.push({ key: key.slice(0, key.length - (written.length - end)), text: together(written.slice(0, end)) })
  }
  return out
}

// Letters spaced apart: what reads as one word is written as one.
function together(written: string): string {
  const letters = /^\S(?:[ .\-_*,/|]\S)+$/u.test(written) ? written.replaceAll(/[ .\-_*,/|]/g, '') : written
  return viewText(viewOf(letters, 'plain'))
}
