import type { Segment } from './types'

const WORDS = /[\p{L}\p{N}]+/gu
const LEAST_WORDS = 3

/**
 * Lines of the plain alternative that say something else than the HTML, which is what a reader is shown: text for filters
 * and previews only. A line counts where most of its words are not in the HTML at all.
 */
export function differingLines(plain: string, shown: readonly Segment[], links: readonly { target: string }[]): string {
  const seen = new Set<string>()
  for (const { text } of shown) for (const [word] of text.toLowerCase().matchAll(WORDS)) seen.add(word)
  for (const { target } of links) for (const [word] of target.toLowerCase().matchAll(WORDS)) seen.add(word)
  const other: string[] = []
  for (const line of plain.split(/\r?\n/)) {
    const words = [...line.replace(/\bhttps?:\/\/\S+/gi, ' ').toLowerCase().matchAll(WORDS)].map(m => m[0])
    if (words.length < LEAST_WORDS) continue
    if (words.filter(w => !seen.has(w)).length * 2 > words.length) other.push(line.trim())
  }
  return other.join('\n')
}
