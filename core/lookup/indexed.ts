import { addTo } from '../add-to'
import {
  inOrder,
  NOBODY,
  placesOf,
  sees,
  sendersOf,
  textSpansOf,
  type Candidates,
  type Copy,
  type EntryHit,
  type Finder,
  type Looking,
  type LookHits,
  type PhraseHit,
  type SenderAt,
  type TextSpan,
  type Subject,
} from '../decide'
import type { EntryText } from '../kinds'
import { signersOf, type Content, type Message } from '../message'
import type { CompiledPolicy, CompiledRule, Look, Policy } from '../policy'
import { acceptSpan, scanText, ViewBuffer } from '../text'
import type { EntryTable } from './entry-table'
import { buildIndexes, type Bound, type PolicyIndexes } from './indexed-build'
import type { SenderWords } from './sender-words'
import { openedKeys } from './prefilter'

// Texts are scanned one after another; deciding never waits in between.
const BUFFER = new ViewBuffer()

/** A policy with its indexes: deciding touches only the clauses that a message's own hits wake. */
export class IndexedPolicy implements Looking {
  /** The copies of one message are decided one after another: what was looked up for it is kept until the next. */
  private last: { message: Message, prepared: Prepared } | null = null
  /** What was found in a text, for the other copies of its message. */
  private lastScan: { content: Content, found: Scanned } | null = null
  private lastSenders: { message: Message, hits: Map<number, EntryHit[]> } | null = null

  constructor(private readonly indexes: PolicyIndexes) {}

  /** Builds the indexes. @param table the entries of its lists if they are in flat arrays already */
  static build(policy: Policy | CompiledPolicy, table?: EntryTable): IndexedPolicy {
    return new IndexedPolicy(buildIndexes(policy, table))
  }

  get compiled(): CompiledPolicy {
    return this.indexes.compiled
  }

  get table(): EntryTable {
    return this.indexes.table
  }

  /** Rules that nothing wakes. */
  get alwaysAwake(): readonly CompiledRule[] {
    return this.indexes.awake
  }

  /** The entries of a list; null where there are more than `most`, or there is no such list. */
  entriesOf(list: string, most: number): EntryText[] | null {
    const number = this.indexes.listNumbers.get(list)
    return number === undefined ? null : this.indexes.table.entriesOf(number, most)
  }

  /** The entries of lists that catch a copy's senders, found without a look at its text. */
  listHits(copy: Copy): (list: string) => EntryHit[] {
    const shared = copy.stage !== 'outbound'
    const hits = shared && this.lastSenders?.message === copy.message ? this.lastSenders.hits : this.sendersHits(copy)
    if (shared) this.lastSenders = { message: copy.message, hits }
    return list => hits.get(this.indexes.listNumbers.get(list) ?? -1) ?? []
  }

  private sendersHits({ message, recipient, stage }: Copy): Map<number, EntryHit[]> {
    return this.lookUp(this.indexes.table, this.indexes.senderWords, message, sendersOf(message, recipient, stage))
  }

  /** Looks a message up, and says which clauses it wakes. */
  subject(copy: Copy): { subject: Subject, candidates: Candidates } {
    const { message, stage } = copy
    // Outbound, senders are asked of the recipient; then nothing is shared between copies.
    const shared = stage !== 'outbound'
    const prepared = shared && this.last?.message === message ? this.last.prepared : this.prepare(copy)
    if (shared) this.last = { message, prepared }
    const { textSpans, finder, rules, assignments } = prepared
    return {
      subject: { ...copy, compiled: this.compiled, textSpans, finder },
      candidates: { rules, assignments: tier => assignments.get(tier) ?? [], anyAssignment: assignments.size > 0 },
    }
  }

  private prepare({ message, recipient, stage }: Copy): Prepared {
    const textSpans: TextSpan[] = this.indexes.needsExtras ? textSpansOf(message.content) : message.content.segments
    const senders = sendersOf(message, recipient, stage)
    const listHits = this.lookUp(this.indexes.table, this.indexes.senderWords, message, senders)
    const inlineHits = this.indexes.inlineNodes.length
      ? this.lookUp(this.indexes.inline, this.indexes.inlineWords, message, senders)
      : NO_HITS
    if (this.lastScan?.content !== message.content) this.lastScan = { content: message.content, found: this.scan(textSpans) }
    const { buckets, touched } = this.lastScan.found
    const rules = new Set<CompiledRule>(this.indexes.awake)
    const wake = <K>(map: Map<K, CompiledRule[]>, keys: Iterable<K>) => {
      for (const key of keys) {
        const woken = map.get(key)
        if (woken) for (const rule of woken) rules.add(rule)
      }
    }
    wake(this.indexes.byLook, touched)
    wake(this.indexes.byList, listHits.keys())
    wake(this.indexes.bySender, inlineHits.keys())
    if (this.indexes.byFactKey.size) {
      wake(this.indexes.byFactKey, openedKeys(message, this.compiled.policy.trust, this.indexes.factKinds))
    }
    const assignments = new Map<string, Bound[]>()
    for (const list of listHits.keys())
      for (const { tier, bound } of this.indexes.boundLists.get(list) ?? []) addTo(assignments, tier, bound)
    const finder: Finder = {
      listHits: list => listHits.get(this.indexes.listNumbers.get(list) ?? -1) ?? [],
      entryHits: node => inlineHits.get(this.indexes.senderNumbers.get(node) ?? -1) ?? [],
      lookHits: look => this.hitsOf(look, buckets),
    }
    return { textSpans, finder, rules: rules.size > 1 ? [...rules].sort((a, b) => a.rank - b.rank) : [...rules], assignments }
  }

  private lookUp(table: EntryTable, words: SenderWords, message: Message, senders: SenderAt[]): Map<number, EntryHit[]> {
    const { content, attempt } = message
    let found: Map<number, SenderAt> | null = null
    let at = senders[0] ?? NOBODY_AT
    const note = (i: number) => {
      found ??= new Map()
      if (!found.has(i)) found.set(i, at)
    }
    // What is the message's and no one address's counts as the first sender's.
    const whole = { address: at.address, listId: content.list.id, client: attempt.client, signers: signersOf(attempt.authentication) }
    table.findForMessage(whole, note)
    for (let s = 0; s < senders.length; s++) {
      at = senders[s]!
      if (s > 0 && sameSender(at, senders[s - 1]!)) continue
      table.find(at.address, note)
      words.find(at.address, note)
    }
    const caught = found as Map<number, SenderAt> | null
    if (!caught) return NO_HITS
    const hits = new Map<number, EntryHit[]>()
    for (const i of [...caught.keys()].sort((a, b) => a - b)) addTo(hits, table.listOf(i), { ...caught.get(i)!, entry: table.entry(i) })
    return hits
  }

  private scan(textSpans: readonly TextSpan[]): Scanned {
    const buckets = new Map<number, PhraseHit[]>()
    const touched = new Set<number>()
    for (const { form, index, targets, places } of this.indexes.forms) {
      textSpans.forEach((textSpan, segment) => {
        if (!places.has(textSpan.place) && !placesOf(textSpan).some(p => places.has(p))) return
        scanText(textSpan.text, form, index, BUFFER, (key, start, view) => {
          const end = start + index.lengthOf(key)
          for (const t of targets[key]!) {
            const look = this.indexes.looks[t.look]!
            if (!sees(look, textSpan)) continue
            const bucket = buckets.get(t.id)
            if (bucket && bucket.length >= this.indexes.most[t.look]!) continue
            const span = acceptSpan(view, start, end, t.joinedOnly, t.ends)
            if (!span) continue
            touched.add(t.look)
            if (bucket) bucket.push({ segment, ...span })
            else buckets.set(t.id, [{ segment, ...span }])
          }
        })
      })
    }
    return { buckets, touched }
  }

  private hitsOf(look: Look, buckets: Map<number, PhraseHit[]>): LookHits {
    const targets = this.indexes.lookTargets[this.indexes.lookNumbers.get(look)!]!
    const gather = (ids: readonly number[]) => {
      const filled = ids.flatMap(id => buckets.get(id) ?? [])
      return filled.length > 1 ? inOrder(filled) : filled
    }
    return { items: targets.items.map(gather), near: targets.near.map(nearHits => nearHits.map(gather)) }
  }
}

const NOBODY_AT: SenderAt = { on: 'envelope', address: NOBODY }
const NO_HITS: Map<number, EntryHit[]> = new Map()

function sameSender(a: SenderAt, b: SenderAt): boolean {
  return a.address.key === b.address.key && a.address.name === b.address.name
}

/** Where phrases stand in a text, and which looks found some. */
interface Scanned {
  buckets: Map<number, PhraseHit[]>
  touched: Set<number>
}

interface Prepared {
  textSpans: TextSpan[]
  finder: Finder
  rules: CompiledRule[]
  assignments: Map<string, Bound[]>
}
