import { addTo } from '../add-to'
import type { Address } from '../address'
import { entryCatches, entryKindOf, senderText, type EntryText } from '../kinds'
import { PhraseIndex, viewOf } from '../text'
import type { EntryTable } from './entry-table'

/** Pattern and word entries, found by a literal of theirs in the sender's text. */
export class SenderWords {
  private readonly index: PhraseIndex | null
  private readonly entries: number[][]
  private readonly always: number[] = []
  private readonly texts = new Map<number, EntryText>()

  constructor(table: EntryTable) {
    const byLiteral = new Map<string, number[]>()
    for (const i of table.scanned) {
      const entry = table.entry(i)
      this.texts.set(i, entry)
      const { lookup } = entryKindOf(entry.kind)
      const literal = 'literal' in lookup ? lookup.literal(entry.value) : ''
      if (literal.length < 2) this.always.push(i)
      else addTo(byLiteral, literal, i)
    }
    this.index = byLiteral.size ? new PhraseIndex([...byLiteral.keys()]) : null
    this.entries = [...byLiteral.values()]
  }

  find(address: Address, found: (i: number) => void): void {
    if (!this.texts.size) return
    const asked = new Set(this.always)
    // Words are sought in the plain view of name and address, patterns in the key of the address: both are scanned.
    for (const text of [senderText(address), address.key]) {
      const view = viewOf(text, 'plain')
      this.index?.scan(view.units, view.length, (key) => {
        for (const i of this.entries[key]!) asked.add(i)
      })
      this.index?.scan(unitsOf(text), text.length, (key) => {
        for (const i of this.entries[key]!) asked.add(i)
      })
    }
    for (const i of asked) if (entryCatches(this.texts.get(i)!, { address, listId: null, client: null })) found(i)
  }
}

function unitsOf(text: string): Uint16Array {
  const out = new Uint16Array(text.length)
  for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i)
  return out
}
