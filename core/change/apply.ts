import isSame from 'fast-deep-equal'
import { entryKey } from '../kinds'
import {
  refersToList,
  refersToSet,
  ruleProtects,
  type Binding,
  type Claim,
  type Entry,
  type List,
  type PhraseSet,
  type Quarantine,
  type Rule,
} from '../policy'
import { problemsIn } from './problems'
import type { ChangeProblem, Clauses, EntryPut, ListPut, PolicyChange, Putable } from './types'
import { widens, type Wider } from './widens'

/** What changes come to: the policy after them, or why they cannot be made. */
export type Applied<P> = { policy: P } | { problems: ChangeProblem[] }

/**
 * Applies changes to a policy, all or none. Everything in them has its id (see `completed`). What they refer to is asked of
 * what they come to together, so that two names may be exchanged, and a thing replaced by another of its name. A confirmation
 * that mail may be gone for good lapses when what it was given for becomes wider.
 */
export function apply<P extends Clauses>(policy: P, changes: readonly PolicyChange[]): Applied<P> {
  const problems: ChangeProblem[] = []
  let after = policy
  for (const [i, change] of changes.entries()) {
    const step = applyOne(after, change)
    if (typeof step === 'string') problems.push({ change: i, field: '', message: step, stale: true })
    else after = step
  }
  if (!problems.length) problems.push(...problemsIn(policy, after, changes))
  return problems.length ? { problems } : { policy: after }
}

/** The policy after one change, nothing checked besides; or what is not there. */
export function applyOne<P extends Clauses>(policy: P, change: PolicyChange): P | string {
  const wider = widens(policy, change)
  const changed = alter(policy, change)
  return typeof changed === 'string' ? changed : lapsed(changed, wider)
}

/** The same policy with lists that hold no entries: what stands on them may be a million, and most questions do not ask for it. */
export function withoutEntriesOf<P extends Pick<Clauses, 'lists'>>(policy: P): P {
  return { ...policy, lists: policy.lists.map(l => ({ ...l, entries: [] })) }
}

/**
 * The policy after differences that were found between two policies: what lapsed with them is among them.
 * @throws where it is not a policy to which they belong
 */
export function replayed<P extends Clauses>(policy: P, net: readonly PolicyChange[]): P {
  return net.reduce((at, change) => {
    const step = alter(at, change)
    if (typeof step === 'string') throw new Error(step)
    return step
  }, policy)
}

function alter<P extends Clauses>(policy: P, change: PolicyChange): P | string {
  if ('order' in change) return ordered(policy, change.order, change.rules)
  if ('remove' in change)
    return change.remove === 'entries' ? withoutEntries(policy, change.list, change.entries) : without(policy, change.remove, change.id)
  switch (change.put) {
    case 'entries':
      return withEntries(policy, change.list, change.entries)
    case 'list':
      return { ...policy, lists: putList(policy.lists, change.list as ListPut & { id: string }) }
    case 'use':
      return { ...policy, bindings: put(policy.bindings, change.use as Binding) }
    case 'rule':
      return { ...policy, rules: putRule(policy.rules, change.rule as Rule) }
    case 'phrase set':
      return { ...policy, phraseSets: put(policy.phraseSets, change['phrase set'] as PhraseSet) }
    case 'quarantine':
      return { ...policy, quarantines: put(policy.quarantines, change.quarantine as Quarantine) }
    case 'threshold': {
      const { id, ...threshold } = change.threshold
      return { ...policy, thresholds: { ...policy.thresholds, [id]: threshold } }
    }
  }
}

function put<T extends { id: string }>(things: readonly T[], thing: T): T[] {
  return things.some(t => t.id === thing.id) ? things.map(t => (t.id === thing.id ? thing : t)) : [...things, thing]
}

function putList(lists: readonly List[], list: ListPut & { id: string }): List[] {
  const there = lists.find(l => l.id === list.id)?.entries ?? []
  if (!list.entries) return put(lists, { ...list, entries: there })
  const known = new Map(there.map(e => [entryKey(e), e]))
  return put(lists, { ...list, entries: list.entries.map(e => putEntry(e, known.get(entryKey(e)))) })
}

/** A rule that is there keeps its place. A new one that protects starts on top of its owner's, any other at their end. */
function putRule(rules: readonly Rule[], rule: Rule): Rule[] {
  const before = rules.find(r => r.id === rule.id)
  // What was confirmed was the rule as it stood; changed, it is confirmed anew by saving it once more.
  if (before)
    return put(rules, hasConfirmed(before.claims) && asksElse(before, rule) ? { ...rule, claims: unconfirmed(rule.claims) } : rule)
  const at = ruleProtects(rule) ? rules.findIndex(r => r.owner === rule.owner) : rules.findLastIndex(r => r.owner === rule.owner) + 1
  return at < 0 || (at === 0 && !ruleProtects(rule)) ? [...rules, rule] : rules.toSpliced(at, 0, rule)
}

function asksElse(a: Rule, b: Rule): boolean {
  return !isSame(a.when, b.when) || !isSame(a.except, b.except)
}

function hasConfirmed(claims: readonly Claim[]): boolean {
  return claims.some(c => 'stop' in c && c.stop.confirmed)
}

/** The same claims without a confirmation. */
function unconfirmed(claims: readonly Claim[]): Claim[] {
  return claims.map(c => ('stop' in c && c.stop.confirmed ? { stop: { to: c.stop.to } } : c))
}

function changeList<P extends Clauses>(policy: P, id: string, how: (entries: readonly Entry[]) => Entry[]): P | string {
  if (!policy.lists.some(l => l.id === id)) return 'This list is not there any more.'
  return { ...policy, lists: policy.lists.map(l => (l.id === id ? { ...l, entries: how(l.entries) } : l)) }
}

function withEntries<P extends Clauses>(policy: P, list: string, entries: readonly EntryPut[]): P | string {
  return changeList(policy, list, (there) => {
    const out = new Map(there.map(e => [entryKey(e), e]))
    for (const entry of entries) out.set(entryKey(entry), putEntry(entry, out.get(entryKey(entry))))
    return [...out.values()]
  })
}

/** One that is there keeps its id, and since when and by whom it is there, unless it is put with just that id. */
function putEntry({ kind, value, note, expires, ...said }: EntryPut, there: Entry | undefined): Entry {
  const { id = '', addedAt, addedBy } = there && said.id !== there.id ? there : { ...there, ...said }
  return {
    id,
    kind,
    value,
    ...(note ? { note } : {}),
    ...(expires === undefined ? {} : { expires }),
    ...(addedAt === undefined ? {} : { addedAt }),
    ...(addedBy === undefined ? {} : { addedBy }),
  }
}

function withoutEntries<P extends Clauses>(policy: P, list: string, entries: readonly { kind: string, value: string }[]): P | string {
  const gone = new Set(entries.map(entryKey))
  return changeList(policy, list, there => there.filter(e => !gone.has(entryKey(e))))
}

const PLACE = { 'list': 'lists', 'use': 'bindings', 'rule': 'rules', 'phrase set': 'phraseSets', 'quarantine': 'quarantines' } as const

function without<P extends Clauses>(policy: P, what: Putable, id: string): P | string {
  if (what === 'threshold') {
    if (!policy.thresholds || !(id in policy.thresholds)) return 'This threshold is not there any more.'
    const { [id as 'likely']: _, ...rest } = policy.thresholds
    return { ...policy, thresholds: rest }
  }
  const place = PLACE[what]
  const things: readonly { id: string }[] = policy[place]
  if (!things.some(t => t.id === id)) return `This ${what} is not there any more.`
  return {
    ...policy,
    // A list goes with its uses.
    ...(what === 'list' ? { bindings: policy.bindings.filter(b => b.list !== id) } : {}),
    [place]: things.filter(t => t.id !== id),
  }
}

function ordered<P extends Clauses>(policy: P, owner: string, ids: readonly string[]): P | string {
  const own = new Map(policy.rules.filter(r => r.owner === owner).map(r => [r.id, r]))
  if (own.size !== ids.length || !ids.every(id => own.has(id)) || new Set(ids).size !== ids.length)
    return 'These are not the rules that there are now.'
  let next = 0
  return { ...policy, rules: policy.rules.map(r => (r.owner === owner ? own.get(ids[next++]!)! : r)) }
}

/** Without the confirmations that were given for what has become wider. */
function lapsed<P extends Clauses>(policy: P, wider: Wider | null): P {
  if (!wider) return policy
  const uses = (b: Binding) => 'list' in wider && b.list === wider.list && b.stop?.confirmed
  const asks = (r: Rule) => hasConfirmed(r.claims) && ('list' in wider ? refersToList(r, wider.list) : refersToSet(r, wider.set))
  if (!policy.bindings.some(uses) && !policy.rules.some(asks)) return policy
  return {
    ...policy,
    bindings: policy.bindings.map(b => (uses(b) ? { ...b, stop: { to: b.stop!.to } } : b)),
    rules: policy.rules.map(r => (asks(r) ? { ...r, claims: unconfirmed(r.claims) } : r)),
  }
}
