import type { Message } from '../message'
import { compilePolicy, EntryTable, type CompiledPolicy, type CompiledRule, type Look, type Node, type Policy } from '../policy'
import { acceptSpan, phraseKeys, PhraseIndex, scanText, ViewBuffer, type PhraseKey, type ViewForm } from '../text'
import type { Copy, EntryHit, Finder, Subject } from './conditions'
import { inOrder, mostHits, sees, type LookHits, type PhraseHit } from './looks'
import type { Candidates } from './match'
import { NOBODY } from './plain'
import { placesOf, stretchesOf, type Stretch } from './segments'
import { sendersOf, type SenderAt } from './sender'
import { SenderWords } from './sender-words'
import { openGates, wakersOf, type Gate } from './waking'

// Texts are scanned one after another; deciding never waits in between.
const BUFFER = new ViewBuffer()

/** One key of one phrase of one look: where a hit of the key goes. */
interface Target {
  look: number
  id: number
  joinedOnly: boolean
  whole: boolean
}

/** All phrases that are sought in one form of the text. */
interface FormIndex {
  form: ViewForm
  index: PhraseIndex
  /** By key. */
  targets: Target[][]
  /** Places of which some look sees something. */
  places: Set<string>
}

/** A policy with its indexes: deciding touches only the clauses that a message's own hits wake. */
export class IndexedPolicy {
  private readonly looks: Look[] = []
  private readonly lookNumbers = new Map<Look, number>()
  /** Per look, how many hits of one key are kept. */
  private readonly most: number[] = []
  /** Per look, per item: the target numbers of its keys; then the same for its companions. */
  private readonly lookTargets: { items: number[][], near: number[][][] }[] = []
  private readonly forms: FormIndex[] = []
  private readonly inline: EntryTable
  private readonly inlineNodes: Extract<Node, { op: 'sender' }>[] = []
  private readonly senderNumbers = new Map<Node, number>()
  private readonly senderWords: SenderWords
  private readonly inlineWords: SenderWords
  private readonly awake: CompiledRule[] = []
  private readonly byLook = new Map<number, CompiledRule[]>()
  private readonly byList = new Map<number, CompiledRule[]>()
  private readonly bySender = new Map<number, CompiledRule[]>()
  private readonly byGate = new Map<Gate, CompiledRule[]>()
  private readonly listNumbers = new Map<string, number>()
  private readonly boundLists = new Map<
    number,
    { tier: string, bound: CompiledPolicy['bindings'] extends Map<string, (infer B)[]> ? B : never }[]
  >()

  private readonly needsExtras: boolean
  /** The copies of one message are decided one after another: what was looked up for it is kept until the next. */
  private last: { message: Message, prepared: Prepared } | null = null
  /** Rules that nothing wakes. */
  readonly alwaysAwake: readonly CompiledRule[] = this.awake

  private constructor(
    readonly compiled: CompiledPolicy,
    readonly table: EntryTable,
  ) {
    compiled.policy.lists.forEach((l, i) => this.listNumbers.set(l.id, i))
    for (const [tier, bound] of compiled.bindings)
      for (const b of bound) push(this.boundLists, this.listNumbers.get(b.list.id)!, { tier, bound: b })
    const keys = new Map<ViewForm, Map<string, Target[]>>()
    let targets = 0
    const target = (look: number, key: PhraseKey): number => {
      const forForm = keys.get(key.form) ?? keys.set(key.form, new Map()).get(key.form)!
      const id = targets++
      push(forForm, key.key, { look, id, joinedOnly: key.joinedOnly, whole: this.looks[look]!.whole })
      return id
    }
    const addLook = (look: Look): number => {
      const number = this.looks.push(look) - 1
      this.lookNumbers.set(look, number)
      this.most.push(mostHits(look))
      this.lookTargets.push({
        items: look.items.map(i => i.keys.map(k => target(number, k))),
        near: look.items.map(i => (i.near?.items ?? []).map(c => c.keys.map(k => target(number, k)))),
      })
      return number
    }
    const visit = (node: Node) => {
      if (node.op === 'all' || node.op === 'any' || node.op === 'none') node.members.forEach(visit)
      else if (node.op === 'phrases') addLook(node.look)
      else if (node.op === 'sender') this.inlineNodes.push(node)
    }
    for (const rule of compiled.rules) [rule.when, ...rule.except].forEach(visit)
    this.inline = EntryTable.build(this.inlineNodes.map((node, i) => ({ list: i, entry: { id: '', ...node.entry } })))
    this.senderWords = new SenderWords(table)
    this.inlineWords = new SenderWords(this.inline)
    this.inlineNodes.forEach((n, i) => this.senderNumbers.set(n, i))
    for (const rule of compiled.rules) {
      const wakers = wakersOf(rule)
      if (!wakers) {
        this.awake.push(rule)
        continue
      }
      for (const look of wakers.looks) push(this.byLook, this.lookNumbers.get(look)!, rule)
      for (const list of wakers.lists) if (this.listNumbers.has(list)) push(this.byList, this.listNumbers.get(list)!, rule)
      for (const node of wakers.senders) push(this.bySender, this.senderNumbers.get(node)!, rule)
      for (const gate of wakers.gates) push(this.byGate, gate, rule)
      // The literal of an expression wakes it; the expression itself then looks.
      for (const node of wakers.expressions) {
        const look: Look = {
          items: [{ text: node.expression.literal!, weight: 1, keys: phraseKeys(node.expression.literal!, 'plain'), near: null }],
          whole: false,
          minimum: null,
          places: node.places,
          spares: node.spares,
        }
        push(this.byLook, addLook(look), rule)
      }
    }
    for (const [form, byKey] of keys) {
      const places = new Set<string>()
      for (const own of byKey.values())
        for (const t of own) {
          for (const p of this.looks[t.look]!.places) places.add(p)
          if (this.looks[t.look]!.spares) places.add('hidden')
        }
      this.forms.push({ form, index: new PhraseIndex([...byKey.keys()]), targets: [...byKey.values()], places })
    }
    this.needsExtras = [...this.forms.flatMap(f => [...f.places]), ...expressionPlaces(compiled)].some(
      p => !['subject', 'own', 'quoted', 'hidden'].includes(p),
    )
  }

  /** Builds the indexes. @param table the entries of its lists if they are in flat arrays already */
  static build(policy: Policy | CompiledPolicy, table?: EntryTable): IndexedPolicy {
    const compiled = 'rules' in policy && 'bindings' in policy && 'policy' in policy ? policy : compilePolicy(policy as Policy)
    return new IndexedPolicy(compiled, table ?? EntryTable.build(rowsOf(compiled.policy)))
  }

  /** Looks a message up, and says which clauses it wakes. */
  subject(copy: Copy): { subject: Subject, candidates: Candidates } {
    const { message, stage } = copy
    // Outbound, senders are asked of the recipient; then nothing is shared between copies.
    const shared = stage !== 'outbound'
    const prepared = shared && this.last?.message === message ? this.last.prepared : this.prepare(copy)
    if (shared) this.last = { message, prepared }
    const { stretches, finder, rules, bindings } = prepared
    return {
      subject: { ...copy, compiled: this.compiled, stretches, finder },
      candidates: { rules, bindings: tier => bindings.get(tier) ?? [], anyBinding: bindings.size > 0 },
    }
  }

  private prepare({ message, recipient, stage }: Copy): Prepared {
    const stretches: Stretch[] = this.needsExtras ? stretchesOf(message.content) : message.content.segments
    const senders = sendersOf(message, recipient, stage)
    const listHits = this.lookUp(this.table, this.senderWords, message, senders)
    const inlineHits = this.inlineNodes.length ? this.lookUp(this.inline, this.inlineWords, message, senders) : NO_HITS
    const { buckets, touched } = this.scan(stretches)
    const rules = new Set<CompiledRule>(this.awake)
    const wake = <K>(map: Map<K, CompiledRule[]>, keys: Iterable<K>) => {
      for (const key of keys) {
        const woken = map.get(key)
        if (woken) for (const rule of woken) rules.add(rule)
      }
    }
    wake(this.byLook, touched)
    wake(this.byList, listHits.keys())
    wake(this.bySender, inlineHits.keys())
    if (this.byGate.size) {
      wake(this.byGate, openGates(message))
      wake(
        this.byGate,
        message.content.headers.map(h => `header:${h.name.toLowerCase()}` as const),
      )
    }
    const bindings = new Map<string, Prepared['bindings'] extends Map<string, infer B> ? B : never>()
    for (const list of listHits.keys()) for (const { tier, bound } of this.boundLists.get(list) ?? []) push(bindings, tier, bound)
    const finder: Finder = {
      listHits: list => listHits.get(this.listNumbers.get(list) ?? -1) ?? [],
      entryHits: node => inlineHits.get(this.senderNumbers.get(node) ?? -1) ?? [],
      lookHits: look => this.hitsOf(look, buckets),
    }
    return { stretches, finder, rules: rules.size > 1 ? [...rules].sort((a, b) => a.rank - b.rank) : [...rules], bindings }
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
    table.findForMessage(content.list.id, attempt.client, note)
    for (let s = 0; s < senders.length; s++) {
      at = senders[s]!
      if (s > 0 && sameSender(at, senders[s - 1]!)) continue
      table.find(at.address, note)
      words.find(at.address, note)
    }
    const caught = found as Map<number, SenderAt> | null
    if (!caught) return NO_HITS
    const hits = new Map<number, EntryHit[]>()
    for (const i of [...caught.keys()].sort((a, b) => a - b)) push(hits, table.listOf(i), { ...caught.get(i)!, entry: table.entry(i) })
    return hits
  }

  private scan(stretches: readonly Stretch[]): { buckets: Map<number, PhraseHit[]>, touched: Set<number> } {
    const buckets = new Map<number, PhraseHit[]>()
    const touched = new Set<number>()
    for (const { form, index, targets, places } of this.forms) {
      stretches.forEach((stretch, segment) => {
        if (!places.has(stretch.place) && !placesOf(stretch).some(p => places.has(p))) return
        scanText(stretch.text, form, index, BUFFER, (key, start, view) => {
          const end = start + index.lengthOf(key)
          for (const t of targets[key]!) {
            const look = this.looks[t.look]!
            if (!sees(look, stretch)) continue
            const bucket = buckets.get(t.id)
            if (bucket && bucket.length >= this.most[t.look]!) continue
            const span = acceptSpan(view, start, end, t.joinedOnly, t.whole)
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
    const targets = this.lookTargets[this.lookNumbers.get(look)!]!
    const gather = (ids: readonly number[]) => {
      const filled = ids.flatMap(id => buckets.get(id) ?? [])
      return filled.length > 1 ? inOrder(filled) : filled
    }
    return { items: targets.items.map(gather), near: targets.near.map(companions => companions.map(gather)) }
  }
}

const NOBODY_AT: SenderAt = { on: 'envelope', address: NOBODY }
const NO_HITS: Map<number, EntryHit[]> = new Map()

function sameSender(a: SenderAt, b: SenderAt): boolean {
  return a.address.key === b.address.key && a.address.name === b.address.name
}

interface Prepared {
  stretches: Stretch[]
  finder: Finder
  rules: CompiledRule[]
  bindings: Map<string, { binding: CompiledPolicy['policy']['bindings'][number], list: CompiledPolicy['policy']['lists'][number] }[]>
}

function* rowsOf(policy: Policy) {
  for (const [list, { entries }] of policy.lists.entries()) for (const entry of entries) yield { list, entry }
}

function* expressionPlaces(compiled: CompiledPolicy): Generator<string> {
  const nodes = compiled.rules.flatMap(r => [r.when, ...r.except])
  for (let node = nodes.pop(); node; node = nodes.pop()) {
    if (node.op === 'all' || node.op === 'any' || node.op === 'none') nodes.push(...node.members)
    else if (node.op === 'expression') yield* node.places
  }
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const own = map.get(key)
  if (own) own.push(value)
  else map.set(key, [value])
}
