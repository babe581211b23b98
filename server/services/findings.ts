import { and, eq, isNull, min, sql } from 'drizzle-orm'
import { phraseHitKey, type CheckContext, type Finding } from '#core'
import { db } from '../db/client'
import { attempts, copies, entries, rulingClaims, rulings, rules, versions } from '../db/schema'
import { policyInForce } from './policy-in-force'
import { checkElsewhere } from './workers'

/** Hits change by the second; what they mean over 180 days is good for a while. */
const GOOD_FOR = 5 * 60 * 1000

let shown: { at: number, context: Promise<CheckContext> } | null = null
let known: { edition: number, context: Promise<CheckContext>, findings: Promise<Finding[]> } | null = null

/** What the checks find in the policy in force, with what mail has shown of it. */
export async function findingsInForce(): Promise<Finding[]> {
  const { policy, edition } = await policyInForce()
  if (!shown || Date.now() - shown.at > GOOD_FOR) shown = { at: Date.now(), context: whatMailHasShown() }
  const { context } = shown
  if (known?.edition !== edition.number || known.context !== context) known = { edition: edition.number, context, findings: context.then(c => checkElsewhere(policy, c)) }
  try {
    return await known.findings
  }
  catch (error) {
    // What failed is asked again next time.
    shown = known = null
    throw error
  }
}

async function whatMailHasShown(): Promise<CheckContext> {
  const now = new Date()
  const [first] = await db().select({ at: min(attempts.at) }).from(attempts)
  const began = first?.at ?? now
  const seen = new Map<string, { last: string | null, since: string }>()
  const made = await db().select({ id: rules.id, at: min(versions.at) }).from(rules).innerJoin(versions, eq(versions.number, rules.fromVersion)).groupBy(rules.id)
  const added = await db().select({ id: entries.id, at: entries.addedAt }).from(entries).where(and(isNull(entries.toVersion), sql`${entries.addedAt} < now() - interval '180 days'`)).limit(MOST_ENTRIES)
  for (const { id, at } of [...made, ...added]) seen.set(id, { last: null, since: later(at ?? now, began).toISOString() })
  for (const column of [rulingClaims.clauseId, rulingClaims.entryId]) {
    const hits = await db().select({ id: column, last: sql<string>`max(${copies.receivedAt})` }).from(rulingClaims).innerJoin(copies, eq(copies.id, rulingClaims.copyId)).groupBy(column)
    for (const { id, last } of hits) if (id !== null) seen.set(id, { last: new Date(last).toISOString(), since: began.toISOString() })
  }
  const watched = await db().selectDistinct({ id: rules.id }).from(rules).where(eq(rules.state, 'watching'))
  return { now: now.toISOString(), seen, watched: new Set(watched.map(w => w.id)), wantedHits: await hitsAmongWanted() }
}

/** Entries whose use is looked at; a list of a million is looked at by its first thousands all the same. */
const MOST_ENTRIES = 100_000

function later(a: Date, b: Date): Date {
  return a > b ? a : b
}

async function hitsAmongWanted(): Promise<CheckContext['wantedHits']> {
  const wanted = and(eq(copies.rulingId, rulings.id), eq(copies.judgement, 'wanted'))
  const [count] = await db().select({ n: sql<number>`count(*)::int` }).from(copies).where(eq(copies.judgement, 'wanted'))
  const [rule, phrase] = [sql<string>`reason -> 'clause' ->> 'id'`, sql<string>`e ->> 'phrase'`]
  const rows = await db().select({ rule, phrase, hits: sql<number>`count(distinct ${copies.id})::int` }).from(rulings).innerJoin(copies, wanted)
    .innerJoin(sql`jsonb_path_query(${rulings.reasons}, '$[*] ? (@.clause.kind == "rule" && @.fate.kind != "excepted")') reason`, sql`true`)
    .innerJoin(sql`jsonb_path_query(reason, '$.evidence[*] ? (@.kind == "phrase")') e`, sql`true`).groupBy(rule, phrase)
  return { wanted: count!.n, byPhrase: new Map(rows.map(r => [phraseHitKey(r.rule, r.phrase), r.hits])) }
}
