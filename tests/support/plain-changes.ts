import isSame from 'fast-deep-equal'
import {
  refersToList,
  refersToSet,
  ruleProtects,
  type Assignment,
  type Claim,
  type Entry,
  type List,
  type PhraseSet,
  type Quarantine,
  type Rule,
} from '#core'
import type { Clauses, EntryPut, PolicyChange, ClauseKind } from '#core/change'
import { entryKey } from '../../core/kinds'

// Changes applied in the plainest way: for each the whole policy is gone through and made anew. What applies them fast is held
// against this.

type ListPut = Omit<List, 'entries'> & { entries?: Entry[] }

/** The policy after changes, as far as each can be made; nothing is checked besides. */
export function plainlyApplied<P extends Clauses>(policy: P, changes: readonly PolicyChange[]): P {
  return changes.reduce((at, change) => {
    const wider = widens(at, change)
    const changed = alter(at, change)
    return typeof changed === 'string' ? at : lapsed(changed, wider)
  }, policy)
}

function alter<P extends Clauses>(policy: P, change: PolicyChange): P | string {
  if (change.type === 'order') return ranked(policy, change.owner, change.ids)
  if (change.type === 'remove')
    return change.kind === 'entries' ? withoutEntries(policy, change.list, change.entries) : without(policy, change.kind, change.id)
  switch (change.kind) {
    case 'entries':
      return withEntries(policy, change.list, change.entries)
    case 'list':
      return { ...policy, lists: putList(policy.lists, change.value as ListPut & { id: string }) }
    case 'assignment':
      return { ...policy, assignments: put(policy.assignments, change.value as Assignment) }
    case 'rule':
      return { ...policy, rules: putRule(policy.rules, change.value as Rule) }
    case 'phraseSet':
      return { ...policy, phraseSets: put(policy.phraseSets, change.value as PhraseSet) }
    case 'quarantine':
      return { ...policy, quarantines: put(policy.quarantines, change.value as Quarantine) }
    case 'threshold': {
      const { id, ...threshold } = change.value
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
  // Whose it was before, it is another's: it comes where a new one would.
  if (before && before.owner !== rule.owner) return putRule(rules.filter(r => r.id !== rule.id), rule)
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
  if (!policy.lists.some(l => l.id === id)) return 'This list no longer exists.'
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

const PLACE = { list: 'lists', assignment: 'assignments', rule: 'rules', phraseSet: 'phraseSets', quarantine: 'quarantines' } as const

function without<P extends Clauses>(policy: P, what: ClauseKind, id: string): P | string {
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
    ...(what === 'list' ? { assignments: policy.assignments.filter(b => b.list !== id) } : {}),
    [place]: things.filter(t => t.id !== id),
  }
}

function ranked<P extends Clauses>(policy: P, owner: string, ids: readonly string[]): P | string {
  const own = new Map(policy.rules.filter(r => r.owner === owner).map(r => [r.id, r]))
  if (own.size !== ids.length || !ids.every(id => own.has(id)) || new Set(ids).size !== ids.length)
    return 'Rules were added or deleted in the meantime. Reload the page and order them again.'
  let next = 0
  return { ...policy, rules: policy.rules.map(r => (r.owner === owner ? own.get(ids[next++]!)! : r)) }
}

/** Without the confirmations that were given for what has become wider. */
function lapsed<P extends Clauses>(policy: P, wider: Wider | null): P {
  if (!wider) return policy
  const assignments = (b: Assignment) => 'list' in wider && b.list === wider.list && b.stop?.confirmed
  const asks = (r: Rule) => hasConfirmed(r.claims) && ('list' in wider ? refersToList(r, wider.list) : refersToSet(r, wider.set))
  if (!policy.assignments.some(assignments) && !policy.rules.some(asks)) return policy
  return {
    ...policy,
    assignments: policy.assignments.map(b => (assignments(b) ? { ...b, stop: { to: b.stop!.to } } : b)),
    rules: policy.rules.map(r => (asks(r) ? { ...r, claims: unconfirmed(r.claims) } : r)),
  }
}

type Wider = { list: string } | { set: string }

function widens(policy: Clauses, change: PolicyChange): Wider | null {
  if (change.type !== 'put') return null
  if (change.kind === 'entries') return addsTo(policy, change.list, change.entries) ? { list: change.list } : null
  if (change.kind === 'list') {
    const { id = '', enabled, entries } = change.value
    const before = policy.lists.find(l => l.id === id)
    const wider = before && ((enabled && !before.enabled) || (entries && addsTo(policy, id, entries)))
    return wider ? { list: id } : null
  }
  if (change.kind === 'phraseSet') {
    const now = change.value
    const before = policy.phraseSets.find(s => s.id === now.id)
    return before && isWider(now, before) ? { set: before.id } : null
  }
  return null
}

function addsTo(policy: Clauses, list: string, entries: readonly EntryPut[]): boolean {
  const there = policy.lists.find(l => l.id === list)?.entries ?? []
  const known = new Map(there.map(e => [entryKey(e), e]))
  return entries.some((e) => {
    const before = known.get(entryKey(e))
    return !before || before.expires !== e.expires
  })
}

function isWider(now: Pick<PhraseSet, 'phrases' | 'minimum'>, before: PhraseSet): boolean {
  return (now.minimum ?? 0) < (before.minimum ?? 0) || now.phrases.some(p => !before.phrases.some(b => isSame(p, b)))
}
