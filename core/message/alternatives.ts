const WORDS = /[\p{L}\p{N}]+/gu
const LINK = /\bhttps?:\/\/\S+/gi

/**
 * Lines of an alternative that say something else than what a reader is shown: text for readers who prefer the other, and
 * for filters. A line says the same where its words follow each other as they do in the shown text, links aside.
 * @param shown what is shown, links among it
 */
export function differingLines(text: string, shown: readonly string[]): string {
  const pairs = new Set<number>()
  for (const one of shown) {
    let before = 0
    for (const word of hashedWords(one)) {
      pairs.add(pairOf(before, word))
      pairs.add(pairOf(0, word))
      before = word
    }
  }
  const other: string[] = []
  for (const line of text.split(/\r\n|\r|\n/)) {
    let before = 0
    for (const word of hashedWords(line.replace(LINK, ' '))) {
      if (!pairs.has(pairOf(before, word))) {
        other.push(line.trim())
        break
      }
      before = word
    }
  }
  return other.join('\n')
}

function* hashedWords(text: string): Generator<number> {
  for (const [word] of text.normalize('NFKC').toLowerCase().matchAll(WORDS)) yield hash(word)
}

// FNV-1a, 32 bits (draft-eastlake-fnv).
function hash(word: string): number {
  let h = 0x811C9DC5
  for (let i = 0; i < word.length; i++) h = Math.imul(h ^ word.charCodeAt(i), 0x01000193)
  return h >>> 0
}

function pairOf(before: number, word: number): number {
  return (Math.imul(before ^ 0x9E3779B9, 0x85EBCA6B) ^ word) >>> 0
}
