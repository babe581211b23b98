/** Lines that could not be read when their list was made: they wait for its page, by the id of the list. */
const left = new Map<string, string>()

export function leaveLines(list: string, lines: readonly { text: string }[]) {
  if (lines.length) left.set(list, lines.map(l => l.text).join('\n'))
}

/** What was left for a list, once. */
export function takeLines(list: string): string {
  const lines = left.get(list) ?? ''
  left.delete(list)
  return lines
}
