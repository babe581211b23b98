import type { EntryText } from '../kinds'
import type { Assignment, Entry, List, Owner, PhraseSet, Policy, Quarantine, Rule, Threshold } from '../policy'

/** The parts of a policy that changes alter; who is who and whom we believe are not among them. */
export type Clauses = Pick<Policy, 'quarantines' | 'lists' | 'assignments' | 'phraseSets' | 'rules' | 'thresholds'>

export const THRESHOLDS = ['likely', 'sure'] as const
export type ThresholdName = (typeof THRESHOLDS)[number]

/** A list as it is put: its entries stay as they are where none are said. */
export type ListPut = Omit<List, 'entries'> & { entries?: Entry[] }
/** An entry as it is put: by kind and value; what was known of it before stays, but for its note and its expiry. */
export type EntryPut = EntryText & Partial<Entry>
/** Something that may still lack its id. */
export type New<T extends { id: string }> = Omit<T, 'id'> & { id?: string }

/** What may be put, by its kind. */
interface Values {
  list: New<ListPut>
  assignment: New<Assignment>
  rule: New<Rule>
  phraseSet: New<PhraseSet>
  quarantine: New<Quarantine>
  threshold: Threshold & { id: ThresholdName }
}
export type ClauseKind = keyof Values

/** Puts one thing: it is changed where its id exists, else made. */
export type PutChange = { [K in ClauseKind]: { type: 'put', kind: K, value: Values[K] } }[ClauseKind]

/**
 * Something that alters a policy, as plain data:
 *
 *   {"type": "put", "kind": "rule", "value": {…}}
 *   {"type": "put", "kind": "entries", "list": id, "entries": [{kind, value, note?, expires?}]}
 *   {"type": "remove", "kind": "rule", "id": id}
 *   {"type": "remove", "kind": "entries", "list": id, "entries": [{kind, value}]}
 *   {"type": "order", "kind": "rule", "owner": owner, "ids": [id, …]}     all rules of that owner
 */
export type PolicyChange =
  | PutChange
  | { type: 'put', kind: 'entries', list: string, entries: EntryPut[] }
  | { type: 'remove', kind: ClauseKind, id: string }
  | { type: 'remove', kind: 'entries', list: string, entries: EntryText[] }
  | { type: 'order', kind: 'rule', owner: Owner, ids: string[] }

/** Why changes cannot be made. */
export interface ChangeProblem {
  /** Which of the changes; null where it shows only in what they come to together. */
  change: number | null
  /** What it is about, for a form: "name", "when.senderOn", … */
  field: string
  message: string
  /** It was there, and is there no more, or otherwise: whoever made the change saw something older. */
  stale?: true
  /** Clauses that still use what is to go: whoever tells of them leaves out what is not theirs to read. */
  users?: { owner: Owner, name: string }[]
}

/** A clause that takes part in decisions. */
export interface Touched {
  kind: 'rule' | 'assignment' | 'threshold'
  id: string
}
