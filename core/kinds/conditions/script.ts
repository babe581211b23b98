import type { Content } from '../../message'
import { conditionKind } from './kind'

/**
 * Scripts by their names in Unicode's Script property (UAX #24); Japanese and Korean as their writing systems, which mix
 * several (ISO 15924 Jpan and Kore).
 */
const WRITTEN_IN = {
  Latin: ['Latin'],
  Cyrillic: ['Cyrillic'],
  Greek: ['Greek'],
  Arabic: ['Arabic'],
  Hebrew: ['Hebrew'],
  Armenian: ['Armenian'],
  Georgian: ['Georgian'],
  Devanagari: ['Devanagari'],
  Bengali: ['Bengali'],
  Gurmukhi: ['Gurmukhi'],
  Gujarati: ['Gujarati'],
  Tamil: ['Tamil'],
  Telugu: ['Telugu'],
  Kannada: ['Kannada'],
  Malayalam: ['Malayalam'],
  Sinhala: ['Sinhala'],
  Thai: ['Thai'],
  Lao: ['Lao'],
  Khmer: ['Khmer'],
  Myanmar: ['Myanmar'],
  Ethiopic: ['Ethiopic'],
  Han: ['Han'],
  Japanese: ['Hiragana', 'Katakana'],
  Korean: ['Hangul'],
} as const
export type Script = keyof typeof WRITTEN_IN
export const SCRIPTS = Object.keys(WRITTEN_IN) as Script[]

/** Of fewer letters nothing is said: a name or a word in another script makes no letter of it. */
const MIN_LETTERS = 10

/** In which script most letters of what a recipient sees, subject and text, are written. Hidden text does not count. */
export const script = conditionKind({
  name: 'script',
  label: 'is written in',
  schema: ({ Joi }) => Joi.string().valid(...SCRIPTS),
  holds: ({ message: { content } }, value: Script) => (scriptOf(content) === value ? value : null),
  prefilter: {
    by: value => value,
    opened: ({ content }) => {
      const found = scriptOf(content)
      return found === null ? [] : [found]
    },
  },
  words: value => `most of it is written in ${value} letters`,
  found: shown => `text in ${shown} letters`,
  blank: 'Cyrillic' as Script,
  title: value => `In ${value} letters`,
  field: 'ScriptField',
})

const known = new WeakMap<Content, { found: Script | null }>()

function scriptOf(content: Content): Script | null {
  let answer = known.get(content)
  if (!answer) known.set(content, (answer = { found: mostly(content) }))
  return answer.found
}

function mostly({ segments }: Content): Script | null {
  const counts = new Map<Script | 'other', number>()
  let letters = 0
  for (const { place, text } of segments) {
    if (place === 'hidden') continue
    for (const character of text) {
      const code = character.codePointAt(0)!
      const written = code < 128 ? (isAsciiLetter(code) ? 'Latin' : null) : scriptAt(code, character)
      if (written === null) continue
      letters++
      counts.set(written, (counts.get(written) ?? 0) + 1)
    }
  }
  if (letters < MIN_LETTERS) return null
  // Japanese is written with Han letters too: kana among them tell the two apart.
  const kana = counts.get('Japanese') ?? 0
  const han = counts.get('Han') ?? 0
  if (kana > 0 && kana * 10 >= han) {
    counts.set('Japanese', kana + han)
    counts.delete('Han')
  }
  const [most, n] = [...counts].reduce((a, b) => (b[1] > a[1] ? b : a))
  return most !== 'other' && n * 2 > letters ? most : null
}

function isAsciiLetter(code: number): boolean {
  return (code >= 65 && code <= 90) || (code >= 97 && code <= 122)
}

const TESTS = SCRIPTS.map(name => [name, WRITTEN_IN[name].map(s => new RegExp(`\\p{Script=${s}}`, 'u'))] as const)
const LETTER = /\p{L}/u
/** By code point; null for no letter. */
const scripts = new Map<number, Script | 'other' | null>()
const MAX_KNOWN = 20_000

function scriptAt(code: number, character: string): Script | 'other' | null {
  const there = scripts.get(code)
  if (there !== undefined) return there
  const found = LETTER.test(character) ? (TESTS.find(([, tests]) => tests.some(t => t.test(character)))?.[0] ?? 'other') : null
  if (scripts.size >= MAX_KNOWN) scripts.clear()
  scripts.set(code, found)
  return found
}
