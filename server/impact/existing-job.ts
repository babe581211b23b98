import { and, asc, eq, gt, gte, inArray, isNull, lt, lte, max, or, sql } from 'drizzle-orm'
import { isDelivered, isKeptAway, personOwner, reasonsFor, isPersonal, type ClauseRef, type KeptLane, type Owner } from '#core'
import { replayed, type PolicyChange } from '#core/change'
import { landing, affectedScope } from '#core/simulate'
import { visibleTo } from '../access/copy-access'
import { canChange } from '../access/ownership'
import type { Actor } from '../access/roles'
import { jobsDb, type Tx } from '../db/client'
import { auditEventItems, auditEvents, copies, type CopyState, type StayedCopy } from '../db/schema'
import { PermanentJobError, type JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { activePolicy, refreshPolicy } from '../policy/active-policy'
import type { Redecided } from '../workers/redecide'
import { mustSeeCopies, stateOf } from '../copies/locked-copies'
import { inScope, scopeOf, withLookupKeys } from './affected-mail'
import { storeDecision } from '../copies/stored-decisions'
import { redecideCopies } from './simulation'
import { isMovable } from '../copies/moves'
import { answerRequestsFor } from '../requests/request-answers'

/** Which of the mail that is here a change is applied to. */
export interface Existing {
  /** Lanes out of which it is moved. */
  lanes: KeptLane[]
  after?: Date
  before?: Date
  /** Copies from which the change was suggested: they are moved wherever they lie, and whoever put them there. */
  ids?: number[]
  /** Only what this clause took, by the decisions that stand, whatever it says by now; but for what was marked unwanted. */
  took?: Took
  /** So many were counted to move before: only to say how far it is. */
  expected?: number
}

/** A clause that took mail. */
export type Took = Pick<ClauseRef, 'kind' | 'id'>

/** What a change makes other; see `ToRedecide`. */
interface Difference {
  net: PolicyChange[]
  is: 'before' | 'after'
}

interface Payload extends Difference {
  /** The version from which on it is active; a change that is only applied once is in none. */
  version: number
  lanes: KeptLane[]
  after?: string
  before?: string
  ids: number[]
  took?: Took
}

/** Asks for a change to be applied to mail that is here, as part of its event. */
export async function addExistingJob(
  tx: Tx,
  actor: Actor,
  eventId: number,
  { lanes, after, before, ids = [], ...difference }: Existing & Difference & { version: number },
): Promise<number> {
  await mustSeeCopies(tx, actor, ids)
  const payload = { ...difference, lanes, ids, after: after?.toISOString(), before: before?.toISOString() }
  return addJob(tx, { kind: 'existing', payload, personId: actor.id, eventId: eventId })
}

const BATCH_SIZE = 100
/** Of so many copies that stay all the same it is told why. */
const MAX_SHOWN = 20

/**
 * Moves the copies here that end elsewhere by a change than without it, each step with the rights that its actor has by then. What a
 * person moved by hand stays, and so does what lies elsewhere meanwhile.
 */
export const existingJob: JobKind = {
  async run(job) {
    const payload = job.payload as unknown as Payload
    if ((await activePolicy()).policy.version < payload.version) await refreshPolicy()
    await mustStillFit(payload)
    const owners = await ownersOf(payload)
    const which = and(payload.took ? undefined : await reached(payload), chosen(payload))
    const upTo = Number(job.cursor?.upTo ?? (await newest()))
    if (job.cursor === null) {
      const seen = and(visibleTo(await job.actor()), which, lte(copies.id, upTo))
      const [count] = await jobsDb().select({ n: sql<number>`count(*)::int` }).from(copies).where(seen)
      await job.setTotal(count!.n)
    }
    let after = Number(job.cursor?.after ?? 0)
    for (let more = true; more && !(await job.isStopping());) {
      const rows = await jobsDb()
        .select({ id: copies.id })
        .from(copies)
        .where(and(visibleTo(await job.actor()), which, gt(copies.id, after), lte(copies.id, upTo)))
        .orderBy(asc(copies.id))
        .limit(BATCH_SIZE)
      const ids = rows.map(r => r.id)
      await mustStillFit(payload)
      // Before the step: nothing is held while threads decide.
      const decided = await redecideCopies({ ...payload, ids, always: payload.took ? ids : ids.filter(id => payload.ids.includes(id)) })
      more = rows.length === BATCH_SIZE
      after = ids.at(-1) ?? after
      await job.step(async (tx, actor) => {
        mustStillBeAllowed(actor!, owners)
        const moved = decided.length ? await applyTo(tx, actor!, decided, { eventId: job.eventId!, payload }) : 0
        return { cursor: { after, upTo }, done: ids.length, moved }
      })
    }
  },
}

/** Whose clauses the change is of, or the clause that took mail. */
async function ownersOf({ net, took }: Payload): Promise<Owner[]> {
  const { policy } = await activePolicy()
  const clause = took && (took.kind === 'rule' ? policy.rules : policy.assignments).find(c => c.id === took.id)
  return [...affectedScope(policy, net).owners, ...(clause ? [clause.owner] : [])] as Owner[]
}

// A change of what is one's own needs no right besides; others' own clauses follow a change and are not asked.
function mustStillBeAllowed(actor: Actor, owners: readonly Owner[]): void {
  if (owners.every(owner => isPersonal(owner) || canChange(actor, owner))) return
  throw new PermanentJobError(
    'You no longer have permission to change these lists and rules. Messages moved until then stay where they are, and can be undone.',
  )
}

// What the change made may be gone since, or be otherwise: then nobody knows any more how it was without it.
async function mustStillFit({ net }: Payload): Promise<void> {
  const { policy } = await activePolicy()
  try {
    replayed(policy, net)
  }
  catch (error) {
    const why = error instanceof Error ? error.message : String(error)
    throw new PermanentJobError(
      `The same lists or rules were changed again meanwhile (${why}) Messages not moved until then stay where they are.`,
    )
  }
}

async function newest(): Promise<number> {
  const [row] = await jobsDb().select({ id: max(copies.id) }).from(copies)
  return row?.id ?? 0
}

async function reached({ net, ids }: Payload) {
  const { policy } = await activePolicy()
  const { owners, outbound, lookupKeys } = affectedScope(policy, net)
  // Also what was pointed at is moved only where the clauses that changed stand over it.
  return and(
    inScope(scopeOf(policy, owners, outbound)),
    lookupKeys ? or(withLookupKeys(lookupKeys), ids.length ? inArray(copies.id, ids) : undefined) : undefined,
  )
}

/** Copies that lie where they lie because of a clause. */
export function takenBy({ kind, id }: Took) {
  return sql`exists (select 1 from decision_claims t where t.decision_id = ${copies.decisionId}
    and t.clause_kind = ${kind} and t.clause_id = ${id} and t.outcome in ('decided', 'sameResult'))`
}

function chosen({ lanes, after, before, ids, took }: Payload) {
  return or(
    and(
      took ? and(takenBy(took), sql`${copies.judgement} is distinct from 'unwanted'`) : undefined,
      lanes.length ? inArray(copies.lane, lanes) : sql`false`,
      isNull(copies.movedBy),
      after ? gte(copies.receivedAt, new Date(after)) : undefined,
      before ? lt(copies.receivedAt, new Date(before)) : undefined,
    ),
    ids.length ? inArray(copies.id, ids) : undefined,
  )
}

async function applyTo(
  tx: Tx,
  actor: Actor,
  decided: readonly Redecided[],
  { eventId, payload }: { eventId: number, payload: Payload },
): Promise<number> {
  const byId = new Map(decided.map(d => [d.id, d]))
  const rows = await tx
    .select()
    .from(copies)
    .where(and(inArray(copies.id, [...byId.keys()]), chosen(payload), visibleTo(actor)))
    .orderBy(copies.id)
    .for('update')
  const now = new Date()
  const stays: StayedCopy[] = []
  const letOut: { id: number }[] = []
  let moved = 0
  for (const copy of rows) {
    const one = byId.get(copy.id)!
    const to = landing(one.decision)
    if (one.tooLate && !one.differs) stays.push(stayedCopy(actor, copy.id, one.decision))
    if (copy.lane === to.lane && copy.quarantineId === to.quarantine) continue
    // A held copy goes to its recipient by a change that frees what a rule held, or by who may release it: what was put there by hand
    // only so.
    const byChange = one.differs && copy.movedBy === null
    if (!byChange && copy.lane === 'quarantine' && !isMovable(actor, copy, to.lane)) continue
    if (!one.differs && one.tooLate) continue
    // What people marked as unwanted stays stopped, unless it was pointed at.
    const frees = isKeptAway(copy.lane) && isDelivered(to.lane)
    if (frees && copy.judgement === 'unwanted' && !payload.ids.includes(copy.id)) continue
    await moveOne(tx, copy, one, { eventId, by: payload.is === 'after' ? actor.name : null, now })
    if (isDelivered(to.lane)) letOut.push(copy)
    moved++
  }
  await answerRequestsFor(tx, letOut, { state: 'released', eventId, by: actor.id })
  if (moved || stays.length)
    await tx
      .update(auditEvents)
      .set({
        detail: sql`${auditEvents.detail} || jsonb_build_object(
          'count', coalesce((${auditEvents.detail} ->> 'count')::int, 0) + ${moved}::int,
          'stayed', coalesce((${auditEvents.detail} ->> 'stayed')::int, 0) + ${stays.length}::int,
          'stays', (select jsonb_path_query_array(
            coalesce(${auditEvents.detail} -> 'stays', '[]') || ${JSON.stringify(stays)}::jsonb,
            '$[0 to ${sql.raw(String(MAX_SHOWN - 1))}]')))`,
      })
      .where(eq(auditEvents.id, eventId))
  return moved
}

// Why it stays, as data; of a colleague's own clause without its name.
function stayedCopy(actor: Actor, copy: number, { lane, quarantine, reasons, decidedBy }: Redecided['decision']): StayedCopy {
  const deciding = decidedBy === null ? undefined : reasonsFor(personOwner(actor.id), reasons)[decidedBy]
  return { copy, lane, quarantine, reason: deciding ?? null }
}

/** @param by moved as by their hand, by a change that is not active; null where it is the policy that moves */
async function moveOne(
  tx: Tx,
  copy: typeof copies.$inferSelect,
  { decision, state, row, claims }: Redecided,
  { eventId, by, now }: { eventId: number, by: string | null, now: Date },
): Promise<void> {
  const to = landing(decision)
  const lies = {
    lane: to.lane,
    quarantineId: to.quarantine,
    folder: by === null ? state.folder : null,
    filed: by === null && state.filed,
    laneSince: now.toISOString(),
  }
  const after: CopyState = by !== null
    ? { ...lies, movedBy: by }
    : {
        ...lies,
        movedBy: null,
        tags: state.tags,
        important: state.important,
        reason: state.reason,
        decisionId: await storeDecision(tx, copy.id, row, claims),
      }
  await tx.insert(auditEventItems).values({ eventId, copyId: copy.id, before: stateOf(copy), after })
  await tx
    .update(copies)
    .set({ ...after, laneSince: now, version: copy.version + 1 })
    .where(eq(copies.id, copy.id))
}
