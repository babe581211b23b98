import type { Assignment, Entry, List, PhraseSet, Quarantine, Rule, Threshold } from '#core'
import type { EntryPut, PolicyChange, ThresholdName } from '#core/change'
import type { assignments, entries, lists, phraseSets, quarantines, rules, thresholds } from '../db/schema'

/** A list as its row has it; its entries are rows of their own. */
export function listOf(l: typeof lists.$inferSelect): List {
  return { id: l.id, name: l.name, owner: l.owner, usualSide: l.usualSide, enabled: l.enabled, entries: [] }
}

export function entryOf(e: typeof entries.$inferSelect): Entry {
  return strip({
    id: e.id,
    kind: e.kind,
    value: e.value,
    note: e.note,
    expires: e.expires?.toISOString(),
    addedAt: e.addedAt.toISOString(),
    addedBy: e.addedBy,
  })
}

export function assignmentOf(b: typeof assignments.$inferSelect): Assignment {
  return strip({
    id: b.id,
    list: b.listId,
    owner: b.owner,
    side: b.side,
    mandatory: b.mandatory || undefined,
    state: b.state,
    direction: b.direction,
    stop: b.stop,
    protect: b.protect,
    counts: b.counts,
  })
}

export function ruleOf(r: typeof rules.$inferSelect): Rule {
  return strip({
    id: r.id,
    name: r.name,
    description: r.description,
    group: r.group,
    owner: r.owner,
    mandatory: r.mandatory || undefined,
    overridesLists: r.overridesLists,
    state: r.state,
    direction: r.direction,
    when: r.when,
    except: r.except,
    claims: r.claims,
    end: r.end,
    expires: r.expires?.toISOString(),
    reviewOn: r.reviewOn?.toISOString(),
  })
}

export function phraseSetOf(s: typeof phraseSets.$inferSelect): PhraseSet {
  return strip({ id: s.id, name: s.name, owner: s.owner, phrases: s.phrases, minimum: s.minimum })
}

export function quarantineOf(q: typeof quarantines.$inferSelect): Quarantine {
  return strip({ id: q.id, name: q.name, general: q.general || undefined })
}

export function thresholdOf(t: typeof thresholds.$inferSelect): Threshold & { id: ThresholdName } {
  return { id: t.id as ThresholdName, at: t.at, stop: t.stop }
}

// Leaves out what is not said, as the policy's JSON does.
function strip<T>(row: { [K in keyof T]: T[K] | null | undefined }): T {
  return Object.fromEntries(Object.entries(row).filter(([, v]) => v !== null && v !== undefined)) as T
}

/** What a row holds of a use. */
export function assignmentRow(b: Assignment) {
  return {
    id: b.id,
    listId: b.list,
    owner: b.owner,
    side: b.side,
    mandatory: b.mandatory === true,
    state: b.state,
    direction: b.direction ?? ('inbound' as const),
    stop: b.stop ?? null,
    protect: b.protect ?? null,
    counts: b.counts ?? null,
  }
}

/** What a row holds of a rule. */
export function ruleRow(r: Rule) {
  return {
    id: r.id,
    name: r.name,
    description: r.description || null,
    group: r.group || null,
    owner: r.owner,
    mandatory: r.mandatory === true,
    overridesLists: r.overridesLists ?? null,
    state: r.state,
    direction: r.direction ?? ('inbound' as const),
    when: r.when,
    except: r.except,
    claims: r.claims,
    end: r.end ?? null,
    expires: r.expires ? new Date(r.expires) : null,
    reviewOn: r.reviewOn ? new Date(r.reviewOn) : null,
  }
}

type AssignmentRow = typeof assignments.$inferSelect
type RuleRow = typeof rules.$inferSelect

/**
 * A change with everything in the form in which it comes back from the store: what is left out and what is said to be as it is
 * by default are the same there. Two such forms can be compared.
 */
export function asStored(change: PolicyChange): PolicyChange {
  if (change.type !== 'put') return change
  switch (change.kind) {
    case 'rule':
      return { ...change, value: ruleOf(ruleRow(change.value as Rule) as RuleRow) }
    case 'assignment':
      return { ...change, value: assignmentOf(assignmentRow(change.value as Assignment) as AssignmentRow) }
    case 'list':
      return change.value.entries ? { ...change, value: { ...change.value, entries: change.value.entries.map(storedEntry) } } : change
    case 'entries':
      return { ...change, entries: change.entries.map(storedEntry) }
    default:
      return change
  }
}

// Most of them were added at the same instant.
let lately = { text: '', instant: '' }
function instant(text: string): string {
  if (lately.text !== text) lately = { text, instant: new Date(text).toISOString() }
  return lately.instant
}

function storedEntry<E extends EntryPut>(entry: E): E {
  // Of a large paste there are a hundred thousand: nothing is made that is not needed.
  const { id, kind, value, note, expires, addedAt, addedBy } = entry
  const stored: EntryPut = { kind, value }
  if (id !== undefined) stored.id = id
  if (note) stored.note = note
  if (expires) stored.expires = instant(expires)
  if (addedAt) stored.addedAt = instant(addedAt)
  if (addedBy !== undefined && addedBy !== null) stored.addedBy = addedBy
  return stored as E
}
