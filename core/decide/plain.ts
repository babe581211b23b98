import { entryCatches } from '../kinds'
import { findKey, viewOf, viewText, type PhraseKey, type View, type ViewForm } from '../text'
import type { Address } from '../address'
import { signersOf, type Message } from '../message'
import type { CompiledPolicy, Entry, Look, LookItem, Node } from '../policy'
import type { Copy, EntryHit, Finder, Subject } from './conditions'
import { inOrder, mostHits, sees, type LookHits, type PhraseHit } from './looks'
import { allClauses, type Candidates } from './match'
import { textSpansOf, type TextSpan } from './segments'
import { sendersOf, type SenderAt } from './sender'

/**
 * Looks everything up clause by clause and entry by entry, with no index: slow, and simple enough to be believed. The
 * indexed way is held against it.
 */
export function plainSubject(copy: Copy, compiled: CompiledPolicy): { subject: Subject, candidates: Candidates } {
  const { message } = copy
  const textSpans = textSpansOf(message.content)
  const subject: Subject = { ...copy, compiled, textSpans, finder: new PlainFinder(copy, compiled, textSpans) }
  return { subject, candidates: allClauses(compiled) }
}

class PlainFinder implements Finder {
  private readonly senders: SenderAt[]
  private readonly views = new Map<string, { view: View, text: string }>()

  private readonly message: Message

  constructor(
    { message, recipient, stage }: Copy,
    private readonly compiled: CompiledPolicy,
    private readonly textSpans: TextSpan[],
  ) {
    this.message = message
    this.senders = sendersOf(message, recipient, stage)
  }

  listHits(list: string): EntryHit[] {
    return this.hits(this.compiled.lists.get(list)?.entries ?? [])
  }

  entryHits(node: Extract<Node, { op: 'sender' }>): EntryHit[] {
    return this.hits([{ id: '', ...node.entry }])
  }

  private hits(entries: readonly Entry[]): EntryHit[] {
    const out: EntryHit[] = []
    const { content, attempt } = this.message
    const facts = { listId: content.list.id, client: attempt.client, signers: signersOf(attempt.authentication) }
    for (const entry of entries) {
      const at = this.senders.find(({ address }) => entryCatches(entry, { address, ...facts }))
      if (at) out.push({ ...at, entry })
      // A message from nobody at all still comes by a list, from a network, and belongs to everyone.
      else if (!this.senders.length && entry.kind !== 'pattern' && entryCatches(entry, { address: NOBODY, ...facts }))
        out.push({ on: 'envelope', address: NOBODY, entry })
    }
    return out
  }

  lookHits(look: Look): LookHits {
    const most = mostHits(look)
    return {
      items: look.items.map(item => this.find(item.keys, look, most)),
      near: look.items.map((item: LookItem) => (item.near?.items ?? []).map(c => this.find(c.keys, look, most))),
    }
  }

  private find(keys: readonly PhraseKey[], look: Look, most: number): PhraseHit[] {
    return inOrder(
      keys.flatMap((key) => {
        const out: PhraseHit[] = []
        this.textSpans.forEach((textSpan, segment) => {
          if (out.length >= most || !sees(look, textSpan)) return
          const { view, text } = this.viewAt(segment, key.form)
          for (const span of findKey(view, text, key, look.whole, most - out.length)) out.push({ segment, ...span })
        })
        return out
      }),
    )
  }

  private viewAt(segment: number, form: ViewForm): { view: View, text: string } {
    const name = `${segment} ${form}`
    let found = this.views.get(name)
    if (!found) {
      const view = viewOf(this.textSpans[segment]!.text, form)
      this.views.set(name, (found = { view, text: viewText(view) }))
    }
    return found
  }
}

export const NOBODY: Address = { name: '', local: '', domain: '', domainUnicode: '', registrable: null, key: '@', keyWithoutTag: '@' }
