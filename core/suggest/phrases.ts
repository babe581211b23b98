import { dan, deu, eng, fra, ita, nld, por, spa, swe } from 'stopword'
import type { Content, Segment } from '../message'
import { viewOf, viewText } from '../text'
import { logOdds } from './log-odds'

const MAX_WORDS = 5
/** Characters of a message in which is looked; what many share stands at its beginning. */
const MAX_TEXT = 8000
const MAX_GRAMS = 4000
/** Nearly all: of ten examples one may lack it. */
const NEARLY = 0.9

/** What more of the other mail has says nothing of the examples. */
const MAX_OTHER_SHARE = 0.2

/** A phrase that examples share. */
export interface SharedPhrase {
  text: string
  /** So many of the examples have it. */
  of: number
  /** How much more it belongs to them than to the rest: see `logOdds`. */
  score: number
}

interface Position {
  /** It stands in the subject. */
  subject: boolean
  words: number
  at: number
}

// Words that nothing but white space parts can be sought as one phrase.
const RUN = /[\p{L}\p{N}\p{M}'’-]+(?:\s+[\p{L}\p{N}\p{M}'’-]+)*/gu

/** The phrases of up to five words of a message’s subject and its writer’s own text, as they are compared; where each stands first. */
export function phrasesOf({ segments }: Pick<Content, 'segments'>): Map<string, Position> {
  const out = new Map<string, Position>()
  let left = MAX_TEXT
  for (const segment of segments) {
    if (!isLookedAt(segment) || left <= 0) continue
    const text = viewText(viewOf(segment.text.slice(0, left), 'plain'))
    left -= text.length
    for (const [run] of text.matchAll(RUN)) addRun(run.split(/\s+/), segment.place === 'subject', out)
  }
  return out
}

function isLookedAt({ place }: Segment): boolean {
  return place === 'subject' || place === 'own'
}

function addRun(words: readonly string[], subject: boolean, out: Map<string, Position>): void {
  for (let i = 0; i < words.length; i++)
    for (let n = 1; n <= MAX_WORDS && i + n <= words.length; n++) {
      const text = words.slice(i, i + n).join(' ')
      const there = out.get(text)
      if (!there) out.set(text, { subject, words: n, at: out.size })
      else if (subject) there.subject = true
    }
}

// "the", "your", "und": in any of these languages a phrase of such words alone is found in all kinds of mail.
const STOP_WORDS = new Set([dan, deu, eng, fra, ita, nld, por, spa, swe].flat())

/** Whether a phrase says anything: some letters, and not stop words only. */
function says(text: string): boolean {
  if (text.split(' ').every(word => STOP_WORDS.has(word))) return false
  return text.length <= 80 && /\p{L}{3}/u.test(text) && /^[\p{L}\p{N}]/u.test(text) && /[\p{L}\p{N}]$/u.test(text)
}

/**
 * At most three phrases that all examples, or nearly all, share, the ones first that are rarest elsewhere. None contains another.
 * @param otherMail of the same recipients, against which they are held
 */
export function sharedPhrases(
  examples: readonly Pick<Content, 'segments'>[],
  otherMail: readonly Pick<Content, 'segments'>[],
  most = 3,
): SharedPhrase[] {
  if (!examples.length) return []
  const inEach = examples.map(phrasesOf)
  const counts = new Map<string, number>()
  for (const own of inEach) for (const text of own.keys()) counts.set(text, (counts.get(text) ?? 0) + 1)
  const needed = Math.ceil(examples.length * NEARLY)
  const shared = [...counts].filter(([text, n]) => n >= needed && says(text)).slice(0, MAX_GRAMS)
  const others = new Map(shared.map(([text]) => [text, 0]))
  for (const content of otherMail)
    for (const text of phrasesOf(content).keys()) if (others.has(text)) others.set(text, others.get(text)! + 1)
  const ranked = shared
    .map(([text, of]) => ({
      text,
      of,
      place: inEach.find(own => own.has(text))!.get(text)!,
      score: logOdds({ here: of, ofHere: examples.length, others: others.get(text)!, ofOthers: otherMail.length }),
    }))
    .filter(p => p.score > 0 && others.get(p.text)! <= otherMail.length * MAX_OTHER_SHARE)
    .sort((a, b) => b.score - a.score || byPlace(a.place, b.place))
  const out: SharedPhrase[] = []
  for (const { text, of, score } of ranked) {
    if (out.length === most) break
    if (!out.some(o => o.text.includes(text) || text.includes(o.text))) out.push({ text, of, score })
  }
  return out
}

// Of those that are as rare: the subject's, then the longer, which says more, then as they stand.
function byPlace(a: Position, b: Position): number {
  return Number(b.subject) - Number(a.subject) || b.words - a.words || a.at - b.at
}
