import { randomUUID } from 'node:crypto'
import { and, desc, eq, inArray, sql, type SQL } from 'drizzle-orm'
import { clauseKey, type Content, type Owner, type Policy } from '#core'
import { causesOf, candidatesFor, type Caused, type Candidate, type Should } from '#core/fix'
import { coveringPhrases, sharedPhrases, type SharedPhrase } from '#core/suggest'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { copies, decisionClaims } from '../db/schema'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'
import { otherMail } from './other-mail'

/** Copies that went wrong in the same way. */
export interface CausesJob extends WithEdition {
  ids: readonly number[]
  should: Should
  /** For whom senders may be allowed or blocked. */
  owners: readonly { owner: Owner, name: string }[]
  /** Words of other mail are only of what this one sees. */
  actor: Actor
  /** ISO 8601 instant. */
  now: string
}

/** What may put them right. */
export interface CausesFound {
  candidates: Candidate[]
  /** Ids of those that still end where they should not, under the active policy. */
  wrong: number[]
  /** Of which only a record is left. */
  unread: number
}

/** Unwanted mail of a clause, and other mail, against which is held what the copies say. */
const HELD_AGAINST = 20
const OTHER_MAIL = 300

/** The causes of copies that went wrong, and the changes that may put them right, off the thread that serves people. */
export async function causesOfCopies({ ids, should, owners, actor, now, ...edition }: CausesJob): Promise<CausesFound | Needs> {
  const indexed = indexedFor(edition)
  if (!indexed) return { needs: edition.number }
  const open = await openArchive()
  const { policy } = indexed.compiled
  const found = await open.archive.messages(ids, policy.trust)
  const caused = found.flatMap(({ id, message, recipient }) =>
    (message ? [causesOf({ id, message, recipient, should }, indexed, now)] : []))
  const wrong = caused.filter(b => !b.right)
  const against = { contents: wrong.map(w => w.message.content), trust: policy.trust, seen: visibleTo(actor) }
  const candidates = candidatesFor(policy, wrong, {
    owners,
    id: randomUUID,
    company: should === 'delivered' ? await companyOf(open, wrong, against) : new Map(),
    phrases: should === 'stopped' ? await phrasesOf(open, wrong, against) : [],
    publicProviders: policy.trust.publicProviders ?? [],
  })
  return { candidates, wrong: wrong.map(w => w.id), unread: found.length - caused.length }
}

interface Against {
  contents: readonly Content[]
  trust: Policy['trust']
  seen: SQL | undefined
}

// What the unwanted mail of a clause has in common, and the copies have not: in its company the phrase would have been right.
async function companyOf(
  { db, archive }: OpenArchive,
  wrong: readonly Caused[],
  { contents, trust, seen }: Against,
): Promise<Map<string, string[]>> {
  const rules = new Map(wrong.flatMap(w => w.sets.flat()).filter(c => c.kind === 'rule').map(c => [clauseKey(c), c]))
  const out = new Map<string, string[]>()
  for (const [key, { id }] of rules) {
    const rows = await db
      .select({ id: copies.id })
      .from(decisionClaims)
      .innerJoin(copies, and(eq(copies.decisionId, decisionClaims.decisionId), eq(copies.judgement, 'unwanted')))
      .where(and(eq(decisionClaims.clauseId, id), inArray(decisionClaims.outcome, ['decided', 'sameResult']), seen))
      .orderBy(desc(copies.id))
      .limit(HELD_AGAINST)
    const unwanted = (await archive.messages(rows.map(r => r.id), trust)).flatMap(m => m.message?.content ?? [])
    if (unwanted.length > 1) out.set(key, sharedPhrases(unwanted, { against: contents }, 2).map(p => p.text))
  }
  return out
}

async function phrasesOf(open: OpenArchive, wrong: readonly Caused[], { contents, trust, seen }: Against): Promise<SharedPhrase[]> {
  if (!wrong.length) return []
  const isWanted = sql`${copies.judgement} is distinct from 'unwanted'`
  const where = and(inArray(copies.lane, ['inbox', 'lowPriority']), isWanted, seen)
  const others = await otherMail(open, { ids: wrong.map(w => w.id), where, trust, most: OTHER_MAIL })
  return coveringPhrases(contents, { against: others.map(o => o.content) })
}
