/**
 * True if a text is the pattern throughout; * stands for any run, ? for one character. Linear in practice: no backtracking
 * beyond the last star.
 */
export function matchesWildcard(pattern: string, text: string): boolean {
  let p = 0
  let t = 0
  let star = -1
  let mark = 0
  while (t < text.length) {
    if (p < pattern.length && pattern[p] === '*') {
      star = p++
      mark = t
    }
    else if (p < pattern.length && (pattern[p] === '?' || pattern[p] === text[t])) {
      p++
      t++
    }
    else if (star >= 0) {
      p = star + 1
      t = ++mark
    }
    else {
      return false
    }
  }
  while (pattern[p] === '*') p++
  return p === pattern.length
}
