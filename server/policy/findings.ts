import { and, eq, isNull, min, sql } from 'drizzle-orm'
import { setTimeout as sleep } from 'node:timers/promises'
import { personOwner, phraseHitKey, tiersFor, type CheckContext, type Finding, type Owner, type Policy } from '#core'
import { longDb } from '../db/client'
import { attempts, copies, entries, rulingClaims, rulings, rules, versions } from '../db/schema'
import { seesClausesOf } from '../access/ownership'
import { may, type Asker } from '../access/roles'
import { policyInForce, type InForce } from './in-force'
import { checkElsewhere } from './elsewhere'

/** Hits change by the second; what they mean over 180 days is good for a while. */
const GOOD_FOR = 5 * 60 * 1000

/** How long a page waits for them. What was found before is shown meanwhile; an ordinary policy is checked in milliseconds. */
const PATIENCE = 1500

let shown: { at: number, context: Promise<CheckContext> } | null = null
let latest: { edition: number, findings: Promise<Finding[]> } | null = null
let found: Finding[] = []
let foundIn: number | null = null

/** What the checks find in the policy in force, with what mail has shown of it. */
async function findingsInForce(): Promise<Finding[]> {
  const inForce = await policyInForce()
  if (latest?.edition !== inForce.edition.number || stale()) {
    // One at a time: of the versions that came meanwhile only the newest is checked.
    const before = latest?.findings.catch(() => []) ?? Promise.resolve([])
    const edition = inForce.edition.number
    const isWanted = () => latest?.edition === edition && (stale() || foundIn !== edition)
    latest = { edition, findings: before.then(() => (isWanted() ? findAll(inForce) : found)) }
  }
  const { findings } = latest
  return Promise.race([findings, sleep(PATIENCE).then(() => found)])
}

function stale(): boolean {
  return !shown || Date.now() - shown.at > GOOD_FOR
}

async function findAll({ policy, edition: { number, table } }: InForce): Promise<Finding[]> {
  if (!shown || stale()) shown = { at: Date.now(), context: whatMailHasShown(policy) }
  try {
    found = await checkElsewhere({ policy, table, context: await shown.context })
    foundIn = number
    return found
  }
  catch (error) {
    // What failed is asked again next time.
    shown = latest = null
    throw error
  }
}

/** What of it somebody may read: what other people's mail has shown is not theirs to count, nor how they use a list. */
export async function findingsFor(asker: Asker): Promise<Finding[]> {
  const { policy } = await policyInForce()
  const owners = new Map([...policy.rules, ...policy.lists].map(c => [c.id, c.owner]))
  const mayRead = ({ kind, clause: { id, user } }: Finding) =>
    (user === undefined || seesClausesOf(asker, user)) &&
    (may(asker, 'see counts of everybody’s mail') || !FROM_MAIL.has(kind) || owners.get(id) === personOwner(asker.id))
  return (await findingsInForce()).filter(mayRead)
}

const FROM_MAIL: ReadonlySet<Finding['kind']> = new Set(['phrase too broad', 'unused for long'])

async function whatMailHasShown(policy: Policy): Promise<CheckContext> {
  const now = new Date()
  const [first] = await longDb()
    .select({ at: min(attempts.at) })
    .from(attempts)
  const began = first?.at ?? now
  const seen = new Map<string, { last: string | null, since: string }>()
  const made = await longDb()
    .select({ id: rules.id, at: min(versions.at) })
    .from(rules)
    .innerJoin(versions, eq(versions.number, rules.fromVersion))
    .groupBy(rules.id)
  const added = await longDb()
    .select({ id: entries.id, at: entries.addedAt })
    .from(entries)
    .where(and(isNull(entries.toVersion), sql`${entries.addedAt} < now() - interval '180 days'`))
    .limit(MOST_ENTRIES)
  for (const { id, at } of [...made, ...added]) seen.set(id, { last: null, since: later(at ?? now, began).toISOString() })
  for (const column of [rulingClaims.clauseId, rulingClaims.entryId]) {
    const hits = await longDb()
      .select({ id: column, last: sql<string>`max(${copies.receivedAt})` })
      .from(rulingClaims)
      .innerJoin(copies, eq(copies.id, rulingClaims.copyId))
      .groupBy(column)
    for (const { id, last } of hits) if (id !== null) seen.set(id, { last: new Date(last).toISOString(), since: began.toISOString() })
  }
  const watched = await longDb().selectDistinct({ id: rules.id }).from(rules).where(eq(rules.state, 'watching'))
  return { now: now.toISOString(), seen, watched: new Set(watched.map(w => w.id)), wantedHits: await hitsAmongWanted(policy) }
}

/** Entries whose use is looked at; a list of a million is looked at by its first thousands all the same. */
const MOST_ENTRIES = 100_000

function later(a: Date, b: Date): Date {
  return a > b ? a : b
}

async function hitsAmongWanted(policy: Policy): Promise<CheckContext['wantedHits']> {
  const found = and(eq(copies.rulingId, rulings.id), eq(copies.judgement, 'wanted'))
  const byPerson = await longDb()
    .select({ id: copies.personId, n: sql<number>`count(*)::int` })
    .from(copies)
    .where(eq(copies.judgement, 'wanted'))
    .groupBy(copies.personId)
  const wanted = new Map<Owner, number>()
  const add = (owner: Owner, n: number) => wanted.set(owner, (wanted.get(owner) ?? 0) + n)
  for (const { id, n } of byPerson)
    for (const owner of new Set(tiersFor(policy, id, policy.people.find(p => p.id === id)?.departments ?? []).map(t => t.owner))) add(owner, n)
  const [rule, phrase] = [sql<string>`reason -> 'clause' ->> 'id'`, sql<string>`e ->> 'phrase'`]
  const rows = await longDb()
    .select({ rule, phrase, hits: sql<number>`count(distinct ${copies.id})::int` })
    .from(rulings)
    .innerJoin(copies, found)
    .innerJoin(sql`jsonb_path_query(${rulings.reasons}, '$[*] ? (@.clause.kind == "rule" && @.fate.kind != "excepted")') reason`, sql`true`)
    .innerJoin(sql`jsonb_path_query(reason, '$.evidence[*] ? (@.kind == "phrase")') e`, sql`true`)
    .groupBy(rule, phrase)
  return { wanted, byPhrase: new Map(rows.map(r => [phraseHitKey(r.rule, r.phrase), r.hits])) }
}
