import { and, eq, sql } from 'drizzle-orm'
import { isPersonal, personOwner, type ClauseRef, type Lane, type Policy, type Rule } from '#core'
import type { Judged } from '#core/simulate'
import { countableBy } from '../access/copy-access'
import { seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { db } from '../db/client'
import { copies, rulingClaims, rules, rulings, versions } from '../db/schema'
import { policyInForce } from './active-policy'

/** What a rule has done so far, and where it stands among the others. */
export interface RuleRecord {
  /** Copies in which it matched, and when it did last. */
  hits: number
  /** Of those, the newest so many are looked into for what follows. */
  looked: number
  lastHit: string | null
  /** What came before it, and decided in its place, by how many copies; the most first. */
  takenBy: { clause: Pick<ClauseRef, 'kind' | 'id' | 'name' | 'list'> | null, copies: number }[]
  /** While it watched: from where to where it would have taken copies. */
  would: ({ from: Lane, to: Lane } & Judged)[]
  /** Since when it watches; null where it does not. */
  watchingSince: string | null
  /** Among its owner's rules of the same standing, from 1; of how many. */
  place: number
  of: number
}

/** Reasons are read of so many rulings, the newest. */
const NEWEST = 5000

const LOST_TO = ['outranked', 'held off', 'yielded', 'protection too late', 'not reached']

/** The record of one rule, over the mail that the asker may count. */
export async function recordOf(asker: Asker, rule: Rule): Promise<RuleRecord> {
  const { policy } = await policyInForce()
  const peers = policy.rules.filter(r => r.owner === rule.owner && (r.must === true) === (rule.must === true))
  const ofRule = and(eq(rulingClaims.clauseId, rule.id), countableBy(asker))
  const [hit] = await db()
    .select({ hits: sql<number>`count(distinct ${copies.id})::int`, last: sql<string | null>`max(${copies.receivedAt})` })
    .from(rulingClaims)
    .innerJoin(copies, eq(copies.rulingId, rulingClaims.rulingId))
    .where(ofRule)
  const fates = db()
    .select({
      copy: sql<number>`${copies.id}`.as('copy'),
      lane: sql<Lane>`${copies.lane}`.as('lane'),
      judgement: sql<string | null>`${copies.judgement}`.as('judgement'),
      fate: sql`jsonb_path_query(
        ${rulings.reasons}, '$[*] ? (@.clause.id == $id).fate', jsonb_build_object('id', ${rule.id}::text))`.as('fate'),
    })
    .from(rulings)
    .innerJoin(copies, eq(copies.rulingId, rulings.id))
    .where(and(countableBy(asker), sql`${rulings.id} in (
      select distinct ruling_id from ruling_claims where clause_id = ${rule.id} order by ruling_id desc limit ${NEWEST})`))
    .as('fates')
  const lost = await db()
    .select({ by: sql<ClauseRef>`fate -> 'by'`, copies: sql<number>`count(distinct copy)::int` })
    .from(fates)
    .where(sql`fate ->> 'kind' = any(${sql.param(LOST_TO)})`)
    .groupBy(sql`fate -> 'by'`)
  const judged = (which: string) => sql<number>`(count(distinct copy) filter (where judgement ${sql.raw(which)}))::int`
  const would = rule.state !== 'watching'
    ? []
    : await db()
        .select({
          from: sql<Lane>`lane`,
          to: sql<Lane>`fate -> 'would' ->> 'lane'`,
          wanted: judged('= \'wanted\''),
          unwanted: judged('= \'unwanted\''),
          unjudged: judged('is null'),
        })
        .from(fates)
        .where(sql`fate ->> 'kind' = 'watching' and (fate ->> 'changes')::boolean`)
        .groupBy(sql`lane`, sql`fate -> 'would' ->> 'lane'`)
  return {
    hits: hit!.hits,
    looked: Math.min(hit!.hits, NEWEST),
    lastHit: hit!.last === null ? null : new Date(hit!.last).toISOString(),
    takenBy: byClause(asker, policy, lost),
    would,
    watchingSince: rule.state === 'watching' ? await watchingSince(rule.id) : null,
    place: peers.findIndex(r => r.id === rule.id) + 1,
    of: peers.length,
  }
}

// By clause and not by entry; of a colleague's own only that it was so.
function byClause(asker: Asker, policy: Policy, lost: readonly { by: ClauseRef, copies: number }[]): RuleRecord['takenBy'] {
  const owners = new Map([...policy.rules, ...policy.bindings].map(c => [c.id, c.owner]))
  const out = new Map<string, RuleRecord['takenBy'][number]>()
  for (const { by, copies: n } of lost) {
    const owner = owners.get(by.id)
    const isSeen = owner === undefined || (seesClausesOf(asker, owner) && (!isPersonal(owner) || owner === personOwner(asker.id)))
    const key = isSeen ? by.id : ''
    const there = out.get(key)
    const { kind, id, name, list } = by
    if (there) there.copies += n
    else out.set(key, { clause: isSeen ? { kind, id, name, ...(list === undefined ? {} : { list }) } : null, copies: n })
  }
  return [...out.values()].sort((a, b) => b.copies - a.copies)
}

// The first version of those, without a gap, in which it was watching.
async function watchingSince(id: string): Promise<string | null> {
  const rows = await db()
    .select({ state: rules.state, at: versions.at })
    .from(rules)
    .innerJoin(versions, eq(versions.number, rules.fromVersion))
    .where(eq(rules.id, id))
    .orderBy(sql`${rules.fromVersion} desc`)
  let since: Date | null = null
  for (const { state, at } of rows) {
    if (state !== 'watching') break
    since = at
  }
  return since?.toISOString() ?? null
}
