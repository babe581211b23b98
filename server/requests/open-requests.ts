import { and, eq } from 'drizzle-orm'
import { NO_REQUESTS, type OpenRequests } from '../access/copy-actions'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import type { Db, Tx } from '../db/client'
import { releaseRequests } from '../db/schema'

/** The open release requests of copies, by copy. */
export async function openRequestsFor(
  at: Db | Tx,
  actor: Pick<Actor, 'id'>,
  rows: readonly { id: number }[],
): Promise<(copy: { id: number }) => OpenRequests> {
  if (!rows.length) return () => NO_REQUESTS
  const open = await openAmong(at, rows)
  const [any, mine] = [open, open.filter(r => r.personId === actor.id)].map(some => new Set(some.map(r => r.copyId)))
  return ({ id }) => (any!.has(id) ? { any: true, mine: mine!.has(id) } : NO_REQUESTS)
}

/** Of locked copies those whose release is not requested: who did while the lock was waited for is seen only now. */
export async function notRequested<T extends { id: number }>(tx: Tx, rows: readonly T[]): Promise<T[]> {
  if (!rows.length) return []
  const open = new Set((await openAmong(tx, rows)).map(r => r.copyId))
  return rows.filter(r => !open.has(r.id))
}

function openAmong(at: Db | Tx, rows: readonly { id: number }[]) {
  return at
    .select({ copyId: releaseRequests.copyId, personId: releaseRequests.personId })
    .from(releaseRequests)
    .where(and(isAnyOf(releaseRequests.copyId, rows.map(r => r.id)), eq(releaseRequests.state, 'open')))
}
