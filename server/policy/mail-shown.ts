import { and, eq, isNull, min, sql, type SQL } from 'drizzle-orm'
import { isPersonal, phraseHitKey, tiersFor, type CheckContext, type Owner, type Policy } from '#core'
import { outOfSight } from '../access/copy-access'
import { jobsDb } from '../db/client'
import { attempts, copies, entries, decisionClaims, decisions, rules, versions } from '../db/schema'

/**
 * What mail has shown of a policy's clauses: when they last hit, and which phrases stand in wanted mail. It counts all claims
 * there are.
 */
export async function whatMailHasShown(policy: Policy): Promise<CheckContext> {
  const now = new Date()
  const [first] = await jobsDb()
    .select({ at: min(attempts.at) })
    .from(attempts)
  const began = first?.at ?? now
  const seen = new Map<string, { last: string | null, since: string }>()
  const made = await jobsDb()
    .select({ id: rules.id, at: min(versions.at) })
    .from(rules)
    .innerJoin(versions, eq(versions.number, rules.fromVersion))
    .groupBy(rules.id)
  const added = await jobsDb()
    .select({ id: entries.id, at: entries.addedAt })
    .from(entries)
    .where(and(isNull(entries.toVersion), sql`${entries.addedAt} < now() - interval '180 days'`))
    .limit(MAX_ENTRIES)
  for (const { id, at } of [...made, ...added]) seen.set(id, { last: null, since: later(at ?? now, began).toISOString() })
  const hidden = hiddenFrom(policy)
  for (const column of [decisionClaims.clauseId, decisionClaims.entryId]) {
    const hits = await jobsDb()
      .select({ id: column, last: sql<string>`max(${copies.receivedAt})` })
      .from(decisionClaims)
      .innerJoin(copies, eq(copies.id, decisionClaims.copyId))
      .where(hidden(sql`${decisionClaims.clauseId}`))
      .groupBy(column)
    for (const { id, last } of hits) if (id !== null) seen.set(id, { last: new Date(last).toISOString(), since: began.toISOString() })
  }
  const watched = await jobsDb().selectDistinct({ id: rules.id }).from(rules).where(eq(rules.state, 'monitor'))
  return { now: now.toISOString(), seen, watched: new Set(watched.map(w => w.id)), wantedHits: await hitsAmongWanted(policy, hidden) }
}

/**
 * Leaves out what somebody's own clauses matched in mail that is held out of their sight: a finding would tell them of it.
 * @returns the condition for a query over copies, by the id of the clause
 */
function hiddenFrom(policy: Policy): (clause: SQL) => SQL | undefined {
  const own = [...policy.rules, ...policy.assignments].filter(c => isPersonal(c.owner)).map(c => c.id)
  return clause => (own.length ? sql`(${outOfSight()} and ${clause} = any(${sql.param(own)}::text[])) is not true` : undefined)
}

/** Entries whose use is looked at; a list of a million is looked at by its first thousands all the same. */
const MAX_ENTRIES = 100_000

function later(a: Date, b: Date): Date {
  return a > b ? a : b
}

async function hitsAmongWanted(policy: Policy, hidden: (clause: SQL) => SQL | undefined): Promise<CheckContext['wantedHits']> {
  const found = and(eq(copies.decisionId, decisions.id), eq(copies.judgement, 'wanted'))
  const byPerson = await jobsDb()
    .select({ id: copies.personId, n: sql<number>`count(*)::int` })
    .from(copies)
    .where(eq(copies.judgement, 'wanted'))
    .groupBy(copies.personId)
  const wanted = new Map<Owner, number>()
  const add = (owner: Owner, n: number) => wanted.set(owner, (wanted.get(owner) ?? 0) + n)
  for (const { id, n } of byPerson)
    for (const owner of new Set(tiersFor(policy, id, policy.people.find(p => p.id === id)?.departments ?? []).map(t => t.owner)))
      add(owner, n)
  const [rule, phrase] = [sql<string>`matched -> 'clause' ->> 'id'`, sql<string>`e ->> 'phrase'`]
  const rows = await jobsDb()
    .select({ rule, phrase, hits: sql<number>`count(distinct ${copies.id})::int` })
    .from(decisions)
    .innerJoin(copies, found)
    .innerJoin(
      sql`jsonb_path_query(${decisions.reasons}, '$[*] ? (@.clause.kind == "rule" && @.outcome.kind != "excepted")') matched`,
      sql`true`,
    )
    .innerJoin(sql`jsonb_path_query(matched, '$.evidence[*] ? (@.kind == "phrase")') e`, sql`true`)
    .where(hidden(rule))
    .groupBy(rule, phrase)
  return { wanted, byPhrase: new Map(rows.map(r => [phraseHitKey(r.rule, r.phrase), r.hits])) }
}
