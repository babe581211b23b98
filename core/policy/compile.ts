import { makeAddress } from '../address'
import { phraseKey } from '../text'
import { senderKeys } from './entries'
import { tiersFor, type Tier } from './owners'
import { ruleStops, type Binding, type Condition, type Entry, type List, type Person, type Policy, type Rule } from './types'
import type { Address } from '../address'

/** A list with its entries by the keys under which a sender is looked up. */
export interface CompiledList {
  list: List
  byKey: Map<string, Entry[]>
}

/** A policy made ready for deciding. Built once a version. */
export interface CompiledPolicy {
  policy: Policy
  lists: Map<string, CompiledList>
  bindings: Map<string, { binding: Binding, list: CompiledList }[]>
  /** Rules of a tier, each part in people's order. */
  rules: Map<string, { raised: Rule[], plain: Rule[] }>
  /** Phrases in the form in which they are sought, by the condition or set that names them. */
  phraseKeys: Map<Condition | string, { phrase: string, key: string }[]>
  people: Map<string, Person>
}

export function tierKey(tier: Tier): string {
  return `${tier.owner}${tier.must ? ' must' : ''}`
}

/** Must rules that stop are raised unless lowered; other rules only if somebody raised them. */
export function isRaised(rule: Pick<Rule, 'must' | 'raised' | 'claims'>): boolean {
  return rule.raised ?? (rule.must === true && ruleStops(rule))
}

export function compilePolicy(policy: Policy): CompiledPolicy {
  const compiled: CompiledPolicy = { policy, lists: new Map(), bindings: new Map(), rules: new Map(), phraseKeys: new Map(), people: new Map() }
  for (const list of policy.lists) compiled.lists.set(list.id, compileList(list))
  for (const binding of policy.bindings) {
    const list = compiled.lists.get(binding.list)
    // A switched-off list, like a switched-off binding, is as if it were not there.
    if (!list?.list.on || binding.state === 'off') continue
    atKey(compiled.bindings, tierKey({ owner: binding.owner, must: binding.must === true }), () => []).push({ binding, list })
  }
  for (const set of policy.phraseSets) compiled.phraseKeys.set(set.id, keysOf(set.phrases))
  for (const rule of policy.rules) {
    if (rule.state === 'off') continue
    const tier = atKey(compiled.rules, tierKey({ owner: rule.owner, must: rule.must === true }), () => ({ raised: [], plain: [] }))
    ;(isRaised(rule) ? tier.raised : tier.plain).push(rule)
    for (const condition of [rule.when, ...rule.except]) collectPhrases(condition, compiled)
  }
  for (const person of policy.people) for (const address of person.addresses) compiled.people.set(makeAddress(address).key, person)
  return compiled
}

/** The person to whom an address belongs, a +tag ignored; null if it is nobody's here. */
export function personOf(compiled: CompiledPolicy, recipient: Address): Person | null {
  return compiled.people.get(recipient.key) ?? compiled.people.get(recipient.keyWithoutTag) ?? null
}

/** The order of owners for the person behind a recipient address (nobody's address has the organisation's alone). */
export function tiersOf(compiled: CompiledPolicy, recipient: Address): Tier[] {
  return tiersFor(compiled.policy, personOf(compiled, recipient))
}

/** The entries of a list that catch an address. */
export function entriesFor(list: CompiledList, address: Address | null): Entry[] {
  const found = [...list.byKey.get('everyone') ?? []]
  for (const key of address ? senderKeys(address) : []) found.push(...list.byKey.get(key) ?? [])
  return found
}

function compileList(list: List): CompiledList {
  const byKey = new Map<string, Entry[]>()
  for (const entry of list.entries) {
    const key = entry.kind === 'everyone' ? 'everyone' : entry.kind === 'domain and below' ? `below:${entry.value}` : `${entry.kind}:${entry.value}`
    atKey(byKey, key, () => []).push(entry)
  }
  return { list, byKey }
}

function collectPhrases(condition: Condition, compiled: CompiledPolicy): void {
  if ('phrases' in condition && condition.phrases) compiled.phraseKeys.set(condition, keysOf(condition.phrases))
  for (const kind of ['all', 'any', 'none'] as const) {
    if (kind in condition) (condition as Record<typeof kind, Condition[]>)[kind].forEach(c => collectPhrases(c, compiled))
  }
}

function keysOf(phrases: readonly string[]): { phrase: string, key: string }[] {
  return phrases.map(phrase => ({ phrase, key: phraseKey(phrase) }))
}

function atKey<K, V>(map: Map<K, V>, key: K, make: () => V): V {
  let value = map.get(key)
  if (value === undefined) map.set(key, value = make())
  return value
}
