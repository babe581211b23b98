/** Text of a field with more lines at its end, each of its own. */
export function appendedLines(text: string, lines: readonly string[]): string {
  const there = new Set(text.split(/\r?\n/).map(line => line.trim()))
  const fresh = lines.filter(line => !there.has(line))
  return [...(text.trim() ? [text.trimEnd()] : []), ...fresh].join('\n')
}
