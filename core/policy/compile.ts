import { addTo } from '../add-to'
import { makeAddress, type Address } from '../address'
import { tiersFor, type Tier } from './owners'
import { ruleTree, type RuleTree } from './tree'
import { ruleStops, type Binding, type List, type Person, type Policy, type Rule } from './types'

/** A rule with its place in the order of its owner. */
export interface CompiledRule extends RuleTree {
  rule: Rule
  tier: string
  raised: boolean
  rank: number
}

/** A policy made ready for deciding, without indexes. Built once a version. */
export interface CompiledPolicy {
  policy: Policy
  lists: Map<string, List>
  /** Bindings that are not off, of lists that are on, by tier. */
  bindings: Map<string, { binding: Binding, list: List }[]>
  /** Rules that are not off, in people's order. */
  rules: CompiledRule[]
  /** By address; an office's mailbox belongs to several people. */
  people: Map<string, readonly Person[]>
  /** Readers that were asked for before: reading an address costs more than deciding. */
  readers: Map<string, Reader>
}

/** Whose clauses stand over a copy. */
export interface Reader {
  address: Address
  /** Id of the person, or null where it is nobody's here. */
  person: string | null
  /** It belongs to several people. */
  shared: boolean
  /** Keys of the tiers, in their order. */
  tiers: string[]
}

const MOST_READERS = 20_000

export function tierKey(tier: Tier): string {
  return `${tier.owner}${tier.must ? ' must' : ''}`
}

/** Must rules that stop are raised unless lowered; other rules only if somebody raised them. */
export function isRaised(rule: Pick<Rule, 'must' | 'raised' | 'claims'>): boolean {
  return rule.raised ?? (rule.must === true && ruleStops(rule))
}

export function compilePolicy(policy: Policy): CompiledPolicy {
  const lists = new Map(policy.lists.map(l => [l.id, l]))
  const sets = new Map(policy.phraseSets.map(s => [s.id, s]))
  const bindings: CompiledPolicy['bindings'] = new Map()
  for (const binding of policy.bindings) {
    const list = lists.get(binding.list)
    // A switched-off list, like a switched-off binding, is as if it were not there.
    if (!list?.on || binding.state === 'off') continue
    const key = tierKey({ owner: binding.owner, must: binding.must === true })
    addTo(bindings, key, { binding, list })
  }
  const rules = policy.rules.flatMap((rule, rank) => rule.state === 'off'
    ? []
    : [{ rule, tier: tierKey({ owner: rule.owner, must: rule.must === true }), raised: isRaised(rule), rank, ...ruleTree(rule, sets) }])
  const people = new Map<string, Person[]>()
  for (const person of policy.people)
    for (const { key } of person.addresses.map(a => makeAddress(a))) people.set(key, [...(people.get(key) ?? []), person])
  return { policy, lists, bindings, rules, people, readers: new Map() }
}

/** The people to whom an address belongs, a +tag ignored; none if it is nobody's here. */
export function peopleOf(compiled: Pick<CompiledPolicy, 'people'>, recipient: Address): readonly Person[] {
  return compiled.people.get(recipient.key) ?? compiled.people.get(recipient.keyWithoutTag) ?? []
}

/**
 * Whose departments' clauses stand over an address: its person's; of an address of several people those that all of them are in,
 * in the order of the first. Nobody's own clauses stand over what is not theirs alone.
 */
function departmentsOf([first, ...others]: readonly Person[]): string[] {
  return (first?.departments ?? []).filter(d => others.every(p => p.departments.includes(d)))
}

/** The reader behind an address as it is written. */
export function readerOf(compiled: CompiledPolicy, recipient: string): Reader {
  let reader = compiled.readers.get(recipient)
  if (!reader) {
    const address = makeAddress(recipient)
    const people = peopleOf(compiled, address)
    const person = people.length === 1 ? people[0]!.id : null
    reader = { address, person, shared: people.length > 1, tiers: tiersFor(compiled.policy, person, departmentsOf(people)).map(tierKey) }
    if (compiled.readers.size >= MOST_READERS) compiled.readers.clear()
    compiled.readers.set(recipient, reader)
  }
  return reader
}
