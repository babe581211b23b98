import type { PolicyChange } from '../change'
import { clauseKey, type ClauseRef, type Evidence } from '../decide'
import { entryKey, entryWords, type EntryText } from '../kinds'
import { oneOf, quoted } from '../wording'
import { senderScopesOf, type SenderScopeKind } from '../suggest'
import {
  leavesOf,
  phraseText,
  phrasesWithout,
  replacedLeaves,
  ruleProtects,
  ruleStops,
  EXEMPTING,
  STOPPING,
  withoutPhrases,
  type Condition,
  type PhraseCondition,
  type PhraseItem,
  type PhrasePlace,
  type PhraseSet,
  type Rule,
} from '../policy'
import { listName, placeName } from '../words'
import { isVerified, type Caused } from './causes'
import type { Candidate, FixablePolicy, FixKind } from './types'

/** What one clause is changed to, so that it no longer speaks of some copies. */
export interface Way {
  kind: FixKind
  /** A command: “remove “handling fee” from rule “Fee demands””. */
  words: string
  changes: PolicyChange[]
  opens?: Candidate['opens']
}

/** Company that a clause's phrases may be asked to keep, by the clause's key: words that stand in its unwanted mail. */
export type Company = ReadonlyMap<string, readonly string[]>

const MAX_RECIPIENTS = 5
const EXCEPTS_SENDERS: ReadonlySet<FixKind> = new Set(['exception: address', 'exception: mailingList', 'exception: domain'])

/**
 * The ways to have a clause speak no longer of these copies. Whether they suffice is found out by deciding. What should be delivered and
 * was not verified changes nothing mandatory; elsewhere such a way says that it opens.
 */
export function waysFor(policy: FixablePolicy, clause: ClauseRef, copies: readonly Caused[], company: Company): Way[] {
  const frees = copies[0]?.should === 'delivered'
  const made = frees && isMandatory(policy, clause) ? copies.filter(isVerified) : copies
  if (!made.length) return []
  const opens = frees && !made.every(isVerified) ? ({ opens: 'notVerified' } as const) : {}
  const ways = waysOfClause(policy, clause, { copies: made, company: company.get(clauseKey(clause)) ?? [] })
  // Whom an exception names counts only if verified: that opens nothing.
  return ways.map(way => (EXCEPTS_SENDERS.has(way.kind) ? way : { ...opens, ...way }))
}

function isMandatory({ rules, assignments }: FixablePolicy, { kind, id }: ClauseRef): boolean {
  return (kind === 'rule' ? rules : assignments).some(c => c.id === id && c.mandatory === true)
}

function waysOfClause(policy: FixablePolicy, clause: ClauseRef, about: About): Way[] {
  if (clause.kind === 'list') return listWays(policy, clause, about.copies)
  const rule = clause.kind === 'rule' ? policy.rules.find(r => r.id === clause.id) : undefined
  return rule ? ruleWays(policy, rule, about) : []
}

function listWays(policy: FixablePolicy, clause: ClauseRef, copies: readonly Caused[]): Way[] {
  const assignment = policy.assignments.find(b => b.id === clause.id)
  if (!assignment) return []
  const name = listName(policy, assignment.list)
  const entries = entriesOf(clause, copies)
  const out: Way = {
    kind: 'entry out',
    words: `remove ${oneOf(entries.map(entryWords), 'and', 3)} from list ${name}`,
    changes: [{ type: 'remove', kind: 'entries', list: assignment.list, entries }],
  }
  const off: Way = {
    kind: 'disabled',
    words: `disable the assignment “${assignment.side}” of list ${name}`,
    changes: [{ type: 'put', kind: 'assignment', value: { ...assignment, state: 'disabled' } }],
  }
  const narrower = entries.map(e => (e.kind === 'domainAndSubdomains' ? { ...e, kind: 'domain' as const } : null))
  if (!entries.length) return [off]
  if (!narrower.every(e => e !== null)) return [out, off]
  const narrow: Way = {
    kind: 'entry narrower',
    words: `limit ${oneOf(narrower.map(e => e.value), 'and', 3)} on list ${name} to the domain only, without subdomains`,
    changes: [...out.changes, { type: 'put', kind: 'entries', list: assignment.list, entries: narrower }],
  }
  return [narrow, out, off]
}

function entriesOf({ id }: ClauseRef, copies: readonly Caused[]): EntryText[] {
  const found = copies.flatMap(c => c.decision.reasons.flatMap(r => (r.clause.id === id && r.clause.entry ? [r.clause.entry] : [])))
  return [...new Map(found.map(e => [entryKey(e), { kind: e.kind, value: e.value }])).values()]
}

interface About {
  copies: readonly Caused[]
  company: readonly string[]
}

function ruleWays(policy: FixablePolicy, rule: Rule, { copies, company }: About): Way[] {
  const put = (change: Partial<Rule>): PolicyChange => ({ type: 'put', kind: 'rule', value: { ...rule, ...change } })
  const rulesName = `rule ${quoted(rule.name)}`
  const off: Way = { kind: 'disabled', words: `disable ${rulesName}`, changes: [put({ state: 'disabled' })] }
  return [
    ...exceptionsFor(rule, copies).map(({ kind, condition, words, opens }): Way => ({
      kind,
      words: `add an exception for ${words} to ${rulesName}`,
      changes: [put({ except: [...rule.except, condition] })],
      ...(opens ? { opens } : {}),
    })),
    ...phraseWays(policy, rule, { copies, company }),
    off,
  ]
}

interface Exception {
  kind: FixKind
  condition: Condition
  words: string
  opens?: Way['opens']
}

function exceptionsFor(rule: Rule, copies: readonly Caused[]): Exception[] {
  const stops = ruleStops(rule)
  // Whom a rule that stops exempts by its From has to be verified, or everybody who writes that From is exempted.
  const credited = stops ? copies.filter(isVerified) : copies
  const bySender = senderScopesOf(credited.map(c => c.message.content)).flatMap(({ kind, entries, catches }): Exception[] => {
    if (!isOffered(kind) || catches < credited.length) return []
    const who = oneOf(entries.map(entryWords), 'and', 3)
    const sender = entries.length === 1 ? entries[0]! : entries
    return [{ kind: `exception: ${kind}`, condition: { sender }, words: stops ? `${who}, if verified,` : who }]
  })
  const recipients = [...new Set(copies.map(c => c.decision.recipient))]
  if (rule.mandatory || recipients.length > MAX_RECIPIENTS) return bySender
  const each = recipients.map((value): Condition => ({ recipient: { kind: 'address', value } }))
  const condition = each.length === 1 ? each[0]! : { any: each }
  const words = `mail to ${oneOf(recipients, 'and', 3)}`
  return [...bySender, { kind: 'exception: recipient', condition, words, ...(stops ? { opens: 'recipient' } : {}) }]
}

function isOffered(kind: SenderScopeKind): kind is Exclude<SenderScopeKind, 'domainAndSubdomains' | 'signedBy'> {
  return kind !== 'domainAndSubdomains' && kind !== 'signedBy'
}

/** What of a rule's phrases was found in copies. */
interface FoundIn {
  texts: ReadonlySet<string>
  places: ReadonlySet<PhrasePlace>
}

function foundBy({ id }: Pick<Rule, 'id'>, copies: readonly Caused[]): FoundIn {
  const reasons = copies.flatMap(c => c.decision.reasons).filter(r => r.clause.kind === 'rule' && r.clause.id === id)
  const evidence = reasons.flatMap(r => r.evidence)
  const found = evidence.filter((e): e is Extract<Evidence, { kind: 'phrase' }> => e.kind === 'phrase')
  return { texts: new Set(found.map(e => e.phrase)), places: new Set(found.map(e => e.place)) }
}

function phraseWays(policy: FixablePolicy, rule: Rule, { copies, company }: About): Way[] {
  const found = foundBy(rule, copies)
  if (!found.texts.size) return []
  const rulesName = `rule ${quoted(rule.name)}`
  const leaves = leavesOf(rule.when).filter((c): c is PhraseCondition => hits(policy, c, found.texts))
  return leaves.flatMap((leaf): Way[] => {
    const texts = textsIn(policy, leaf, found.texts)
    const said = oneOf([...texts].map(quoted), 'and', 3)
    const set = leaf.set === undefined ? undefined : policy.phraseSets.find(s => s.id === leaf.set)
    const holder = set ? `phrase set ${quoted(set.name)}` : rulesName
    const withLeaf = (now: Condition | null): PolicyChange[] | null => {
      const when = replacedLeaves(rule.when, c => (c === leaf ? now : c))
      return when && when !== rule.when ? [{ type: 'put', kind: 'rule', value: { ...rule, when } }] : null
    }
    const way = (kind: FixKind, words: string, changes: PolicyChange[] | null): Way[] => (changes ? [{ kind, words, changes }] : [])
    const where = (leaf.where ?? (ruleProtects(rule) ? EXEMPTING : STOPPING)).filter(p => !found.places.has(p))
    return [
      // A phrase is not asked to keep its own company.
      ...company.filter(word => [...texts].every(t => !t.includes(word) && !word.includes(t))).slice(0, 1).flatMap((word) => {
        const words = `match ${said} only together with ${quoted(word)} in ${holder}`
        return way('near', words, companyChanges(leaf, { set, texts, word }, withLeaf))
      }),
      ...way(
        'other place',
        `look for ${said} only in ${oneOf(where.map(placeName), 'and', 4)} (${rulesName})`,
        where.length ? withLeaf({ ...leaf, where }) : null,
      ),
      ...(leaf.whole === false ? way('whole words', `match whole words only in ${rulesName}`, withLeaf({ ...leaf, whole: true })) : []),
      ...way('phrase out', `remove ${said} from ${holder}`, set ? withoutIn(set, texts) : withLeaf(withoutPhrases(leaf, texts))),
    ]
  })
}

function hits(policy: FixablePolicy, c: Condition, texts: ReadonlySet<string>): boolean {
  return ('phrases' in c || 'set' in c) && textsIn(policy, c as PhraseCondition, texts).size > 0
}

function itemsOf(policy: FixablePolicy, leaf: PhraseCondition): readonly PhraseItem[] {
  return leaf.phrases ?? policy.phraseSets.find(s => s.id === leaf.set)?.phrases ?? []
}

function textsIn(policy: FixablePolicy, leaf: PhraseCondition, texts: ReadonlySet<string>): Set<string> {
  return new Set(itemsOf(policy, leaf).map(phraseText).filter(t => texts.has(t)))
}

// A set that holds nothing would be none.
function withoutIn(set: PhraseSet, texts: ReadonlySet<string>): PolicyChange[] | null {
  const phrases = phrasesWithout(set.phrases, texts)
  return phrases.length ? [{ type: 'put', kind: 'phraseSet', value: { ...set, phrases } }] : null
}

function companyChanges(
  leaf: PhraseCondition,
  { set, texts, word }: { set: PhraseSet | undefined, texts: ReadonlySet<string>, word: string },
  withLeaf: (now: Condition) => PolicyChange[] | null,
): PolicyChange[] | null {
  const asked = (item: PhraseItem): PhraseItem => {
    if (!texts.has(phraseText(item))) return item
    const written = typeof item === 'string' ? { text: item } : item
    // What has company already would be found in more mail with another one.
    return written.near ?? leaf.near ? item : { ...written, near: { phrases: [word] } }
  }
  const now = (leaf.phrases ?? set?.phrases ?? []).map(asked)
  if (now.every((item, i) => item === (leaf.phrases ?? set?.phrases)![i])) return null
  return set ? [{ type: 'put', kind: 'phraseSet', value: { ...set, phrases: now } }] : withLeaf({ ...leaf, phrases: now } as Condition)
}
