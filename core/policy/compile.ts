import { addTo } from '../add-to'
import { makeAddress, type Address } from '../address'
import { UserNames } from '../kinds'
import { tiersFor, type Tier } from './owners'
import { ruleTree, type RuleTree } from './tree'
import { ruleStops, type Assignment, type List, type Person, type Policy, type Rule } from './types'

/** A rule with its place in the order of its owner. */
export interface CompiledRule extends RuleTree {
  rule: Rule
  tier: string
  overridesLists: boolean
  rank: number
}

/** A policy made ready for deciding, without indexes. Built once a version. */
export interface CompiledPolicy {
  policy: Policy
  lists: Map<string, List>
  /** Assignments that are not off, of lists that are on, by tier. */
  assignments: Map<string, { assignment: Assignment, list: List }[]>
  /** Rules that are not off, in people's order. */
  rules: CompiledRule[]
  /** By address; an office's mailbox belongs to several people. */
  people: Map<string, readonly Person[]>
  userNames: UserNames
  /** Readers that were asked for before: reading an address costs more than deciding. */
  recipients: Map<string, KnownRecipient>
}

/** Whose clauses stand over a copy. */
export interface KnownRecipient {
  address: Address
  /** Id of the person, or null where it is nobody's here. */
  person: string | null
  /** It belongs to several people. */
  shared: boolean
  /** Keys of the tiers, in their order. */
  tiers: string[]
}

const MAX_RECIPIENTS = 20_000

export function tierKey(tier: Tier): string {
  return `${tier.owner}${tier.mandatory ? ' mandatory' : ''}`
}

/** Mandatory rules that stop override lists unless lowered; other rules only if somebody raised them. */
export function isOverriding(rule: Pick<Rule, 'mandatory' | 'overridesLists' | 'claims'>): boolean {
  return rule.overridesLists ?? (rule.mandatory === true && ruleStops(rule))
}

export function compilePolicy(policy: Policy): CompiledPolicy {
  const lists = new Map(policy.lists.map(l => [l.id, l]))
  const sets = new Map(policy.phraseSets.map(s => [s.id, s]))
  const assignments: CompiledPolicy['assignments'] = new Map()
  for (const assignment of policy.assignments) {
    const list = lists.get(assignment.list)
    // A switched-off list, like a switched-off assignment, is as if it were not there.
    if (!list?.enabled || assignment.state === 'disabled') continue
    const key = tierKey({ owner: assignment.owner, mandatory: assignment.mandatory === true })
    addTo(assignments, key, { assignment, list })
  }
  const rules = policy.rules.flatMap((rule, rank) => rule.state === 'disabled'
    ? []
    : [{
        rule,
        tier: tierKey({ owner: rule.owner, mandatory: rule.mandatory === true }),
        overridesLists: isOverriding(rule),
        rank,
        ...ruleTree(rule, sets),
      }])
  const people = new Map<string, Person[]>()
  for (const person of policy.people)
    for (const { key } of person.addresses.map(a => makeAddress(a))) people.set(key, [...(people.get(key) ?? []), person])
  return { policy, lists, assignments, rules, people, userNames: new UserNames(policy.people), recipients: new Map() }
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
export function recipientOf(compiled: CompiledPolicy, recipient: string): KnownRecipient {
  let found = compiled.recipients.get(recipient)
  if (!found) {
    const address = makeAddress(recipient)
    const people = peopleOf(compiled, address)
    const person = people.length === 1 ? people[0]!.id : null
    found = { address, person, shared: people.length > 1, tiers: tiersFor(compiled.policy, person, departmentsOf(people)).map(tierKey) }
    if (compiled.recipients.size >= MAX_RECIPIENTS) compiled.recipients.clear()
    compiled.recipients.set(recipient, found)
  }
  return found
}
