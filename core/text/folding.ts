/**
 * One code point, case-folded (Unicode 3.13, full folding by way of upper case, so that ß and ss, σ and ς meet).
 * Dotless ı keeps to itself, as in CaseFolding.txt.
 */
export function foldCodePoint(c: string): string {
  if (c === 'ı') return c
  return c.toUpperCase().toLowerCase()
}
