import { and, eq, isNull } from 'drizzle-orm'
import { db } from '../db/client'
import { lists } from '../db/schema'
import { seesClausesOf } from './ownership'
import type { Actor } from './roles'
import { notFound } from '../platform/problem'

/** A list active that the actor may see. */
export async function currentList(actor: Actor, id: string): Promise<typeof lists.$inferSelect> {
  const [row] = await db().select().from(lists).where(and(eq(lists.id, id), isNull(lists.toVersion)))
  if (!row || !seesClausesOf(actor, row.owner)) throw notFound('This list')
  return row
}
