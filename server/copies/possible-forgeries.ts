import { and, eq, inArray, isNull, sql, type SQL } from 'drizzle-orm'
import {
  canVerifySenders,
  entryKindOf,
  entryWords,
  isDelivered,
  isKeptAway,
  makeAddress,
  type EntryText,
  type KeptLane,
  type Verdict,
} from '#core'
import { isDoubted } from '#core/review'
import { counted, quoted } from '#core/wording'
import { countableBy, reviews, type Copy } from '../access/copy-access'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import type { Db, Tx } from '../db/client'
import { attempts, copies, entries } from '../db/schema'
import { Problem, PROBLEM_TYPES } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'

/** A message whose From is one that people here trust, and that nothing verified: what it claims, and what was found. */
export interface PossibleForgery {
  id: number
  subject: string
  sender: string
  senderName: string
  /** Why its From is trusted. */
  claims: string
  verdict: Verdict
  /** What authentication and the connection say of it. */
  found: string
}

/** Of more than these at once nobody reads what is found. */
const MAX_ASKED = 2000

/**
 * Those of copies that are about to be let in, and whose From is a known sender's or an own domain's, though it was not verified. A
 * known sender is an address of which a verified copy was marked wanted, or that is on an enabled allow list; both as far as the actor
 * may know. Where nothing can verify senders, only failed authentication is asked about.
 */
export async function possibleForgeries(at: Db | Tx, actor: Actor, rows: readonly Copy[]): Promise<PossibleForgery[]> {
  const { policy } = await activePolicy()
  const canVerify = canVerifySenders(policy)
  const doubted = rows.filter(c => isKeptAway(c.lane) && c.senderAddress !== '' && isDoubted(c.verdict, canVerify))
  if (!doubted.length) return []
  const senders = [...new Set(doubted.map(c => c.senderAddress))]
  // Who reviews what a quarantine holds is told what Review says there of a sender; of all else, what the actor's own mail says.
  const isReviewed = (copy: Copy) => copy.lane === 'quarantine' && reviews(actor, copy.quarantineId ?? 'general')
  const among = countableBy(actor)
  const ofOwn = await wantedOf(at, senders, among)
  const ofAll = among && doubted.some(isReviewed) ? await wantedOf(at, senders, undefined) : ofOwn
  const allowed = await allowedBy(at, actor, senders)
  const tried = new Map((await at
    .select()
    .from(attempts)
    .where(inArray(attempts.id, doubted.map(c => c.attemptId)))).map(a => [a.id, a]))
  return doubted.flatMap((copy): PossibleForgery[] => {
    const attempt = tried.get(copy.attemptId)
    // Who signed in, or connects from an own network, is no stranger with an own domain in From.
    const isOwn = policy.trust.ownDomains.includes(copy.senderDomain) && attempt?.direction === 'inbound'
    const n = (isReviewed(copy) ? ofAll : ofOwn).get(copy.senderAddress) ?? 0
    const list = allowed.get(copy.senderAddress)
    const claims = [
      ...(isOwn ? [`${copy.senderDomain} is one of your own domains`] : []),
      ...(n ? [`${counted(n, 'verified message')} from this address marked wanted`] : []),
      ...(list ? [list] : []),
    ]
    if (!claims.length) return []
    const { id, subject, senderAddress: sender, senderName, verdict } = copy
    return [{ id, subject, sender, senderName, claims: claims.join('; '), verdict, found: foundWords(copy, attempt) }]
  })
}

function foundWords({ verdict }: Copy, attempt: typeof attempts.$inferSelect | undefined): string {
  const { by = '', saidBy = null } = attempt?.authentication ?? {}
  const method = by ? ` (${by.toUpperCase()}${saidBy ? `, according to ${saidBy}` : ''})` : ''
  return [
    verdict === 'fail' ? `authentication failed${method}` : 'nothing verified the sender',
    ...(attempt?.client ? [`sent from ${attempt.client}`] : []),
    ...(attempt?.mailFrom ? [`envelope sender ${attempt.mailFrom}`] : []),
  ].join('; ')
}

/** @param among only of these copies */
async function wantedOf(at: Db | Tx, senders: readonly string[], among: SQL | undefined): Promise<Map<string, number>> {
  const rows = await at
    .select({ sender: copies.senderAddress, n: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(isAnyOf(copies.senderAddress, senders), eq(copies.verdict, 'pass'), eq(copies.judgement, 'wanted'), among))
    .groupBy(copies.senderAddress)
  return new Map(rows.map(r => [r.sender, r.n]))
}

/** By address: which allow list it is on. */
async function allowedBy(at: Db | Tx, actor: Actor, senders: readonly string[]): Promise<Map<string, string>> {
  const { policy } = await activePolicy()
  const allowing = new Set(policy.assignments.filter(b => b.side === 'allow' && b.state === 'enabled').map(b => b.list))
  const lists = policy.lists.filter(l => l.enabled && allowing.has(l.id) && seesClausesOf(actor, l.owner))
  if (!lists.length) return new Map()
  const catchers = new Map(senders.map(sender => [sender, catchersOf(sender)]))
  const found = await at
    .select()
    .from(entries)
    .where(
      and(
        inArray(entries.listId, lists.map(l => l.id)),
        isNull(entries.toVersion),
        isAnyOf(entries.value, [...new Set([...catchers.values()].flat().map(e => e.value))]),
      ),
    )
  const now = new Date()
  const out = new Map<string, string>()
  for (const [sender, own] of catchers) {
    const entry = found.find(e => (!e.expires || e.expires > now) && own.some(o => o.kind === e.kind && o.value === e.value))
    const list = entry && lists.find(l => l.id === entry.listId)
    if (list) out.set(sender, `${entryWords(entry as EntryText)} is on allow list ${quoted(list.name)}`)
  }
  return out
}

/** The entries that catch an address, whole or by its domain. */
function catchersOf(sender: string): EntryText[] {
  const { key, keyWithoutTag } = makeAddress(sender)
  return [...new Set([key, keyWithoutTag])].flatMap(value => [
    { kind: 'address' as const, value },
    ...(entryKindOf('address').wider(value) as EntryText[]),
  ])
}

/**
 * Refuses to let in what may be forged, until the actor has seen what each claims and what was found.
 * @param confirmed ids of those that they have seen
 */
export async function mustHaveSeenForgeries(
  at: Db | Tx,
  actor: Actor,
  rows: readonly Copy[],
  { lane, confirmed = [] }: { lane: KeptLane, confirmed?: readonly number[] },
): Promise<void> {
  if (!isDelivered(lane)) return
  const seen = new Set(confirmed)
  const forgeries = (await possibleForgeries(at, actor, rows)).filter(f => !seen.has(f.id))
  if (!forgeries.length) return
  throw new Problem(
    422,
    'The sender may be forged',
    `${counted(forgeries.length, 'message')} from a known sender or an own domain ${forgeries.length === 1 ? 'is' : 'are'} not verified. `
    + 'Compare what each claims with what was found; confirm those to be let in by their ids.',
    { type: PROBLEM_TYPES.forged, more: { forgeries: forgeries.slice(0, MAX_ASKED) } },
  )
}
