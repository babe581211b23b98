import { and, eq, inArray, isNotNull, isNull, ne, sql } from 'drizzle-orm'
import { isOthers, personOwner } from '#core'
import { ownVisibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { DELIVERED_LANES } from '../db/lanes'
import { copies, toldClauses } from '../db/schema'

/** A rule or list that is not the user's own and has begun to stop mail from senders whose mail they open. */
export interface NewlyStopped {
  clause: { kind: string, id: string, name: string }
  messages: number
  senders: string[]
  /** Since when (ISO 8601). */
  since: string
}

const DAYS = 14
const MAX_TOLD = 3

/**
 * What began to stop mail that somebody opens, in the last two weeks, and was not said yet. A sender is the same only as far as both
 * were verified, or neither was, and none counts that failed authentication: a forged sender is no correspondent. What quarantines hold
 * of which recipients see nothing is not told.
 */
export async function newlyStopped(actor: Actor): Promise<NewlyStopped[]> {
  // Once for all senders: asked of each stopped message it would read all mail of its sender anew.
  const opened = db()
    .select({ sender: copies.reviewSender, since: sql<Date>`min(${copies.receivedAt})`.as('since') })
    .from(copies)
    .where(and(eq(copies.personId, actor.id), isNotNull(copies.firstOpenedAt), inArray(copies.lane, [...DELIVERED_LANES])))
    .groupBy(copies.reviewSender)
    .as('opened')
  const clause = sql<string>`${copies.reason} -> 'clause' ->> 'id'`
  const rows = await db()
    .select({
      id: clause,
      kind: sql<string>`min(${copies.reason} -> 'clause' ->> 'kind')`,
      name: sql<string>`min(${copies.reason} -> 'clause' ->> 'name')`,
      owner: sql<string>`min(${copies.reason} ->> 'owner')`,
      messages: sql<number>`count(*)::int`,
      senders: sql<string[]>`array_agg(distinct ${copies.senderAddress})`,
      since: sql<string>`min(${copies.receivedAt})`,
    })
    .from(copies)
    .innerJoin(opened, and(eq(opened.sender, copies.reviewSender), sql`${copies.receivedAt} > ${opened.since}`))
    .where(and(
      ownVisibleTo(actor),
      eq(copies.personId, actor.id),
      sql`${copies.lane} in ('spam', 'quarantine', 'bin')`,
      isNull(copies.movedBy),
      ne(copies.senderAddress, ''),
      ne(copies.verdict, 'fail'),
      sql`${copies.receivedAt} > now() - make_interval(days => ${DAYS})`,
      sql`${copies.reason} ->> 'kind' = 'clause' and (${copies.reason} ->> 'decided')::boolean`,
      sql`${copies.reason} ->> 'owner' not like 'person:%'`,
      sql`not exists (select 1 from ${toldClauses} t where t.person_id = ${actor.id} and t.clause_id = ${clause})`,
    ))
    .groupBy(clause)
    .orderBy(sql`min(${copies.receivedAt}) desc`)
    .limit(MAX_TOLD)
  return rows
    .filter(r => !isOthers(personOwner(actor.id), r.owner))
    .map(({ id, kind, name, messages, senders, since }) => {
      const clause = { id, kind, name }
      return { clause, messages, senders, since: new Date(since).toISOString() }
    })
}

/** They have read it: it is not said again. Of what stopped nothing of theirs nothing is kept. */
export async function sawStopped(actor: Actor, clause: string): Promise<void> {
  await db().execute(sql`
    insert into ${toldClauses} (person_id, clause_id)
    select ${actor.id}, ${clause}::text
    where exists (select 1 from copies c where c.person_id = ${actor.id} and c.reason -> 'clause' ->> 'id' = ${clause})
    on conflict do nothing`)
}
