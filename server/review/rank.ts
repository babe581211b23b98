import { and, eq, inArray, isNotNull, sql, type SQL } from 'drizzle-orm'
import { likelihood, subjectKey, type Signs } from '#core/review'
import { outOfSight } from '../access/copy-access'
import { jobsDb, type Db, type Tx } from '../db/client'
import { DELIVERED, REVIEWED } from '../db/lanes'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { copies, jobs, decisionClaims } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'

const BATCH_SIZE = 500
/** Of so many siblings of copies that were ordered anew the place is worked out at once, too. */
const MAX_SIBLINGS = 1000
const KIND = 'rank'
const UNRANKED = sql`ranked_at is null and lane in (${REVIEWED})`

/** A copy with all that its place in its review follows from. */
interface RankRow extends Omit<Signs, 'marked' | 'right'>, Record<string, unknown> {
  id: string
  subject: string
  clause: string | null
  /** Whose mail speaks for it: all of a quarantine, else its recipient's own. */
  whose: string
  moved: boolean
}

/**
 * What was marked of each clause, by its key; asked once a run, since it changes slowly and a clause may have taken a hundred
 * thousand copies.
 */
type Records = Map<string, { marked: number, right: number }>

/**
 * Works out where copies stand in their review that came there, or of which something changed; with them, where their senders'
 * other copies stand. @returns how many were new
 */
export async function rankSome(tx: Tx, most: number, records: Records = new Map()): Promise<number> {
  if (!(await isAnyUnranked(tx))) return 0
  // Opening Review waits for a batch in progress: the page would show its messages without the rule that stopped them.
  await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.reviewRank})`)
  const { rows } = await tx.execute<{ id: string, sender: string }>(sql`
    select id, sender_address sender from copies where ${UNRANKED}
    order by id desc limit ${most} for update skip locked`)
  if (!rows.length) return 0
  const ids = rows.map(r => Number(r.id))
  const senders = [...new Set(rows.map(r => r.sender).filter(s => s !== ''))]
  const siblings = senders.length
    ? await tx.execute<{ id: string }>(sql`
        select id from copies where sender_address = any(${sql.param(senders)}::text[]) and ranked_at is not null
          and lane in (${REVIEWED})
        order by id desc limit ${MAX_SIBLINGS} for update skip locked`)
    : { rows: [] }
  await place(tx, [...ids, ...siblings.rows.map(r => Number(r.id))], records)
  return ids.length
}

async function place(tx: Tx | Db, ids: readonly number[], records: Records): Promise<void> {
  const rows = await factsOf(tx, ids)
  await readStats(tx, rows, records)
  const placed = rows.map((row) => {
    const { points, why } = likelihood({ ...row, ...(records.get(recordKey(row.clause ?? '', row.whose)) ?? NOTHING_MARKED) })
    const clause = row.asked ? ASKED : row.moved ? BY_HAND : row.clause
    return { id: Number(row.id), clause, subject: subjectKey(row.subject), points, why }
  })
  await tx.execute(sql`
    update copies c set review_clause = p.clause, review_subject = p.subject, likely = p.points, likely_why = p.why, ranked_at = now()
    from jsonb_to_recordset(${JSON.stringify(placed)}::jsonb) p (id bigint, clause text, subject text, points smallint, why jsonb)
    where c.id = p.id`)
}

/** Groups that no clause put there. */
export const ASKED = 'asked'
export const BY_HAND = 'hand'

// Of mail that lies in its recipient's own lanes only the recipient's own mail speaks, as far as they see it: what others get is not
// theirs to know. What a quarantine holds is reviewed for all.
async function factsOf(tx: Tx | Db, ids: readonly number[]): Promise<RankRow[]> {
  const given = sql`select unnest(${sql.param([...ids])}::bigint[])`
  const { rows } = await tx.execute<RankRow>(sql`
    with c as (
      select c.id, c.subject, c.sender_address, c.verdict, c.moved_by is not null moved, c.lane, c.judgement, c.first_opened_at,
        case when c.lane = 'quarantine' then '' else coalesce(c.person_id, c.recipient) end whose,
        (r.reasons -> r.decided_by -> 'clause' ->> 'kind') || ' ' || (r.reasons -> r.decided_by -> 'clause' ->> 'id') clause,
        exists (select 1 from release_requests q where q.copy_id = c.id and q.state = 'open') asked
      from copies c left join decisions r on r.id = c.decision_id
      where c.id in (${given})),
    wanted as (select distinct sender_address, whose from c where sender_address <> ''),
    seen as (
      select w.sender_address, w.whose,
        count(*) filter (where s.verdict = 'pass' and s.lane in (${DELIVERED})) delivered,
        count(*) filter (where s.lane not in (${DELIVERED})) stopped,
        count(*) filter (where s.verdict = 'pass' and s.judgement = 'wanted') wanted,
        count(*) filter (where s.judgement = 'unwanted') unwanted,
        count(*) filter (where s.verdict = 'pass' and s.first_opened_at is not null) opened
      from wanted w join copies s on s.sender_address = w.sender_address and (w.whose = ''
        or (coalesce(s.person_id, s.recipient) = w.whose and not ${outOfSight(sql`s`)}))
      group by w.sender_address, w.whose)
    select c.id, c.subject, c.clause, c.whose, c.moved, c.asked, c.verdict,
      (coalesce(s.delivered, 0) - (c.lane = 'lowPriority' and c.verdict = 'pass' and s.sender_address is not null)::int)::int delivered,
      (coalesce(s.stopped, 0) - (c.lane <> 'lowPriority' and s.sender_address is not null)::int)::int stopped,
      greatest(0, coalesce(s.wanted, 0) - coalesce((c.verdict = 'pass' and c.judgement = 'wanted')::int, 0))::int wanted,
      greatest(0, coalesce(s.unwanted, 0) - coalesce((c.judgement = 'unwanted')::int, 0))::int unwanted,
      greatest(0, coalesce(s.opened, 0) - (c.verdict = 'pass' and c.first_opened_at is not null)::int)::int opened
    from c left join seen s on s.sender_address = c.sender_address and s.whose = c.whose`)
  return rows
}

const NOTHING_MARKED = { marked: 0, right: 0 }

function recordKey(clause: string, whose: string): string {
  return `${clause}\n${whose}`
}

async function readStats(tx: Tx | Db, rows: readonly RankRow[], records: Records): Promise<void> {
  const missing = rows.filter(r => r.clause !== null && !records.has(recordKey(r.clause, r.whose)))
  for (const { clause, whose } of missing) records.set(recordKey(clause!, whose), NOTHING_MARKED)
  for (const whose of new Set(missing.map(r => r.whose))) {
    const keys = [...new Set(missing.filter(r => r.whose === whose).map(r => r.clause!))]
    const among = whose === '' ? undefined : sql`coalesce(${copies.personId}, ${copies.recipient}) = ${whose} and not ${outOfSight()}`
    for (const [key, record] of await clauseStats(tx, keys, among)) records.set(recordKey(key, whose), record)
  }
}

/**
 * What was marked of what each clause took, and how much of it rightly.
 * @param keys "rule ID", "list ID"
 * @param among only of these copies
 */
export async function clauseStats(tx: Tx | Db, keys: readonly string[], among?: SQL): Promise<Records> {
  if (!keys.length) return new Map()
  const key = sql<string>`${decisionClaims.clauseKind} || ' ' || ${decisionClaims.clauseId}`
  const rows = await tx
    .select({
      key,
      marked: sql<number>`count(distinct ${copies.id})::int`,
      right: sql<number>`(count(distinct ${copies.id}) filter (where ${copies.judgement} = 'unwanted'))::int`,
    })
    .from(decisionClaims)
    .innerJoin(copies, and(eq(copies.id, decisionClaims.copyId), isNotNull(copies.judgement)))
    .where(
      and(
        inArray(decisionClaims.clauseId, keys.map(k => k.slice(k.indexOf(' ') + 1))),
        inArray(decisionClaims.outcome, ['decided', 'sameResult']),
        among,
      ),
    )
    .groupBy(key)
  return new Map(rows.map(({ key, ...record }) => [key, record]))
}

/** Keeps the order of all that is reviewed up to date. */
export const rankJob: JobKind = {
  async run(job) {
    const records: Records = new Map()
    for (let more = true; more && !(await job.isStopping());) {
      await job.step(async (tx) => {
        const done = await rankSome(tx, BATCH_SIZE, records)
        more = done > 0
        return { cursor: { round: Number(job.cursor?.round ?? 0) + 1 }, done }
      })
    }
  },
}

/** Asks for it, where anything is to be put in order. */
export async function requestRanking(): Promise<void> {
  if (!(await isAnyUnranked(jobsDb()))) return
  // It is asked for all the time: what it has done is nobody's to look up.
  await jobsDb().delete(jobs).where(and(eq(jobs.kind, KIND), eq(jobs.state, 'done')))
  await addJob(jobsDb(), { kind: KIND, key: 'all' })
}

async function isAnyUnranked(tx: Tx | Db): Promise<boolean> {
  const { rows } = await tx.execute(sql`
    select 1 from copies where ${UNRANKED} limit 1`)
  return rows.length > 0
}
