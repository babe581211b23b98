import isSame from 'fast-deep-equal'
import type { PolicyChange } from '../change'
import type { EntryKind, EntryText } from '../kinds'
import {
  groupMembers,
  phraseText,
  sendersOfCondition,
  STOPPING,
  type Condition,
  type PhraseCondition,
  type PhraseItem,
  type PhrasePlace,
  type Policy,
  type Rule,
} from '../policy'
import { neededWords, type NeededWords } from '../text'

/** What mail must have so that a change can find anything else in it: one of these senders, or words of one of these texts. */
export interface Lookup {
  senders: readonly EntryText[]
  texts: readonly NeededWords[]
}

/** The same; null: any mail may. */
export type LookupKeys = Lookup | null

/** Kinds of entries by which an archive finds mail. Of the others it has to look at all. */
const FOUND: readonly EntryKind[] = ['address', 'domain', 'domainAndSubdomains', 'mailingList']
/** Where an archive knows the words. */
export const SEARCHED_PLACES: readonly PhrasePlace[] = [...STOPPING, 'sender name', 'attachment name']
const MAX = 2000
const NOTHING: Lookup = { senders: [], texts: [] }

/** What a list holds; null where it is too much, or not known. */
export type EntriesOf = (list: string) => readonly EntryText[] | null

/** The policies before and after changes; lists may lack all entries but those that the changes are about. */
interface Around {
  before: Policy
  after: Policy
  /** The differences between them. */
  net: readonly PolicyChange[]
  entriesOf?: EntriesOf
}

/** What an archive can be asked for before changes are simulated. It may find too much, never too little. */
export function lookupKeysOf(around: Around): LookupKeys {
  const keys = union(around.net.map(change => keysOfChange(change, around)))
  return keys && isAskable(keys) ? keys : null
}

function isAskable({ senders, texts }: Lookup): boolean {
  return senders.length + texts.length <= MAX && senders.every(e => FOUND.includes(e.kind))
}

function union(each: readonly LookupKeys[]): LookupKeys {
  if (each.includes(null)) return null
  const all = each as readonly Lookup[]
  return { senders: all.flatMap(k => k.senders), texts: all.flatMap(k => k.texts) }
}

function keysOfChange(change: PolicyChange, around: Around): LookupKeys {
  if ('entries' in change) return { ...NOTHING, senders: change.entries }
  if (change.type === 'order') return null
  const { before, after } = around
  const { kind } = change
  const id = change.type === 'put' ? change.value.id ?? '' : change.id
  if (kind === 'quarantine') return NOTHING
  if (kind === 'rule') return keysOfRule(id, around)
  if (kind === 'phraseSet') {
    const asking = [before, after].flatMap(p => p.rules.filter(r => refersTo(r.when, id) || r.except.some(c => refersTo(c, id))))
    return union([...new Set(asking.map(r => r.id))].map(rule => keysOfRule(rule, around)))
  }
  if (kind === 'assignment')
    return entriesOfMade([...new Set([before, after].flatMap(p => p.assignments.filter(b => b.id === id)).map(b => b.list))], around)
  if (kind === 'list') return entriesOfMade([id], around)
  return null
}

// What the changes take from a list it holds before.
function entriesOfMade(lists: readonly string[], { before, net, entriesOf }: Around): LookupKeys {
  const there = lists.filter(id => before.lists.some(l => l.id === id)).map(id => entriesOf?.(id) ?? null)
  if (there.includes(null)) return null
  const put = net.flatMap(c => (c.type === 'put' && c.kind === 'entries' && lists.includes(c.list) ? c.entries : []))
  return { ...NOTHING, senders: [...(there as EntryText[][]).flat(), ...put] }
}

function refersTo(condition: Condition, set: string): boolean {
  if ('set' in condition && condition.set === set) return true
  return groupMembers(condition)?.some(member => refersTo(member, set)) ?? false
}

type Resolved = Pick<Rule, 'when' | 'except'>

/** What mail must have for one of these rules to match it. */
export function keysOfRules(rules: readonly Rule[], policy: Policy): LookupKeys {
  const keys = union(rules.map(rule => conditionKeys(resolvedRule(rule, policy)!.when)))
  return keys && isAskable(keys) ? keys : null
}

function keysOfRule(id: string, { before, after }: Around): LookupKeys {
  const [was, is] = [before, after].map(p => resolvedRule(p.rules.find(r => r.id === id), p))
  if (was && is) {
    const rest = ({ when: _, except: __, ...r }: Rule) => r
    const same = isSame(rest(before.rules.find(r => r.id === id)!), rest(after.rules.find(r => r.id === id)!))
    if (same) return keysBetween(was, is)
  }
  return union([was, is].map(rule => (rule ? conditionKeys(rule.when) : NOTHING)))
}

// Only mail in which what differs is found can end elsewhere.
function keysBetween(was: Resolved, is: Resolved): LookupKeys {
  const whole = () => union([conditionKeys(was.when), conditionKeys(is.when)])
  if (isSame(was.when, is.when)) {
    const differing = [
      ...was.except.filter(c => !is.except.some(o => isSame(c, o))),
      ...is.except.filter(c => !was.except.some(o => isSame(c, o))),
    ]
    return union(differing.map(conditionKeys)) ?? whole()
  }
  return isSame(was.except, is.except) ? (differenceKeys(was.when, is.when) ?? whole()) : whole()
}

function differenceKeys(was: Condition, is: Condition): LookupKeys {
  if (isSame(was, is)) return NOTHING
  for (const joint of ['all', 'any', 'none'] as const)
    if (joint in was && joint in is) {
      const [a, b] = [groupMembers(was)!, groupMembers(is)!]
      return a.length === b.length ? union(a.map((member, i) => differenceKeys(member, b[i]!))) : null
    }
  const [a, b] = [alonePhrases(was), alonePhrases(is)]
  if (!a || !b || !isSame({ ...a, phrases: [] }, { ...b, phrases: [] })) return null
  const only = (own: readonly PhraseItem[], others: readonly PhraseItem[]) => own.filter(item => !others.some(o => isSame(item, o)))
  return conditionKeys({ ...a, phrases: [...only(a.phrases, b.phrases), ...only(b.phrases, a.phrases)] })
}

/** Phrases of which each is enough by itself. */
function alonePhrases(c: Condition): Extract<PhraseCondition, { phrases: PhraseItem[] }> | null {
  return 'phrases' in c && c.phrases !== undefined && c.minimum === undefined ? c : null
}

/** The rule with the phrases of its sets. */
function resolvedRule(rule: Rule | undefined, { phraseSets }: Policy): Resolved | null {
  const resolved = (c: Condition): Condition => {
    if ('set' in c && c.set !== undefined) {
      const { set: id, ...how } = c
      const set = phraseSets.find(s => s.id === id)
      const minimum = c.minimum ?? set?.minimum
      return { ...how, phrases: set?.phrases ?? [], ...(minimum === undefined ? {} : { minimum }) }
    }
    if ('all' in c) return { all: c.all.map(resolved) }
    if ('any' in c) return { any: c.any.map(resolved) }
    return 'none' in c ? { none: c.none.map(resolved) } : c
  }
  return rule ? { when: resolved(rule.when), except: rule.except.map(resolved) } : null
}

/** What a condition needs to hold at all; null where it may hold without. @param when with the phrases of its sets */
function conditionKeys(when: Condition): LookupKeys {
  if ('sender' in when) return { ...NOTHING, senders: sendersOfCondition(when) }
  if ('phrases' in when && when.phrases) return phraseKeys(when)
  if ('all' in when) return narrowest(when.all.map(conditionKeys))
  if ('any' in when) return union(groupMembers(when)!.map(conditionKeys))
  return null
}

function phraseKeys({ phrases, where, view = 'plain', whole = true }: Extract<PhraseCondition, { phrases: PhraseItem[] }>): LookupKeys {
  if (where?.some(place => !SEARCHED_PLACES.includes(place))) return null
  const texts = phrases.map(item => neededWords(phraseText(item), view, whole))
  return texts.includes(null) ? null : { ...NOTHING, texts: texts as NeededWords[] }
}

// Senders are rarer than words; of words the fewer texts, and the more words in them.
function narrowest(each: readonly LookupKeys[]): LookupKeys {
  const rarity = ({ senders, texts }: Lookup) =>
    senders.length + texts.reduce((sum, t) => sum + 10 + 10 / (t.words.length + t.beginnings.length), 0)
  return each.filter(k => k !== null).sort((a, b) => rarity(a) - rarity(b))[0] ?? null
}
