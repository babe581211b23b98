/** "a", "a or b", "a, b or c"; long rows are cut: "a, b, c or 9 others". */
export function oneOf(items: readonly string[], joint = 'or', most = 4): string {
  const shown = items.length > most ? [...items.slice(0, most - 1), `${items.length - most + 1} others`] : items
  if (shown.length < 2) return shown[0] ?? 'nothing'
  return `${shown.slice(0, -1).join(', ')} ${joint} ${shown.at(-1)}`
}

/** A name that a person gave, or words that were found: “Fee demands”. */
export function quoted(text: string): string {
  return `“${text}”`
}

/** With a capital at its beginning. */
export function capitalised(sentence: string): string {
  return sentence.charAt(0).toUpperCase() + sentence.slice(1)
}
