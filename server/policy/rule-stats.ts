import { and, eq, inArray, sql } from 'drizzle-orm'
import { isPersonal, personOwner, type ClauseRef, type Lane, type Policy, type Rule } from '#core'
import type { Marks } from '#core/simulate'
import { countableBy } from '../access/copy-access'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { copies, decisionClaims, rules, decisions, versions } from '../db/schema'
import { activePolicy } from './active-policy'

/** What a rule has done so far, and where it stands among the others. */
export interface RuleStats {
  /** Copies in which it matched, and when it did last. */
  hits: number
  /** Of those, the newest so many are looked into for what follows. */
  looked: number
  lastHit: string | null
  /** What came before it, and decided in its place, by how many copies; the most first. */
  takenBy: { clause: Pick<ClauseRef, 'kind' | 'id' | 'name' | 'list'> | null, copies: number }[]
  /** While it watched: from where to where it would have taken copies. */
  would: ({ from: Lane, to: Lane } & Marks)[]
  /** Copies are where they are because of it: their mail can be returned. */
  stopped: boolean
  /** Since when it watches; null where it does not. */
  monitoringSince: string | null
  /** Among its owner's rules of the same standing, from 1; of how many. */
  place: number
  of: number
}

/** Reasons are read of so many decisions, the newest. */
const NEWEST = 5000

const LOST_TO = ['comesAfter', 'overriddenBy', 'replacedBy', 'allowTooLate', 'notReached']

/** The record of one rule, over the mail that the actor may count. */
export async function statsOf(actor: Actor, rule: Rule): Promise<RuleStats> {
  const { policy } = await activePolicy()
  const peers = policy.rules.filter(r => r.owner === rule.owner && (r.mandatory === true) === (rule.mandatory === true))
  const ofRule = and(eq(decisionClaims.clauseId, rule.id), countableBy(actor))
  const [hit] = await db()
    .select({ hits: sql<number>`count(distinct ${copies.id})::int`, last: sql<string | null>`max(${copies.receivedAt})` })
    .from(decisionClaims)
    .innerJoin(copies, eq(copies.decisionId, decisionClaims.decisionId))
    .where(ofRule)
  const outcomes = db()
    .select({
      copy: sql<number>`${copies.id}`.as('copy'),
      lane: sql<Lane>`${copies.lane}`.as('lane'),
      judgement: sql<string | null>`${copies.judgement}`.as('judgement'),
      outcome: sql`jsonb_path_query(
        ${decisions.reasons}, '$[*] ? (@.clause.id == $id).outcome', jsonb_build_object('id', ${rule.id}::text))`.as('outcome'),
    })
    .from(decisions)
    .innerJoin(copies, eq(copies.decisionId, decisions.id))
    .where(and(countableBy(actor), sql`${decisions.id} in (
      select distinct decision_id from decision_claims where clause_id = ${rule.id} order by decision_id desc limit ${NEWEST})`))
    .as('outcomes')
  const lost = await db()
    .select({ by: sql<ClauseRef>`outcome -> 'by'`, copies: sql<number>`count(distinct copy)::int` })
    .from(outcomes)
    .where(sql`outcome ->> 'kind' = any(${sql.param(LOST_TO)})`)
    .groupBy(sql`outcome -> 'by'`)
  const marked = (which: string) => sql<number>`(count(distinct copy) filter (where judgement ${sql.raw(which)}))::int`
  const would = rule.state !== 'monitor'
    ? []
    : await db()
        .select({
          from: sql<Lane>`lane`,
          to: sql<Lane>`outcome -> 'would' ->> 'lane'`,
          wanted: marked('= \'wanted\''),
          unwanted: marked('= \'unwanted\''),
          unmarked: marked('is null'),
        })
        .from(outcomes)
        .where(sql`outcome ->> 'kind' = 'monitored' and (outcome ->> 'changes')::boolean`)
        .groupBy(sql`lane`, sql`outcome -> 'would' ->> 'lane'`)
  return {
    hits: hit!.hits,
    looked: Math.min(hit!.hits, NEWEST),
    lastHit: hit!.last === null ? null : new Date(hit!.last).toISOString(),
    takenBy: byClause(actor, policy, lost),
    would,
    stopped: await hasStopped(rule.id),
    monitoringSince: rule.state === 'monitor' ? await monitoringSince(rule.id) : null,
    place: peers.findIndex(r => r.id === rule.id) + 1,
    of: peers.length,
  }
}

async function hasStopped(id: string): Promise<boolean> {
  const [one] = await db()
    .select({ id: decisionClaims.copyId })
    .from(decisionClaims)
    .innerJoin(copies, eq(copies.decisionId, decisionClaims.decisionId))
    .where(and(eq(decisionClaims.clauseId, id), inArray(decisionClaims.outcome, ['decided', 'sameResult'])))
    .limit(1)
  return one !== undefined
}

// By clause and not by entry; of a colleague's own only that it was so.
function byClause(actor: Actor, policy: Policy, lost: readonly { by: ClauseRef, copies: number }[]): RuleStats['takenBy'] {
  const owners = new Map([...policy.rules, ...policy.assignments].map(c => [c.id, c.owner]))
  const out = new Map<string, RuleStats['takenBy'][number]>()
  for (const { by, copies: n } of lost) {
    const owner = owners.get(by.id)
    const isSeen = owner === undefined || (seesClausesOf(actor, owner) && (!isPersonal(owner) || owner === personOwner(actor.id)))
    const key = isSeen ? by.id : ''
    const there = out.get(key)
    const { kind, id, name, list } = by
    if (there) there.copies += n
    else out.set(key, { clause: isSeen ? { kind, id, name, ...(list === undefined ? {} : { list }) } : null, copies: n })
  }
  return [...out.values()].sort((a, b) => b.copies - a.copies)
}

// The first version of those, without a gap, in which it was watching.
async function monitoringSince(id: string): Promise<string | null> {
  const rows = await db()
    .select({ state: rules.state, at: versions.at })
    .from(rules)
    .innerJoin(versions, eq(versions.number, rules.fromVersion))
    .where(eq(rules.id, id))
    .orderBy(sql`${rules.fromVersion} desc`)
  let since: Date | null = null
  for (const { state, at } of rows) {
    if (state !== 'monitor') break
    since = at
  }
  return since?.toISOString() ?? null
}
