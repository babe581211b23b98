import { dan, deu, eng, fra, ita, nld, por, spa, swe } from 'stopword'
import { wordRuns, type Said, type SpokenWord, type WordRun, type WordView } from './spoken-words'

/** A phrase of up to five words that examples have. */
export interface Gram {
  /** What it is compared by. */
  key: string
  /** As it is sought: each word in the plainest of the ways in which it is written. */
  text: string
  /** Places of the examples that have it. */
  examples: number[]
  /** It occurs in a subject. */
  subject: boolean
  words: number
  /** How many other phrases were found before it. */
  at: number
}

const MAX_WORDS = 5
const MAX_GRAMS = 4000
/** So many characters of one message are looked at, and of all together. */
const MAX_TEXT = 16_000
const MAX_TOTAL = 1_000_000
const MAX_LENGTH = 80

// "the", "your", "und": in any of these languages a phrase of such words alone is found in all kinds of mail.
let stopWords: Record<WordView, Set<string>> | undefined

/** As they are compared in a view; made when they are first asked for. */
function stopWordsIn(view: WordView): ReadonlySet<string> {
  if (!stopWords) {
    const plain = [dan, deu, eng, fra, ita, nld, por, spa, swe].flat()
    stopWords = { plain: new Set(plain), obfuscated: new Set(plain.map(obfuscatedKey)) }
  }
  return stopWords[view]
}

/** Words of a phrase that say something, as they are compared through obfuscated spellings. */
export function contentWords(text: string): string[] {
  return obfuscatedKey(text).split(' ').filter(word => !stopWordsIn('obfuscated').has(word))
}

/**
 * The phrases that at least so many examples have, and that say something: one that says more than one word begins and ends
 * with such a word, and none holds a number. Cost grows with the length of the examples.
 */
export function sharedGrams(examples: readonly Said[], view: WordView, atLeast: number): Gram[] {
  const most = Math.min(MAX_TEXT, Math.ceil(MAX_TOTAL / Math.max(1, examples.length)))
  const inEach = examples.map(content => wordRuns(content, view, most))
  // A phrase is no more frequent than its rarest word.
  const frequent = frequentWords(inEach, atLeast)
  const spellings = spellingsOf(inEach, frequent)
  const found = new Map<string, Gram>()
  for (const [i, runs] of inEach.entries())
    for (const { words, subject } of runs)
      eachGram(words, frequent, (from, to) => {
        const key = joined(words, from, to)
        const there = found.get(key)
        if (!there) return void found.set(key, { key, text: key, examples: [i], subject, words: to - from, at: found.size })
        if (there.examples.at(-1) !== i) there.examples.push(i)
        if (subject) there.subject = true
      })
  const isSwapped = (key: string) => view === 'obfuscated' && (spellings.get(key)?.size ?? 0) > 1
  return [...found.values()]
    .filter(g => g.examples.length >= atLeast && says(g.key, view))
    .map(g => ({ ...g, text: g.key.split(' ').map(key => plainest(spellings.get(key)!)).join(' ') }))
    .filter(g => g.text.split(' ').every((word, i) => !isSerial(word, g.examples.length > 2 && isSwapped(g.key.split(' ')[i]!))))
    .slice(0, MAX_GRAMS)
}

/** How words are written, and how often so. */
type Spellings = ReadonlyMap<string, Map<string, number>>

function spellingsOf(inEach: readonly (readonly WordRun[])[], frequent: ReadonlySet<string>): Spellings {
  const out = new Map<string, Map<string, number>>()
  for (const { key, text } of inEach.flat().flatMap(r => r.words)) {
    if (!frequent.has(key)) continue
    const texts = out.get(key) ?? new Map<string, number>()
    texts.set(text, (texts.get(text) ?? 0) + 1)
    out.set(key, texts)
  }
  return out
}

/** Those of some phrases, by key, that a message has. */
export function gramsIn(content: Said, keys: GramKeys): string[] {
  const out = new Set<string>()
  for (const { words } of wordRuns(content, keys.view, MAX_TEXT))
    eachGram(words, keys.words, (from, to) => {
      const key = joined(words, from, to)
      if (keys.keys.has(key)) out.add(key)
    })
  return [...out]
}

/** Phrases that are looked for, by key. */
export interface GramKeys {
  view: WordView
  keys: ReadonlySet<string>
  words: ReadonlySet<string>
}

export function gramKeys(grams: readonly Pick<Gram, 'key'>[], view: WordView): GramKeys {
  return { view, keys: new Set(grams.map(g => g.key)), words: new Set(grams.flatMap(g => g.key.split(' '))) }
}

function frequentWords(inEach: readonly (readonly WordRun[])[], atLeast: number): Set<string> {
  const counts = new Map<string, number>()
  for (const runs of inEach)
    for (const key of new Set(runs.flatMap(r => r.words.map(w => w.key)))) counts.set(key, (counts.get(key) ?? 0) + 1)
  return new Set([...counts].filter(([, n]) => n >= atLeast).map(([key]) => key))
}

function eachGram(words: readonly SpokenWord[], known: ReadonlySet<string>, found: (from: number, to: number) => void): void {
  for (let from = 0; from < words.length; from++)
    for (let to = from + 1; to <= from + MAX_WORDS && to <= words.length && known.has(words[to - 1]!.key); to++) found(from, to)
}

function joined(words: readonly SpokenWord[], from: number, to: number): string {
  let key = words[from]!.key
  for (let i = from + 1; i < to; i++) key += ` ${words[i]!.key}`
  return key
}

function says(key: string, view: WordView): boolean {
  const words = key.split(' ')
  if (key.length > MAX_LENGTH || !/\p{L}{3}/u.test(key)) return false
  if (!/^[\p{L}\p{N}]/u.test(key) || !/[\p{L}\p{N}]$/u.test(key)) return false
  const stops = stopWordsIn(view)
  const saying = words.filter(w => !stops.has(w)).length
  // One word that says something says more with those around it.
  return saying === 1 || (saying > 1 && !stops.has(words[0]!) && !stops.has(words.at(-1)!))
}

/** What a word or a phrase is compared by through obfuscated spellings. */
function obfuscatedKey(text: string): string {
  return wordRuns({ segments: [{ place: 'own', text }] }, 'obfuscated', MAX_LENGTH).flatMap(r => r.words.map(w => w.key)).join(' ')
}

/** A number, as of an order or an invoice. @param swaps digits may stand for letters, where they are fewer */
function isSerial(word: string, swaps: boolean): boolean {
  const digits = word.match(/\p{N}/gu)?.length ?? 0
  return digits > 0 && !(swaps && digits < (word.match(/\p{L}/gu)?.length ?? 0))
}

// Of the ways to write it: the one with most plain letters, then the most frequent one.
function plainest(texts: ReadonlyMap<string, number>): string {
  const plain = (text: string) => (text.match(/[a-z ]/g)?.length ?? 0) / text.length
  return [...texts].sort((a, b) => plain(b[0]) - plain(a[0]) || b[1] - a[1])[0]![0]
}
