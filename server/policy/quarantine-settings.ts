import { eq, inArray, isNull, sql } from 'drizzle-orm'
import isSame from 'fast-deep-equal'
import { recordEvent } from '../audit/record'
import { can, type Actor } from '../access/roles'
import { db, type Db, type Tx } from '../db/client'
import { people, quarantineReviewers, quarantines, quarantineSettings, type AfterWait } from '../db/schema'
import { invalid, notFound, conflict } from '../platform/problem'
import { activePolicy } from './active-policy'

/** What is settled of a quarantine besides its name: by the house, and not by a clause. */
export interface QuarantineSettings {
  /** Ids of who reviews it; where nobody is named, everybody does who may. */
  reviewers: string[]
  /** Who steps in; reviews it, too. */
  deputy: string | null
  /** Days after which what is held is dealt with by itself; null is never. */
  waitDays: number | null
  afterWait: AfterWait
  /** Its recipients see that it is held, are told of it in the line above, may ask for it, may release it themselves. */
  visible: boolean
  notified: boolean
  canRequest: boolean
  canRelease: boolean
}

const UNLESS_SET: QuarantineSettings = {
  reviewers: [],
  deputy: null,
  waitDays: null,
  afterWait: 'bin',
  visible: true,
  notified: true,
  canRequest: true,
  canRelease: false,
}

/** The settings of every quarantine that has some, by its id. */
export async function allQuarantineSettings(at: Db | Tx = db()): Promise<(id: string) => QuarantineSettings> {
  const reviewers = await at.select().from(quarantineReviewers).orderBy(quarantineReviewers.personId)
  const rows = new Map((await at.select().from(quarantineSettings)).map(s => [s.quarantineId, s]))
  return (id) => {
    const row = rows.get(id)
    const named = reviewers.filter(r => r.quarantineId === id).map(r => r.personId)
    if (!row) return { ...UNLESS_SET, reviewers: named }
    const { quarantineId: _, deputyId, version: __, ...settings } = row
    return { ...settings, deputy: deputyId, reviewers: named }
  }
}

/** Of each quarantine a number that any change of its name or its settings makes larger: what a change of it was made on. */
export async function quarantineVersions(at: Db | Tx): Promise<Map<string, number>> {
  const rows = await at
    .select({ id: quarantines.id, version: sql<number>`${quarantines.fromVersion} + coalesce(${quarantineSettings.version}, 0)` })
    .from(quarantines)
    .leftJoin(quarantineSettings, eq(quarantineSettings.quarantineId, quarantines.id))
    .where(isNull(quarantines.toVersion))
  return new Map(rows.map(q => [q.id, q.version]))
}

/** @throws 404 where there is no such quarantine, 409 where it was changed after that version */
export async function mustBeVersion(tx: Tx, id: string, version: number): Promise<void> {
  const now = (await quarantineVersions(tx)).get(id)
  if (now === undefined) throw notFound('This quarantine')
  if (now !== version) throw conflict('This quarantine')
}

/** What a change of settings was made on: a version that was seen; or the event that is undone, and what it had left. */
type Seen = { version: number } | { eventId: number, left: QuarantineSettings }

/**
 * Settles something of a quarantine, as one event. What is not said stays.
 * @throws 409 where it was changed since it was seen
 */
export async function setQuarantine(
  actor: Actor,
  id: string,
  asked: Partial<QuarantineSettings>,
  saw: Seen,
): Promise<{ eventId: number | null, settings: QuarantineSettings }> {
  const { policy } = await activePolicy()
  const quarantine = policy.quarantines.find(q => q.id === id)
  if (!quarantine) throw notFound('This quarantine')
  const undoes = 'eventId' in saw ? saw.eventId : undefined
  return db().transaction(async (tx) => {
    await tx.insert(quarantineSettings).values({ quarantineId: id }).onConflictDoNothing()
    await tx.select().from(quarantineSettings).where(eq(quarantineSettings.quarantineId, id)).for('update')
    const before = (await allQuarantineSettings(tx))(id)
    if ('version' in saw) await mustBeVersion(tx, id, saw.version)
    else if (!isSame(before, saw.left)) throw conflict('The setting of this quarantine')
    const after = { ...before, ...asked, ...(asked.reviewers ? { reviewers: [...new Set(asked.reviewers)].sort() } : {}) }
    if (quarantine.general && after.reviewers.length)
      throw invalid('All reviewers see the general quarantine.', { reviewers: 'No reviewers can be chosen for the general quarantine.' })
    await mustReview(tx, [...after.reviewers, ...(after.deputy ? [after.deputy] : [])])
    // Who does not see it cannot ask for it.
    if (!after.visible) Object.assign(after, { notified: false, canRequest: false, canRelease: false })
    if (isSame(before, after)) return { eventId: null, settings: before }
    const { reviewers, deputy, ...rest } = after
    await tx
      .update(quarantineSettings)
      .set({ ...rest, deputyId: deputy, version: sql`${quarantineSettings.version} + 1` })
      .where(eq(quarantineSettings.quarantineId, id))
    await tx.delete(quarantineReviewers).where(eq(quarantineReviewers.quarantineId, id))
    if (reviewers.length) await tx.insert(quarantineReviewers).values(reviewers.map(personId => ({ quarantineId: id, personId })))
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind: undoes === undefined ? 'changedQuarantine' : 'undone',
      detail: { quarantine: id, name: quarantine.name, before, after },
      undoes,
    })
    return { eventId, settings: after }
  })
}

// Whoever may not let anything out would only look.
async function mustReview(tx: Tx, ids: readonly string[]): Promise<void> {
  if (!ids.length) return
  const known = await tx.select().from(people).where(inArray(people.id, [...ids]))
  for (const id of ids) {
    const person = known.find(p => p.id === id)
    if (!person || person.deactivatedAt !== null) throw invalid(`User “${id}” does not exist.`, { reviewers: 'Choose an existing user.' })
    if (!can(person, 'hold and release'))
      throw invalid(
        `User “${person.name}” is not a reviewer. Change the role in Settings first.`,
        { reviewers: `User “${person.name}” is not a reviewer.` },
      )
  }
}

/** Undoes what was settled of a quarantine, as long as nobody settled it otherwise since. */
export async function undoQuarantineEvent(
  actor: Actor,
  auditEvent: { id: number, detail: Record<string, unknown> },
): Promise<number | null> {
  const id = String(auditEvent.detail.quarantine)
  const { before, after } = auditEvent.detail as { before: QuarantineSettings, after: QuarantineSettings }
  return (await setQuarantine(actor, id, before, { eventId: auditEvent.id, left: after })).eventId
}
