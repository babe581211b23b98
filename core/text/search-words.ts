import type { ViewName } from './forms'
import { viewText } from './view'
import { viewOf } from './view-of'

/*
 * The words by which an archive finds the texts that can hold a phrase. What is found is too much rather than too little: each is
 * looked through. A word here ends where a phrase of whole words may end (see `isWholeWords`): an ideograph and a hiragana letter are
 * words by themselves, and katakana is apart from other letters.
 *
 *   text    Gebühr für Pﬂege, 東京      plain: gebühr für pflege 東 京      bare, where that differs: gebuhr fur
 *   phrase  “gebühr für”, whole words                                     needs gebühr, für
 *   phrase  “bühr fü”, parts of words                                     needs a word that begins with fü
 */

/** Counted up whenever the words of a text may come out differently; stored beside them. */
export const SEARCH_VERSION = 1

/** Longer words are known by their beginning. */
const MAX_LENGTH = 64
const MAX_ODD = 3

const ALONE = '[\\p{Script=Han}\\p{Script=Hiragana}]\\p{M}*'
const KATAKANA = '[\\p{Script=Katakana}\\u3031-\\u3035\\u30FC\\uFF70]'
const LETTER = '[[\\p{L}\\p{N}]--[\\p{Script=Han}\\p{Script=Hiragana}\\p{Script=Katakana}\\u3031-\\u3035\\u30FC\\uFF70]]'
const WORDS = new RegExp(`${ALONE}|${KATAKANA}[${KATAKANA}\\p{M}]*|${LETTER}[${LETTER}\\p{M}]*`, 'gv')
const IS_ALONE = new RegExp(`^(?:${ALONE})$`, 'v')

const ASCII_ONLY = /^[\x00-\x7f]*$/ // eslint-disable-line no-control-regex
const ASCII_WORDS = /[a-z0-9]+/g
// White space, and signs that become no letter in any form, end every word: what stands between is looked at by itself.
const PIECES = /[^\s\u00A1-\u00A7\u00A9\u00AB\u00AE\u00B0\u00B1\u00B7\u00BB\u00BF\u2010-\u2027\u2030-\u2033\u20AC]+/g

/** The words of some texts. */
export class WordCollector {
  readonly words = new Set<string>()
  /** Something in the texts is written so oddly that its words do not say all: such a text is always looked through. */
  isOdd = false

  private room: number

  /** @param most the words have no more UTF-16 units than that together; texts with more count as odd */
  constructor(most = Infinity) {
    this.room = most
  }

  add(text: string): void {
    if (ASCII_ONLY.test(text)) return this.addAscii(text)
    const pieces = text.match(PIECES) ?? []
    const others = new Set<string>(pieces.filter(piece => !ASCII_ONLY.test(piece)))
    this.addAscii(pieces.filter(piece => !others.has(piece)).join(' '))
    const ways = [...others].flatMap(piece => this.waysOf(piece)).join(' ')
    for (const form of ['plain', 'bare'] as const)
      for (const [word] of viewText(viewOf(ways, form)).matchAll(WORDS)) this.put(word)
  }

  private addAscii(text: string): void {
    for (const word of text.toLowerCase().match(ASCII_WORDS) ?? []) this.put(word)
  }

  private put(word: string): void {
    const known = cut(word)
    if (this.words.has(known)) return
    if (known.length > this.room) return void (this.isOdd = true)
    this.room -= known.length
    this.words.add(known)
  }

  // Apart at its odd signs and not, since a word ends at them in the text and goes on in the view.
  private waysOf(piece: string): string[] {
    if (STRANGE_LETTER.test(piece)) this.isOdd = true
    const parts = partsAtOdd(piece)
    if (parts.length <= 2 * MAX_ODD + 1) return runsOf(parts)
    this.isOdd = true
    return [piece]
  }
}

// Letters that are as if they were not there, and half-width sound marks: where a word ends is then another question in the view and in
// the text.
const STRANGE_LETTER = new RegExp('[[\\p{L}\\p{N}]&&\\p{Default_Ignorable_Code_Point}]|[\\uFF9E\\uFF9F]', 'v')

const MAY_BE_ODD = /[^\p{L}\p{N}\p{M}\x00-\x7f]/u // eslint-disable-line no-control-regex
const odd = new Map<string, boolean>()

/** No letter and no digit, but it becomes some: "™", "№". In the text it ends a word, in the view it goes on. */
function isOddSign(character: string): boolean {
  let known = odd.get(character)
  if (known === undefined) {
    known = !/[\p{L}\p{N}\p{M}]/u.test(character) && /[\p{L}\p{N}]/u.test(character.normalize('NFKC'))
    if (odd.size < 20_000) odd.set(character, known)
  }
  return known
}

function partsAtOdd(piece: string): string[] {
  if (!MAY_BE_ODD.test(piece)) return [piece]
  const parts: string[] = []
  let part = ''
  for (const character of piece) {
    if (!isOddSign(character)) {
      part += character
      continue
    }
    if (part) parts.push(part)
    parts.push(character)
    part = ''
  }
  if (part) parts.push(part)
  return parts
}

/** Every row of parts that stand beside each other. */
function runsOf(parts: readonly string[]): string[] {
  return parts.flatMap((_, from) => parts.slice(from).map((__, n) => parts.slice(from, from + n + 1).join('')))
}

function cut(word: string): string {
  return word.length > MAX_LENGTH ? word.slice(0, MAX_LENGTH).replace(/[\uD800-\uDBFF]$/, '') : word
}

/** What a text has to have so that a phrase can stand in it: all of these words, and words that begin so. */
export interface NeededWords {
  words: readonly string[]
  beginnings: readonly string[]
}

/** A shorter beginning would find most of an archive. */
const MIN_BEGINNING = 3

/**
 * The words that a text must have for a phrase to stand in it; null where they do not say: the phrase is sought behind obfuscated
 * spelling, or within one word.
 * @param whole it counts as whole words only
 */
export function neededWords(phrase: string, view: ViewName, whole: boolean): NeededWords | null {
  if (view === 'obfuscated' || STRANGE_LETTER.test(phrase)) return null
  const key = viewText(viewOf(phrase.trim(), view)).trim()
  if (/^\p{M}/u.test(key)) return null
  const words: string[] = []
  const beginnings: string[] = []
  for (const { 0: word, index } of key.matchAll(WORDS)) {
    const end = index + word.length
    const opensBefore = !whole && index === 0 && !IS_ALONE.test(word)
    const opensAfter = !whole && end === key.length && !IS_ALONE.test(word)
    if (opensBefore) continue
    if (!opensAfter) words.push(cut(word))
    else if (word.length >= MIN_BEGINNING) beginnings.push(cut(word))
  }
  return words.length || beginnings.length ? { words: [...new Set(words)], beginnings } : null
}

/** The words of what somebody types to search for, as texts have them. */
export function typedWords(text: string): string[] {
  return [...new Set([...viewText(viewOf(text, 'plain')).matchAll(WORDS)].map(([word]) => cut(word)))]
}
