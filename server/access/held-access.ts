import { and, eq, inArray, isNull, ne, or, sql } from 'drizzle-orm'
import { db } from '../db/client'
import { people, quarantineReviewers, quarantineSettings } from '../db/schema'
import { may, ROLES, type HeldAccess } from './roles'

const REVIEWING = ROLES.filter(role => may({ role }, 'hold and release'))

/** What of held mail is somebody's to see and to let out. The general quarantine is everybody's who reviews. */
export async function heldAccessOf(person: string): Promise<HeldAccess> {
  const isDeputy = sql`exists (
    select 1 from ${quarantineSettings} s where s.quarantine_id = quarantine_reviewers.quarantine_id and s.deputy_id = ${person})`
  const others = await db()
    .select({ id: quarantineReviewers.quarantineId })
    .from(quarantineReviewers)
    // Whoever has left reviews nothing any more: what names only them is everybody's again.
    .innerJoin(people, and(eq(people.id, quarantineReviewers.personId), isNull(people.leftAt), inArray(people.role, REVIEWING)))
    .where(ne(quarantineReviewers.quarantineId, 'general'))
    .groupBy(quarantineReviewers.quarantineId)
    .having(sql`not bool_or(${quarantineReviewers.personId} = ${person}) and not bool_or(${isDeputy})`)
    .orderBy(quarantineReviewers.quarantineId)
  const rows = await db()
    .select({ id: quarantineSettings.quarantineId, seen: quarantineSettings.seen, mayRelease: quarantineSettings.mayRelease })
    .from(quarantineSettings)
    .where(or(eq(quarantineSettings.seen, false), and(eq(quarantineSettings.mayRelease, true), eq(quarantineSettings.seen, true))))
    .orderBy(quarantineSettings.quarantineId)
  return {
    othersReview: others.map(o => o.id),
    unseen: rows.filter(r => !r.seen).map(r => r.id),
    ownRelease: rows.filter(r => r.seen && r.mayRelease).map(r => r.id),
  }
}
