import type { PolicyChange } from '../change'
import type { EntryKind, EntryText } from '../kinds'
import { groupMembers, sendersOfCondition, type Condition, type Policy, type Rule } from '../policy'

/** What mail must have so that a change can find anything else in it: one of these senders. Null: any mail may. */
export type LookupKeys = EntryText[] | null

/** Kinds of entries by which an archive finds mail. Of the others it has to look at all. */
const FOUND: readonly EntryKind[] = ['address', 'domain', 'domainAndSubdomains', 'mailingList']
const MAX = 2000

/**
 * What an archive can be asked for before a change is simulated. It may find too much, never too little.
 * @param before the policies before and after the change; lists may lack all entries but those that the change is about
 * @param net the differences between them
 */
export function lookupKeysOf(before: Policy, after: Policy, net: readonly PolicyChange[]): LookupKeys {
  const out: EntryText[] = []
  for (const change of net) {
    const own = keysOfChange([before, after], change, net)
    if (!own) return null
    out.push(...own)
    if (out.length > MAX) return null
  }
  return out.every(e => FOUND.includes(e.kind)) ? out : null
}

function keysOfChange(policies: readonly Policy[], change: PolicyChange, net: readonly PolicyChange[]): LookupKeys {
  if ('entries' in change) return change.entries
  if (change.type === 'order') return null
  const { kind } = change
  const id = change.type === 'put' ? change.value.id ?? '' : change.id
  if (kind === 'quarantine') return []
  if (kind === 'rule') return rulesKeys(policies.flatMap(p => p.rules.filter(r => r.id === id)))
  if (kind === 'assignment')
    return entriesOfMade(
      policies.flatMap(p => p.assignments.filter(b => b.id === id)).map(b => b.list),
      policies,
      net,
    )
  if (kind === 'list') return entriesOfMade([id], policies, net)
  return null
}

// What a list holds is known here only where it is made by the same changes.
function entriesOfMade(lists: readonly string[], [before]: readonly Policy[], net: readonly PolicyChange[]): LookupKeys {
  if (lists.some(id => before!.lists.some(l => l.id === id))) return null
  return net.flatMap(c => (c.type === 'put' && c.kind === 'entries' && lists.includes(c.list) ? c.entries : []))
}

function rulesKeys(rules: readonly Pick<Rule, 'when'>[]): LookupKeys {
  const each = rules.map(r => conditionKeys(r.when))
  return each.includes(null) ? null : (each as EntryText[][]).flat()
}

/** Senders of whom a condition needs one to hold at all; null where it may hold without. */
function conditionKeys(when: Condition): LookupKeys {
  if ('sender' in when) return sendersOfCondition(when)
  if ('all' in when) return when.all.map(conditionKeys).find(n => n !== null) ?? null
  if ('any' in when) {
    const each = groupMembers(when)!.map(conditionKeys)
    return each.includes(null) ? null : (each as EntryText[][]).flat()
  }
  return null
}
