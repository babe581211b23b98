import type { PolicyChange } from '../change'
import { clauseKey } from '../decide'
import { entryWords, type EntryText } from '../kinds'
import { capitalised, oneOf, quoted } from '../wording'
import type { Owner, Rule } from '../policy'
import { draftChanges, isFlood, senderScopesOf } from '../suggest'
import { isVerified, type Caused } from './causes'
import { isOf, partsOf, type Part } from './group-parts'
import { plansFor, type Plan } from './plans'
import { FIX_KINDS, type Candidate, type FixablePolicy, type FixKind } from './types'
import { waysFor, type Company, type Way } from './ways'

/** What is known besides the copies. */
export interface Making {
  /** For whom a sender may be allowed or blocked, by name; none where nobody may. */
  owners: readonly { owner: Owner, name: string }[]
  /** Makes a new id each time. */
  id: () => string
  company?: Company
  /** Phrases that several of the copies share, and other mail does not. */
  phrases?: readonly { text: string, obfuscated?: true }[]
  /** Domains at which anybody can have a mailbox. */
  publicProviders?: readonly string[]
}

/** Changes that are looked at: each is simulated over all mail. */
const MAX_CANDIDATES = 40

/**
 * The changes that may put copies right that all went wrong in the same way: their senders allowed or blocked; and of the clauses that
 * caused it their exceptions, phrases, places and entries. For a group there are also such that put only some of it right, by sender, by
 * cause and by phrase: several of them may do together what one does only with more harm. No clause is touched that is in no smallest set
 * the cause of one of the copies, but for exceptions that exempted what should have been stopped. Which of them suffice is found out by
 * deciding.
 */
export function candidatesFor(policy: FixablePolicy, caused: readonly Caused[], making: Making): Candidate[] {
  const wrong = caused.filter(b => !b.right)
  if (!wrong.length) return []
  const isUsedUp = wrong[0]!.should === 'stopped' && isFlood(senderScopesOf(wrong.map(w => w.message.content)), wrong.length)
  const how = { ...making, idsOf: new Map<Owner, string[]>(), isUsedUp }
  const parts = partsOf(wrong).filter(part => !isUsedUp || part.by !== 'sender')
  const all = [...candidatesOf(policy, wrong, how), ...parts.flatMap(part => partCandidates(policy, part, how))]
  return [...new Map(all.map(c => [c.sentence, c])).values()].slice(0, MAX_CANDIDATES)
}

interface WithIds extends Making {
  /** Ids of the list that has to be made for an owner, and of its assignment: all fixes add to the same one. */
  idsOf: Map<Owner, string[]>
  /** The senders change from message to message. */
  isUsedUp: boolean
}

function candidatesOf(policy: FixablePolicy, wrong: readonly Caused[], making: WithIds): Candidate[] {
  return [
    ...senderCandidates(policy, wrong, making),
    ...(wrong[0]!.should === 'stopped' ? phraseCandidates(policy, making) : []),
    ...plansFor(wrong).flatMap(plan => planCandidates(policy, plan, making.company ?? new Map())),
    ...(wrong[0]!.should === 'stopped' ? exceptionsOut(policy, wrong) : []),
  ]
}

function partCandidates(policy: FixablePolicy, { copies, by }: Part, making: WithIds): Candidate[] {
  const { owners, ...how } = making
  return candidatesOf(policy, copies, { ...how, owners: owners.slice(0, 1), phrases: [] }).filter(({ kind }) => isOf(by, kind))
}

function senderCandidates(policy: FixablePolicy, wrong: readonly Caused[], making: WithIds): Candidate[] {
  const { owners, id, idsOf, isUsedUp, publicProviders = [] } = making
  const allows = wrong[0]!.should === 'delivered'
  // A sender is allowed by what came from them: a From that nothing verified is anybody's.
  const credited = allows ? wrong.filter(isVerified) : wrong
  return owners.flatMap(({ owner, name }) =>
    senderScopesOf(credited.map(w => w.message.content)).flatMap(({ kind, entries, catches }): Candidate[] => {
      if (kind === 'domainAndSubdomains' || kind === 'signedBy' || catches < credited.length) return []
      const then = { to: allows ? ('inbox' as const) : ('spam' as const) }
      const who = oneOf(entries.map(entryWords), 'and', 3)
      const ids = idsOf.get(owner) ?? [id(), id()]
      idsOf.set(owner, ids)
      let used = 0
      return [{
        kind: `sender: ${kind}`,
        sentence: allows ? `Allow ${who}, if verified, for ${name}` : `Block ${who} for ${name}`,
        changes: draftChanges(policy, { senders: entries, phrases: [], then, owner }, () => ids[used++] ?? id()),
        ...publicDomain(kind, entries, publicProviders),
        ...(isUsedUp ? { usedUp: true } : {}),
      }]
    }))
}

function publicDomain(kind: string, entries: readonly EntryText[], providers: readonly string[]): Pick<Candidate, 'publicProvider'> {
  const open = kind === 'domain' ? entries.find(e => providers.includes(e.value)) : undefined
  return open ? { publicProvider: open.value } : {}
}

// A kind that does not fit a clause leaves it to the next broader one that does.
const INSTEAD: readonly FixKind[] = ['entry out', 'exception: address', 'disabled']

function planCandidates(policy: FixablePolicy, plan: Plan, company: Company): Candidate[] {
  const each = [...plan.values()].map(({ clause, copies }) => waysFor(policy, clause, copies, company))
  // What is no list and no rule nobody changes here.
  if (!each.length || each.some(ways => !ways.length)) return []
  return FIX_KINDS.flatMap((kind): Candidate[] => {
    if (!each.some(ways => ways.some(w => w.kind === kind))) return []
    // Of the first clause all ways of a kind, as many phrases were found; of the others the first.
    const choices = each.map(ways => waysOf(ways, kind))
    if (choices.some(c => !c.length)) return []
    const rest = choices.slice(1).map(c => c[0]!)
    return choices[0]!.flatMap(first => joined(kind, [first, ...rest]))
  })
}

function waysOf(ways: readonly Way[], kind: FixKind): Way[] {
  const own = ways.filter(w => w.kind === kind)
  return own.length ? own : ways.filter(w => w.kind === INSTEAD.find(k => ways.some(o => o.kind === k))).slice(0, 1)
}

function joined(kind: FixKind, ways: readonly Way[]): Candidate[] {
  const changes = ways.flatMap(w => w.changes)
  if (new Set(changes.map(targetOf)).size < changes.length) return []
  const opens = ways.find(w => w.opens)?.opens
  return [{ kind, sentence: sentenceOf(ways.map(w => w.words)), changes, ...(opens ? { opens } : {}) }]
}

function sentenceOf(words: readonly string[]): string {
  return capitalised(words.join(', and '))
}

// Two changes of one thing would undo each other.
function targetOf(change: PolicyChange): string {
  if (change.type === 'order') return `order ${change.owner}`
  if (change.type === 'remove') return change.kind === 'entries' ? `off ${change.list}` : `${change.kind} ${change.id}`
  if (change.kind === 'entries') return `on ${change.list}`
  return `${change.kind} ${change.value.id ?? ''}`
}

/** Rules that stop, and exempted the copies by an exception: without each of their exceptions. */
function exceptionsOut(policy: FixablePolicy, wrong: readonly Caused[]): Candidate[] {
  const exempted = new Map<string, Rule>()
  for (const { decision } of wrong)
    for (const { clause, outcome } of decision.reasons) {
      const rule = outcome.kind === 'excepted' ? policy.rules.find(r => r.id === clause.id) : undefined
      if (rule) exempted.set(clauseKey(clause), rule)
    }
  return [...exempted.values()].flatMap(rule =>
    rule.except.map((_, i): Candidate => ({
      kind: 'exception out',
      sentence: `Remove ${rule.except.length === 1 ? 'the exception' : `exception ${i + 1}`} from rule ${quoted(rule.name)}`,
      changes: [{ type: 'put', kind: 'rule', value: { ...rule, except: rule.except.filter((_, at) => at !== i) } }],
    })))
}

function phraseCandidates(policy: FixablePolicy, { owners, id, phrases = [] }: Making): Candidate[] {
  return owners.slice(0, 1).flatMap(({ owner, name }) =>
    phrases.map(({ text, obfuscated = false }): Candidate => ({
      kind: 'new phrase',
      sentence: `Move mail that contains ${quoted(text)}${obfuscated ? ', also in obfuscated spellings,' : ''} to Spam, for ${name}`,
      changes: draftChanges(policy, { senders: [], phrases: [text], obfuscated, then: { to: 'spam' }, owner }, id),
    })))
}
