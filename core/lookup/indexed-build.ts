import { addTo } from '../add-to'
import {
  compilePolicy,
  type Assignment,
  type CompiledPolicy,
  type CompiledRule,
  type List,
  type Look,
  type Node,
  type Policy,
} from '../policy'
import { mostHits } from '../decide'
import type { FactName } from '../kinds'
import { phraseKeys, PhraseIndex, wholeEnds, type PhraseKey, type ViewForm, type WholeEnds } from '../text'
import type { EntryTable } from './entry-table'
import { buildEntryTable } from './entry-table-builder'
import { SenderWords } from './sender-words'
import { kindOfKey, prefilterKeysOf, type FactKey } from './prefilter'

/** One key of one phrase of one look: where a hit of the key goes. */
export interface Target {
  look: number
  id: number
  joinedOnly: boolean
  ends: WholeEnds
}

/** All phrases that are sought in one form of the text. */
export interface FormIndex {
  form: ViewForm
  index: PhraseIndex
  /** By key. */
  targets: Target[][]
  /** Places of which some look sees something. */
  places: Set<string>
}

type SenderNode = Extract<Node, { op: 'sender' }>
export interface Bound {
  assignment: Assignment
  list: List
}

/** Everything by which a policy's clauses are found. Built once a version; asking changes nothing of it. */
export class PolicyIndexes {
  readonly looks: Look[] = []
  readonly lookNumbers = new Map<Look, number>()
  /** Per look, how many hits of one key are kept. */
  readonly most: number[] = []
  /** Per look, per item: the target numbers of its keys; then the same for its near phrases. */
  readonly lookTargets: { items: number[][], near: number[][][] }[] = []
  readonly forms: FormIndex[] = []
  readonly inline: EntryTable
  readonly inlineNodes: SenderNode[] = []
  readonly senderNumbers = new Map<Node, number>()
  readonly senderWords: SenderWords
  readonly inlineWords: SenderWords
  /** Rules that nothing wakes. */
  readonly awake: CompiledRule[] = []
  readonly byLook = new Map<number, CompiledRule[]>()
  readonly byList = new Map<number, CompiledRule[]>()
  readonly bySender = new Map<number, CompiledRule[]>()
  readonly byFactKey = new Map<FactKey, CompiledRule[]>()
  /** Kinds of conditions that wait at some gate. */
  readonly factKinds = new Set<FactName>()
  readonly listNumbers = new Map<string, number>()
  readonly boundLists = new Map<number, { tier: string, bound: Bound }[]>()
  /** Some look sees what stands outside subject and text. */
  readonly needsExtras: boolean

  constructor(
    readonly compiled: CompiledPolicy,
    readonly table: EntryTable,
  ) {
    compiled.policy.lists.forEach((l, i) => this.listNumbers.set(l.id, i))
    for (const [tier, bound] of compiled.assignments)
      for (const b of bound) addTo(this.boundLists, this.listNumbers.get(b.list.id)!, { tier, bound: b })
    const keys = new Map<ViewForm, Map<string, Target[]>>()
    let targets = 0
    const target = (look: number, key: PhraseKey): number => {
      const forForm = keys.get(key.form) ?? keys.set(key.form, new Map()).get(key.form)!
      const id = targets++
      addTo(forForm, key.key, { look, id, joinedOnly: key.joinedOnly, ends: wholeEnds(key.key, this.looks[look]!.whole) })
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
    this.inline = buildEntryTable(this.inlineNodes.map((node, i) => ({ list: i, entry: { id: '', ...node.entry } })))
    this.senderWords = new SenderWords(table)
    this.inlineWords = new SenderWords(this.inline)
    this.inlineNodes.forEach((n, i) => this.senderNumbers.set(n, i))
    for (const rule of compiled.rules) {
      const prefilterKeys = prefilterKeysOf(rule)
      if (!prefilterKeys) {
        this.awake.push(rule)
        continue
      }
      for (const look of prefilterKeys.looks) addTo(this.byLook, this.lookNumbers.get(look)!, rule)
      for (const list of prefilterKeys.lists) if (this.listNumbers.has(list)) addTo(this.byList, this.listNumbers.get(list)!, rule)
      for (const node of prefilterKeys.senders) addTo(this.bySender, this.senderNumbers.get(node)!, rule)
      for (const gate of prefilterKeys.factKeys) {
        addTo(this.byFactKey, gate, rule)
        this.factKinds.add(kindOfKey(gate))
      }
      // The literal of an expression wakes it; the expression itself then looks.
      for (const node of prefilterKeys.expressions) {
        const look: Look = {
          items: [{ text: node.expression.literal!, weight: 1, keys: phraseKeys(node.expression.literal!, 'plain'), near: null }],
          whole: false,
          minimum: null,
          places: node.places,
          exempts: node.exempts,
        }
        addTo(this.byLook, addLook(look), rule)
      }
    }
    for (const [form, byKey] of keys) {
      const places = new Set<string>()
      for (const own of byKey.values())
        for (const t of own) {
          for (const p of this.looks[t.look]!.places) places.add(p)
          if (this.looks[t.look]!.exempts) places.add('hidden')
        }
      this.forms.push({ form, index: new PhraseIndex([...byKey.keys()]), targets: [...byKey.values()], places })
    }
    this.needsExtras = [...this.forms.flatMap(f => [...f.places]), ...expressionPlaces(compiled)].some(
      p => !['subject', 'own', 'quoted', 'hidden'].includes(p),
    )
  }
}

/** Builds the indexes. @param table the entries of its lists if they are in flat arrays already */
export function buildIndexes(policy: Policy | CompiledPolicy, table?: EntryTable): PolicyIndexes {
  const compiled = 'policy' in policy ? policy : compilePolicy(policy)
  return new PolicyIndexes(compiled, table ?? buildEntryTable(rowsOf(compiled.policy)))
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
