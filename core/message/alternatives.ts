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

// Words as runs of letters and digits, each as a number (FNV-1a, 32 bits; draft-eastlake-fnv).
function* hashedWords(text: string): Generator<number> {
  const plain = NOT_ASCII.test(text) ? text.normalize('NFKC').toLowerCase() : text
  let h = START
  let inWord = false
  for (let i = 0; i < plain.length; i++) {
    let c = plain.charCodeAt(i)
    if (c >= 65 && c <= 90) c += 32
    if ((c >= 97 && c <= 122) || (c >= 48 && c <= 57) || (c > 127 && !SEPARATES.test(plain[i]!))) {
      h = Math.imul(h ^ c, 0x01000193)
      inWord = true
    }
    else if (inWord) {
      yield h >>> 0
      h = START
      inWord = false
    }
  }
  if (inWord) yield h >>> 0
}

const START = 0x811c9dc5
const NOT_ASCII = /[^\0-\x7F]/
const SEPARATES = /[\p{P}\p{S}\p{Z}\p{C}]/u

function pairOf(before: number, word: number): number {
  return (Math.imul(before ^ 0x9e3779b9, 0x85ebca6b) ^ word) >>> 0
}
