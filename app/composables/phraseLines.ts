import { phraseText, type PhraseItem } from '#core/policy'
import { splitPhrases } from '#core/text'

const written = (phrase: string) => /[,"]/.test(phrase) ? `"${phrase}"` : phrase

/** Phrases as they are edited: one a line, its weight behind a "×". */
export function writtenPhrases(items: readonly PhraseItem[]): string {
  return items.map(i => written(phraseText(i)) + (typeof i === 'string' || i.weight === undefined ? '' : ` ×${i.weight}`)).join('\n')
}

/** What was written as phrases. What a phrase carries besides its weight is kept, as long as the phrase stays. */
export function readPhrases(text: string, before: readonly PhraseItem[] = []): PhraseItem[] {
  return splitPhrases(text).map((line) => {
    const weighed = /^(.*\S)\s*×\s*(\d+(?:\.\d+)?)$/.exec(line)
    const name = weighed?.[1] ?? line
    const known = before.find(p => phraseText(p) === name)
    const near = typeof known === 'object' ? known.near : undefined
    if (!weighed && !near) return name
    return { text: name, ...(weighed ? { weight: Number(weighed[2]) } : {}), ...(near ? { near } : {}) }
  })
}
