import { contentWords, gramKeys, gramsIn, sharedGrams, type Gram } from './grams'
import { logOdds } from './log-odds'
import type { Said, WordView } from './spoken-words'

/** Nearly all: of ten examples one may lack it. */
export const NEARLY = 0.9
/** What more of the mail has that should not be caught says nothing of the examples. */
const MAX_OTHER_SHARE = 0.2
/** Of more examples than this, what they share is theirs; of fewer, what other mail shares too says what kind they are. */
const FEW = 2
/** Examples that a phrase has at least, where several phrases are sought: what one or two messages happen to say is no reason. */
const SEVERAL = 3

/** A phrase that examples share. */
export interface SharedPhrase {
  text: string
  /** So many of the examples have it. */
  of: number
  /** How much more it belongs to them than to the mail that should not be caught: see `logOdds`. */
  score: number
  /** So much of the other mail has it. */
  others: number
  /** It is written in different ways, and has to be sought through them. */
  obfuscated?: true
}

/** Mail against which examples are held. */
export interface OtherMail {
  /** What should not be caught: wanted mail, where something is to be stopped. */
  against: readonly Said[]
  /** Mail of which nothing is known, or that may well be caught. */
  rest?: readonly Said[]
}

interface Weighed extends Gram {
  view: WordView
  against: number
  rest: number
  score: number
}

/**
 * At most three phrases that all examples, or nearly all, share, the ones first that are rarest in the mail that should not be caught. No
 * two have a word in common that says something. One of them at least is in other mail too, where there is such a phrase.
 */
export function sharedPhrases(examples: readonly Said[], others: OtherMail, most = 3): SharedPhrase[] {
  if (!examples.length) return []
  const shared = weighed(examples, others, Math.ceil(examples.length * NEARLY))
  return apart(shared.sort(byRarity(examples.length)), most).map(phraseOf)
}

/** Single words that nearly all examples have, and hardly any of the other mail: by them mail is found that may say the same. */
export function rareWords(examples: readonly Said[], others: OtherMail, most: number): string[] {
  return weighed(examples, others, Math.ceil(examples.length * NEARLY))
    .filter(g => g.words === 1 && g.view === 'plain')
    .sort((a, b) => a.against + a.rest - b.against - b.rest || Number(b.subject) - Number(a.subject) || a.at - b.at)
    .slice(0, most)
    .map(g => g.text)
}

/**
 * Phrases that together cover the examples, where no one does: those first that most of what is not yet covered has, and little else.
 * @param most so many at most
 */
export function coveringPhrases(examples: readonly Said[], others: OtherMail, most = 8): SharedPhrase[] {
  if (examples.length < SEVERAL) return []
  let left = weighed(examples, others, SEVERAL)
  const open = new Set(examples.keys())
  const out: Weighed[] = []
  while (out.length < most && open.size) {
    const covers = (g: Weighed) => g.examples.reduce((n, i) => n + (open.has(i) ? 1 : 0), 0)
    const worth = new Map(left.map(g => [g, covers(g) / (1 + g.against)]))
    const [best] = left.filter(g => covers(g) >= SEVERAL).sort((a, b) => worth.get(b)! - worth.get(a)! || byPlace(a, b))
    if (!best) break
    out.push(best)
    for (const i of best.examples) open.delete(i)
    const taken = new Set(contentWords(best.text))
    left = left.filter(g => isApart(g, taken))
  }
  return out.map(phraseOf)
}

function phraseOf({ text, examples, score, against, rest, view }: Weighed): SharedPhrase {
  return { text, of: examples.length, score, others: against + rest, ...(view === 'obfuscated' ? { obfuscated: true } : {}) }
}

// Through obfuscated spellings only what more of the examples have that way.
function weighed(examples: readonly Said[], others: OtherMail, atLeast: number): Weighed[] {
  const plain = sharedGrams(examples, 'plain', atLeast)
  const written = new Map(plain.map(g => [g.text, g.examples.length]))
  const through = examples.length > 1
    ? sharedGrams(examples, 'obfuscated', atLeast).filter(g => g.examples.length > (written.get(g.text) ?? 0))
    : []
  return [...held(plain, 'plain', examples.length, others), ...held(through, 'obfuscated', examples.length, others)]
}

function held(grams: readonly Gram[], view: WordView, ofHere: number, { against, rest = [] }: OtherMail): Weighed[] {
  if (!grams.length) return []
  const keys = gramKeys(grams, view)
  const count = (mail: readonly Said[]) => {
    const counts = new Map<string, number>()
    for (const content of mail) for (const key of gramsIn(content, keys)) counts.set(key, (counts.get(key) ?? 0) + 1)
    return counts
  }
  const [there, besides] = [count(against), count(rest)]
  return grams.flatMap((gram): Weighed[] => {
    const others = there.get(gram.key) ?? 0
    const score = logOdds({ here: gram.examples.length, ofHere, others, ofOthers: against.length })
    if (score <= 0 || others > against.length * MAX_OTHER_SHARE) return []
    return [{ ...gram, view: isMixed(gram.text) ? 'obfuscated' : view, against: others, rest: besides.get(gram.key) ?? 0, score }]
  })
}

// Letters of two scripts in one word: nobody writes so who does not hide it.
function isMixed(text: string): boolean {
  return text.split(' ').some(word => /[a-z]/.test(word) && /[\p{Script=Cyrillic}\p{Script=Greek}]/u.test(word))
}

function byRarity(examples: number) {
  return examples > FEW
    ? (a: Weighed, b: Weighed) => b.score - a.score || a.rest - b.rest || byPlace(a, b)
    : (a: Weighed, b: Weighed) => b.score - a.score || Number(isWider(b)) - Number(isWider(a)) || byPlace(a, b)
}

/** It catches more than the examples. */
function isWider({ against, rest }: Weighed): boolean {
  return against + rest > 0
}

// The subject's, then the longer, which says more, then as they stand.
function byPlace(a: Weighed, b: Weighed): number {
  return Number(b.subject) - Number(a.subject) || b.words - a.words || a.at - b.at
}

function apart(ranked: readonly Weighed[], most: number): Weighed[] {
  const out: Weighed[] = []
  const taken = new Set<string>()
  for (const gram of ranked) {
    if (out.length === most) break
    if (!isApart(gram, taken)) continue
    out.push(gram)
    for (const word of contentWords(gram.text)) taken.add(word)
  }
  if (!out.length || out.some(isWider)) return out
  const wider = ranked.find(isWider)
  if (!wider) return out
  const own = new Set(contentWords(wider.text))
  return [...out.slice(0, most - 1).filter(g => isApart(g, own)), wider]
}

function isApart(gram: Weighed, taken: ReadonlySet<string>): boolean {
  return contentWords(gram.text).every(word => !taken.has(word))
}
