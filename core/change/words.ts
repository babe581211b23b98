import { entryKey, entryWords, type EntryText } from '../kinds'
import { counted, oneOf, quoted } from '../wording'
import { isPersonal, ownerName, phraseText, type Owner, type Policy } from '../policy'
import { assignmentSentence, listName, ruleSentence, STATE_NAMES, stopWords } from '../words'
import { touches } from './touches'
import type { PolicyChange, Touched } from './types'

type NamedPolicy = Pick<
  Policy,
  'quarantines' | 'lists' | 'assignments' | 'phraseSets' | 'rules' | 'thresholds' | 'departments' | 'people' | 'trust'
>

const MAX_NAMED = 3
const NAMED: Record<'rule' | 'phraseSet' | 'quarantine' | 'list', string> = {
  rule: 'Rule',
  phraseSet: 'Phrase set',
  quarantine: 'Quarantine',
  list: 'List',
}

/**
 * What a change does, in a sentence that names whatever it touches: the thing itself, and the clauses that use it. Of people's
 * own clauses only that there are some.
 * @param policy before the change
 */
export function changeWords(policy: NamedPolicy, change: PolicyChange): string {
  const others = alsoWords(policy, change)
  return `${ownWords(policy, change)}${others ? `; ${others}` : ''}`
}

function ownWords(policy: NamedPolicy, change: PolicyChange): string {
  if (change.type === 'order') {
    const names = new Map(policy.rules.map(r => [r.id, r.name]))
    const named = change.ids.map(id => names.get(id) ?? id)
    return `Rules of ${whose(policy, change.owner)} reordered: ${oneOf(named.map(quoted), 'and', named.length)}`
  }
  if (change.type === 'remove') return removalWords(policy, change)
  switch (change.kind) {
    case 'entries': {
      const there = new Set(policy.lists.find(l => l.id === change.list)?.entries.map(entryKey))
      const isThere = (e: EntryText) => there.has(entryKey(e))
      const known = there.size ? change.entries.filter(isThere) : []
      const fresh = known.length ? change.entries.filter(e => !isThere(e)) : change.entries
      const parts = [
        ...(fresh.length ? [`${counted(fresh.length, 'entry', 'entries')} added: ${someEntries(fresh)}`] : []),
        ...(known.length ? [`${counted(known.length, 'entry', 'entries')} changed: ${someEntries(known)}`] : []),
      ]
      return `List ${listName(policy, change.list)}: ${parts.join('; ') || 'nothing added'}`
    }
    case 'list': {
      const { id, name, enabled } = change.value
      const before = policy.lists.find(l => l.id === id)
      const how = !before ? 'created' : before.enabled === enabled ? 'changed' : enabled ? 'enabled' : 'disabled'
      return `List ${renamed(before?.name, name)} ${how}`
    }
    case 'assignment': {
      const assignment = change.value
      const how = policy.assignments.some(b => b.id === assignment.id) ? 'assignment changed' : 'assigned'
      const sentence = assignmentSentence(assignment, policy, ownerName(policy, assignment.owner))
      return `List ${listName(policy, assignment.list)} ${how}: ${sentence}`
    }
    case 'rule': {
      const rule = change.value
      const before = policy.rules.find(r => r.id === rule.id)
      const how = !before
        ? `created, ${STATE_NAMES[rule.state]}`
        : before.state === rule.state
          ? 'changed'
          : `changed: now ${STATE_NAMES[rule.state]}`
      return `Rule ${renamed(before?.name, rule.name)} ${how}: ${ruleSentence(rule, policy)}`
    }
    case 'phraseSet': {
      const set = change.value
      const before = policy.phraseSets.find(s => s.id === set.id)
      const known = new Set(before?.phrases.map(phraseText))
      const now = new Set(set.phrases.map(phraseText))
      const [added, gone] = [[...now].filter(p => !known.has(p)), [...known].filter(p => !now.has(p))]
      const parts = [
        ...(added.length ? [`added ${someOf(added.map(quoted))}`] : []),
        ...(gone.length ? [`removed ${someOf(gone.map(quoted))}`] : []),
      ]
      return `Phrase set ${renamed(before?.name, set.name)} ${before ? 'changed' : 'created'}${parts.length ? `: ${parts.join('; ')}` : ''}`
    }
    case 'quarantine': {
      const before = policy.quarantines.find(q => q.id === change.value.id)
      return `Quarantine ${renamed(before?.name, change.value.name)} ${before ? 'changed' : 'created'}`
    }
    case 'threshold':
      return `Threshold ${quoted(change.value.id)}: score ${change.value.at} or more: ${stopWords(change.value.stop, policy)}`
  }
}

function removalWords(policy: NamedPolicy, change: Extract<PolicyChange, { type: 'remove' }>): string {
  if (change.kind === 'entries')
    return `List ${listName(policy, change.list)}: ${counted(change.entries.length, 'entry', 'entries')} removed: `
      + someEntries(change.entries)
  const { kind, id } = change
  if (kind === 'threshold') return `Threshold ${quoted(id)} removed`
  if (kind === 'assignment') {
    const assignment = policy.assignments.find(b => b.id === id)
    return assignment
      ? `List ${listName(policy, assignment.list)} assignment removed: `
      + assignmentSentence(assignment, policy, ownerName(policy, assignment.owner))
      : 'Assignment of a list removed'
  }
  const things: Record<keyof typeof NAMED, readonly { id: string, name: string }[]> = {
    rule: policy.rules,
    phraseSet: policy.phraseSets,
    quarantine: policy.quarantines,
    list: policy.lists,
  }
  return `${NAMED[kind]} ${quoted(things[kind].find(t => t.id === id)?.name ?? id)} deleted`
}

/** The clauses that a change alters by way of what they use. */
function alsoWords(policy: NamedPolicy, change: PolicyChange): string {
  if (change.kind === 'rule' || change.kind === 'assignment' || change.kind === 'threshold') return ''
  const named = namesOf(policy)
  const touched = touches(policy, change).map(named)
  const open = [...new Set(touched.filter(t => !isPersonal(t.owner)).map(t => t.name))]
  const own = touched.length - touched.filter(t => !isPersonal(t.owner)).length
  const all = [...open, ...(own ? [counted(own, 'personal list or rule', 'personal lists and rules')] : [])]
  return all.length ? `this also changes ${oneOf(all, 'and', all.length)}` : ''
}

/** Names clauses: thousands may use one list, and each is looked up without going through the others. */
function namesOf(policy: NamedPolicy): (touched: Touched) => { owner: Owner, name: string } {
  const rules = new Map(policy.rules.map(r => [r.id, r]))
  const assignments = new Map(policy.assignments.map(b => [b.id, b]))
  const lists = new Map(policy.lists.map(l => [l.id, l]))
  return ({ kind, id }) => {
    if (kind === 'threshold') return { owner: 'organisation', name: `threshold ${quoted(id)}` }
    if (kind === 'rule') return { owner: rules.get(id)?.owner ?? 'organisation', name: `rule ${quoted(rules.get(id)?.name ?? id)}` }
    const assignment = assignments.get(id)
    if (!assignment) return { owner: 'organisation', name: 'an assignment of a list' }
    return {
      owner: assignment.owner,
      name: `list ${quoted(lists.get(assignment.list)?.name ?? assignment.list)} for ${whose(policy, assignment.owner)}`,
    }
  }
}

function whose(policy: NamedPolicy, owner: Owner): string {
  return owner === 'organisation' ? 'the organisation' : ownerName(policy, owner)
}

function renamed(before: string | undefined, now: string): string {
  return before === undefined || before === now ? quoted(now) : `${quoted(before)}, now ${quoted(now)},`
}

/** The first of them, for a note that is read in passing. */
function someOf(values: readonly string[]): string {
  return values.slice(0, MAX_NAMED).join(', ') + (values.length > MAX_NAMED ? ', …' : '')
}

function someEntries(entries: readonly EntryText[]): string {
  const named = entries.slice(0, MAX_NAMED).map(entryWords)
  return named.join(', ') + (entries.length > MAX_NAMED ? ', …' : '')
}
