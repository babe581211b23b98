import { randomUUID } from 'node:crypto'
import { and, desc, eq, inArray, notInArray, sql } from 'drizzle-orm'
import {
  countsOf,
  entryWords,
  isDelivered,
  isKeptAway,
  isOthers,
  isPersonal,
  personOwner,
  type ClauseRef,
  type EntryText,
  type Owner,
  type Policy,
} from '#core'
import type { PolicyChange } from '#core/change'
import {
  draftChanges,
  existingClauses,
  isFlood,
  NEARLY,
  presetOf,
  type Draft,
  type ExistingClause,
  type SenderScope,
  type SharedPhrase,
  type Then,
} from '#core/suggest'
import { clauseWords, listName } from '#core/words'
import { capitalised, counted, numberWords, oneOf, quoted } from '#core/wording'
import { isOwn, visibleTo, type Copy } from '../access/copy-access'
import { sentenceFor } from '../access/others-clauses'
import { canChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { attempts, copies, messages } from '../db/schema'
import { invalid, notFound } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'
import type { Supposed } from '../workers/decide-under'
import { inScope, scopeOf, withLookupKeys, type Scope } from '../impact/affected-mail'
import { matching } from '../copies/copy-conditions'
import { searchedOf } from './searched'
import type { ManyQuery } from '../copies/many-job'
import { decisionsUnder, examplesOf, hitsUnder, simulateNets, viewFor, type ImpactView } from '../impact/simulation'

/** From what is suggested, and to what end; what is left out is chosen by where the examples lie. */
export interface SuggestionForm {
  ids?: number[]
  query?: ManyQuery
  then?: Then
  owner?: Owner
}

/** One way to say it. */
export interface Candidate {
  /** How widely senders are taken; "phrase" where words are what is shared, "search" for all that was searched for. */
  kind: SenderScope['kind'] | 'phrase' | 'search'
  words: string
  senders: EntryText[]
  phrases: string[]
  /** Its phrases are to be found in obfuscated spellings too. */
  obfuscated: boolean
  /** So many of the examples it catches. */
  catches: number
  changes: PolicyChange[]
  impact: ImpactView
  /** Why this may be too wide, or null. */
  warning: string | null
  /** How much of that sender's mail is verified; null of words. */
  verified: { passed: number, of: number } | null
  /** Examples that would not end where they should, and why. */
  stays: { id: number, why: string }[]
  /** Examples in which it finds something, whether or not they are moved. */
  hits: number
}

/** A clause that speaks of the examples already. */
export interface ExistingClauseView {
  clause: Pick<ClauseRef, 'kind' | 'id' | 'list'>
  words: string
  catches: number
  of: number
}

export interface Suggestion {
  /** The version of the policy on which it was made. */
  base: number
  then: Then
  owner: Owner
  /** It can only be proposed: whose it is, others say. */
  beyond: boolean
  /** Ids of the examples: all that were chosen, or the newest of what was searched for; of how many. */
  examples: number[]
  of: number
  /** What does this already; with the changes that add there what it does not catch. */
  covered: (ExistingClauseView & { add: PolicyChange[] | null, adds: string })[]
  /** What says the contrary, and whether it goes before what is suggested. */
  contrary: (ExistingClauseView & { wins: boolean })[]
  candidates: Candidate[]
  /** Names of the owner's rules, which a new one may not bear. */
  ruleNames: string[]
  /** Which of the candidates is meant where nothing is said; null for any sender, with the phrases of `flood`. */
  preset: number | null
  /** Where senders change: the phrases, by their place among the candidates, that stop the next message too; and why. */
  flood: { phrases: number[], why: string } | null
  /** What of the filter a rule cannot say. */
  unsaid: string[]
}

const MAX_EXAMPLES = 200
const NOT_VERIFIED = 'its sender is not verified, and anyone can write this From.'

/** What would protect a copy does not count for it, since nothing verified its From. */
function isUnverified({ decision }: Supposed): boolean {
  return decision.reasons.some(r => 'protect' in r.claim && r.outcome.kind === 'notCounted' && r.outcome.why === 'notVerified')
}

/** Sketches from examples what is to be of mail like them. Nothing is kept. */
export async function suggestFrom(actor: Actor, asked: SuggestionForm): Promise<Suggestion> {
  const { rows, of } = await chosen(actor, asked)
  const { policy } = await activePolicy()
  const isForAll = can(actor, 'change all lists and rules') && !rows.every(r => isOwn(actor, r))
  const owner = asked.owner ?? (isForAll ? 'organisation' : personOwner(actor.id))
  // What is beyond the actor's power they may propose; they then see what it does to their own mail.
  const beyond = !canChange(actor, owner)
  if (beyond && (isPersonal(owner) || !seesClausesOf(actor, owner))) mustBeAllowed(actor, owner)
  const then: Then = asked.then ?? (rows.filter(r => isKeptAway(r.lane)).length * 2 > rows.length ? { to: 'inbox' } : { to: 'spam' })
  const scope = scopeOf(policy, new Set([beyond ? personOwner(actor.id) : owner]), false)
  const ids = rows.map(r => r.id)
  const stops = then.to !== 'inbox'
  const { senderScopes: scopes, phrases, others, decisions, unread } = await examplesOf({ ids, scope, actor, stops })
  if (unread === rows.length) throw invalid('These messages were not kept, so nothing can be suggested from them. Select other messages.')
  // A selection of all that is shown has what is deselected with it; a filter has not, and is what the rule is to say.
  const searched = asked.query && !asked.query.except ? await searchedOf(actor, asked.query, { policy, owner, stops }) : null
  const drafts: (Pick<Candidate, 'kind' | 'senders' | 'phrases' | 'obfuscated' | 'catches'>)[] = [
    ...scopes.map(w => ({ kind: w.kind, senders: w.entries, phrases: [], obfuscated: false, catches: w.catches })),
    ...phrases.map(p => ({ kind: 'phrase' as const, senders: [], phrases: [p.text], obfuscated: p.obfuscated === true, catches: p.of })),
    ...(searched ? [{ kind: 'search' as const, senders: [], phrases: [], obfuscated: false, catches: decisions.length }] : []),
  ]
  const warnings = await warningsFor(actor, policy, scope, scopes)
  // What is too wide is offered last of the senders.
  const order = drafts.map((_, i) => i).sort((a, b) => Number(isWarned(a)) - Number(isWarned(b)) || a - b)
  function isWarned(i: number): number {
    if (drafts[i]!.kind === 'search') return -1
    return i >= scopes.length ? 2 : warnings[i] === null ? 0 : 1
  }
  const candidates = await Promise.all(order.map(async i => candidate(drafts[i]!, warnings[i] ?? null)))
  const impacts = await simulateNets(actor, candidates.map(c => c.net))
  const verified = then.to === 'inbox' ? await Promise.all(candidates.map(c => verifiedOf(actor, scope, c.senders))) : []
  const flood = !searched && stops && isFlood(scopes, decisions.length) ? floodOf(scopes, phrases, { of: decisions.length, others }) : null
  const preset = searched ? 0 : flood || !scopes.length ? null : order.indexOf(presetOf(scopes, decisions.length))
  const nets = candidates.map(c => c.net)
  const [ends, { hits }] = await Promise.all([decisionsUnder({ nets, ids }), hitsUnder({ nets, ids })])
  const result = await Promise.all(candidates.map(async ({ net: _, ...c }, i): Promise<Candidate> => ({
    ...c,
    impact: await viewFor(actor, impacts[i]!),
    verified: c.senders.length ? (verified[i] ?? null) : null,
    stays: staysOf(ends[i]!),
    hits: hits[i]!,
  })))
  const stays = preset === null ? [] : (result[preset]?.stays ?? [])
  const against = new Set(stays.map(s => s.id))
  // Where nothing of it counts, nothing takes precedence over it either.
  const isUncounted = stays.length === decisions.length && stays.every(s => s.why === NOT_VERIFIED)
  return {
    base: policy.version,
    then,
    owner,
    beyond,
    examples: ids,
    of,
    covered: effectiveReasons(then.to === 'inbox' ? 'protect' : 'stop').map(s => ({ ...existingClauseViews(s), ...additionTo(s) })),
    contrary: isUncounted
      ? []
      : effectiveReasons(then.to === 'inbox' ? 'stop' : 'protect').map(s => ({
          ...existingClauseViews(s),
          wins: decisions.some(r => against.has(r.id) && !s.misses.includes(r.id)),
        })),
    candidates: result,
    ruleNames: policy.rules.filter(r => r.owner === owner).map(r => r.name),
    preset,
    unsaid: searched?.unsaid ?? [],
    flood: flood && { why: flood.why, phrases: flood.phrases.map(i => order.indexOf(scopes.length + i)) },
  }

  async function candidate(draft: (typeof drafts)[number], warning: string | null) {
    const also = draft.kind === 'search' ? searched! : undefined
    const changes = draftChanges(policy, { ...draft, also, then, owner } satisfies Draft, randomUUID)
    const { net } = await previewChanges(actor, changes, { monitorToo: true, proposed: beyond })
    const words = also ? also.words : draft.senders.length ? oneOf(draft.senders.map(entryWords), 'or', 3) : draft.phrases.map(quoted).join(' or ')
    return { ...draft, words, changes, net, warning }
  }

  function staysOf(ended: readonly Supposed[]): Candidate['stays'] {
    const right = (lane: Supposed['decision']['lane']) => (then.to === 'inbox' ? isDelivered(lane) : !isDelivered(lane))
    return ended
      .filter(e => !right(e.decision.lane))
      .map(e => ({ id: e.id, why: isUnverified(e) ? NOT_VERIFIED : sentenceFor(actor, e.decision, policy) }))
  }

  function effectiveReasons(which: 'stop' | 'protect'): ExistingClause[] {
    return existingClauses(decisions, which).filter(s => !isOthers(personOwner(actor.id), s.owner))
  }

  function existingClauseViews({ clause, catches }: ExistingClause): ExistingClauseView {
    const { kind, id, list } = clause
    const plain = clause.kind === 'list' ? `list ${listName(policy, clause.list!)}` : clauseWords(clause)
    const name = capitalised(plain)
    const of = decisions.length
    const words = of === 1 ? 'this message' : catches === of ? 'all of these messages' : `${catches} of these ${of} messages`
    return { clause: { kind, id, ...(list ? { list } : {}) }, words: `${name} matches ${words}`, catches, of }
  }

  function additionTo({ clause, misses }: ExistingClause): { add: PolicyChange[] | null, adds: string } {
    const list = policy.lists.find(l => l.id === clause.list)
    if (!list || !misses.length || !canChange(actor, list.owner)) return { add: null, adds: '' }
    // Where a list also counts for senders that are not verified, nobody is added by the way.
    const assignment = policy.assignments.find(b => b.id === clause.id)
    if (then.to === 'inbox' && assignment && countsOf(assignment) !== 'verified') return { add: null, adds: '' }
    const missed = [...new Set(rows.filter(r => misses.includes(r.id) && r.sender).map(r => r.sender))].slice(0, 20)
    const entries = missed.map(value => ({ kind: 'address' as const, value }))
    return entries.length
      ? { add: [{ type: 'put', kind: 'entries', list: list.id, entries }], adds: oneOf(entries.map(entryWords), 'and', 3) }
      : { add: null, adds: '' }
  }
}

// To block addresses that are used once stops nothing that comes: what the messages say goes on.
function floodOf(
  scopes: readonly SenderScope[],
  phrases: readonly SharedPhrase[],
  { of, others }: { of: number, others: number },
): { phrases: number[], why: string } | null {
  const [first] = phrases
  if (!first) return null
  const senders = counted(scopes.find(s => s.kind === 'address')?.entries.length ?? of, 'sender')
  const from = `These ${counted(of, 'message')} come from ${senders}, so blocking the addresses would not stop the next one.`
  const isOne = first.of >= of * NEARLY
  const which = isOne ? [0] : phrases.map((_, i) => i)
  const here = first.of === of ? 'all' : numberWords(first.of)
  const elsewhere = `${first.others ? numberWords(first.others) : 'none'} of ${counted(others, 'other message')} compared`
  const they = isOne ? `${quoted(first.text)} is in ${here} of them and in ${elsewhere}` : 'The words below are in them'
  return { phrases: which, why: `${from} ${they}.` }
}

async function chosen(actor: Actor, { ids, query }: SuggestionForm): Promise<{ rows: ExampleRow[], of: number }> {
  const { except = [], ...filter } = query ?? {}
  const which = query
    ? and(await matching(actor, filter), except.length ? notInArray(copies.id, except) : undefined)
    : and(inArray(copies.id, ids ?? []), visibleTo(actor))
  const rows = await db()
    .select({
      id: copies.id,
      lane: copies.lane,
      sender: copies.senderAddress,
      personId: copies.personId,
      mailbox: copies.mailbox,
    })
    .from(copies)
    .where(which)
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(MAX_EXAMPLES)
  if (ids && rows.length !== new Set(ids).size) throw notFound('One of these messages')
  if (!rows.length) throw invalid('No messages match, so nothing can be suggested. Change the filter.')
  if (!query || rows.length < MAX_EXAMPLES) return { rows, of: rows.length }
  const [n] = await db().select({ n: sql<number>`count(*)::int` }).from(copies).where(which)
  return { rows, of: n!.n }
}

type ExampleRow = Pick<Copy, 'id' | 'lane' | 'personId' | 'mailbox'> & { sender: string }

async function verifiedOf(actor: Actor, scope: Scope, senders: EntryText[]): Promise<Candidate['verified']> {
  // A signature is verified by itself.
  if (!senders.length || senders.some(s => s.kind === 'signedBy')) return null
  const [n] = await db()
    .select({
      of: sql<number>`count(*)::int`,
      passed: sql<number>`(count(*) filter (where ${attempts.authentication} ->> 'verdict' = 'pass'))::int`,
    })
    .from(copies)
    .innerJoin(attempts, eq(attempts.id, copies.attemptId))
    .where(and(visibleTo(actor), inScope(scope), withLookupKeys({ senders, texts: [] })))
  return n!
}

const MANY_LISTS = 3
const MANY_DOMAINS = 10

/** Of a domain from which mail of many unrelated senders comes: that it does. */
async function warningsFor(actor: Actor, policy: Policy, scope: Scope, scopes: readonly SenderScope[]): Promise<(string | null)[]> {
  return Promise.all(
    scopes.map(async ({ kind, entries }) => {
      if (kind === 'signedBy') return signsForMany(actor, scope, entries)
      if (kind !== 'domain' && kind !== 'domainAndSubdomains') return null
      const open = entries.filter(e => policy.trust.publicProviders?.includes(e.value))
      if (open.length) return `Anyone can have a mailbox at ${open[0]!.value}. The address or the mailing list is safer.`
      const keys = entries.map(e => `${kind === 'domain' ? 'domain' : 'below'}:${e.value}`)
      const [seen] = await db()
        .select({
          lists: sql<number>`count(distinct ${messages.listId})::int`,
          domains: sql<number>`count(distinct ${copies.senderDomain})::int`,
        })
        .from(copies)
        .innerJoin(messages, eq(messages.id, copies.messageId))
        .where(and(visibleTo(actor), inScope(scope), sql`${messages.senderKeys} && ${sql.param(keys)}::text[]`))
      const { lists, domains } = seen!
      if (lists > MANY_LISTS * entries.length) return `${numberWords(lists)} mailing lists send from this domain. Its mailing list is the narrower choice.`
      return domains > MANY_DOMAINS * entries.length ? `${numberWords(domains)} sender domains belong to it. The address is safer.` : null
    }),
  )
}

// A mail service signs for all its customers.
async function signsForMany(actor: Actor, scope: Scope, entries: readonly EntryText[]): Promise<string | null> {
  const signatures = entries.map(e => JSON.stringify([{ domain: e.value, result: 'pass' }]))
  const [seen] = await db()
    .select({ domains: sql<number>`count(distinct ${copies.senderDomain})::int` })
    .from(copies)
    .innerJoin(attempts, eq(attempts.id, copies.attemptId))
    .where(and(
      visibleTo(actor),
      inScope(scope),
      sql`${attempts.authentication} -> 'found' -> 'dkim' @> any(${sql.param(signatures)}::jsonb[])`,
    ))
  const { domains } = seen!
  return domains > MANY_DOMAINS * entries.length
    ? `It signs for ${numberWords(domains)} sender domains, so this matches mail of them all. The address is safer.`
    : null
}
