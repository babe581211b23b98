import { and, asc, desc, gt, inArray, lte, max, ne, notInArray, sql } from 'drizzle-orm'
import { isDelivered, isKeptHere, KEPT_LANES, type KeptLane } from '#core'
import { numberWords } from '#core/wording'
import { countMore, recordEvent } from '../audit/record'
import { reviews } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { db, jobsDb, type Tx } from '../db/client'
import { copies } from '../db/schema'
import { PermanentJobError, type JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { invalid } from '../platform/problem'
import { matching, type CopyFilter } from './copy-conditions'
import { markRows, notSaidYet } from './judgements'
import { notRequested } from '../requests/open-requests'
import { isMovable, isThere, moveRows, mustReview, quarantineFor } from './moves'
import { mustHaveSeenForgeries, possibleForgeries } from './possible-forgeries'

/** What is done to all copies that match. */
type Action =
  | { lane: KeptLane, quarantine?: string | null, ownPlaces?: boolean, confirmed?: number[] }
  | { value: 'wanted' | 'unwanted' | null }

/** All copies that match a filter, but for some of them. */
export interface ManyQuery extends CopyFilter {
  except?: number[]
}

/** Work that was begun: its event undoes it, also while it goes on. */
export interface StartedJob {
  eventId: number
  job: number
}

const BATCH_SIZE = 200

/**
 * Begins to move or mark all copies that match now. It goes on as a job; what comes in later is none of it, and what cannot be
 * moved stays where it is.
 */
export async function beginMany(actor: Actor, { except = [], ...filter }: ManyQuery, action: Action): Promise<StartedJob> {
  // Told now, and not by a job that fails.
  await matching(actor, filter)
  const to = 'lane' in action ? await quarantineFor(action.lane, action.quarantine) : null
  if (to !== null) mustReview(actor, to)
  if ('lane' in action && isDelivered(action.lane)) await mustBeSeen(actor, { except, filter }, action)
  const { confirmed: _, ...recorded } = { confirmed: [], ...action }
  return db().transaction(async (tx) => {
    const [newest] = await tx.select({ id: max(copies.id) }).from(copies)
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind: 'lane' in action ? 'moved' : 'marked',
      detail: { ...recorded, ...('lane' in action ? { quarantine: to } : {}), count: 0 },
    })
    const payload = { filter, except, action, to, upTo: newest?.id ?? 0 }
    return { eventId, job: await addJob(tx, { kind: 'many', payload, personId: actor.id, eventId: eventId }) }
  })
}

/** So many unverified messages are looked at before all that match are let in. */
const MAX_DOUBTED = 5000

/** Asks about messages that may be forged, before it begins. What turns out to be one only later stays where it is. */
async function mustBeSeen(
  actor: Actor,
  { except, filter }: { except: readonly number[], filter: CopyFilter },
  { lane, confirmed }: Extract<Action, { lane: KeptLane }>,
): Promise<void> {
  const rows = await db()
    .select()
    .from(copies)
    .where(
      and(
        await matching(actor, filter),
        ne(copies.verdict, 'pass'),
        inArray(copies.lane, KEPT_LANES.filter(l => !isDelivered(l))),
        except.length ? notInArray(copies.id, [...except]) : undefined,
      ),
    )
    .orderBy(desc(copies.id))
    .limit(MAX_DOUBTED + 1)
  if (rows.length > MAX_DOUBTED)
    throw invalid(
      `More than ${numberWords(MAX_DOUBTED)} of these messages are not verified, and some may be forged. `
      + 'Narrow the filter, then move them in parts.',
    )
  await mustHaveSeenForgeries(db(), actor, rows.filter(c => isMovable(actor, c, lane)), { lane, confirmed })
}

interface Payload {
  /** Its times as they are in JSON. */
  filter: Omit<CopyFilter, 'after' | 'before'> & { after?: string, before?: string }
  except: number[]
  action: Action
  to: string | null
  upTo: number
}

/** Does it, each step with the rights that its actor has by then. */
export const manyJob: JobKind = {
  async run(job) {
    const { action, to, ...payload } = job.payload as unknown as Payload
    if (job.cursor === null) {
      const [count] = await jobsDb()
        .select({ n: sql<number>`count(*)::int` })
        .from(copies)
        .where(await matchingNow(await job.actor(), payload))
      await job.setTotal(count!.n)
    }
    let after = Number(job.cursor?.after ?? 0)
    for (let more = true; more && !(await job.isStopping());) {
      await job.step(async (tx, actor) => {
        mustStillReview(actor!, to)
        const rows = await tx
          .select()
          .from(copies)
          .where(and(await matchingNow(actor!, payload), gt(copies.id, after)))
          .orderBy(asc(copies.id))
          .limit(BATCH_SIZE)
          .for('update')
        more = rows.length === BATCH_SIZE
        after = rows.at(-1)?.id ?? after
        const moved = rows.length ? await doTo(tx, actor!, rows, { eventId: job.eventId!, action, to }) : 0
        return { cursor: { after }, done: rows.length, moved }
      })
    }
  },
}

async function matchingNow(actor: Actor, { filter, except, upTo }: Pick<Payload, 'filter' | 'except' | 'upTo'>) {
  const { after: since, before: until, ...rest } = filter
  return and(
    await matching(actor, {
      ...rest,
      ...(since ? { after: new Date(since) } : {}),
      ...(until ? { before: new Date(until) } : {}),
    }),
    lte(copies.id, upTo),
    except.length ? notInArray(copies.id, except) : undefined,
  )
}

function mustStillReview(actor: Actor, quarantine: string | null): void {
  if (quarantine !== null && !reviews(actor, quarantine))
    throw new PermanentJobError(
      'You no longer have permission to move mail into this quarantine. Messages moved until then stay where they are, and can be undone.',
    )
}

type Copy = typeof copies.$inferSelect

async function doTo(
  tx: Tx,
  actor: Actor,
  rows: readonly Copy[],
  { eventId, action, to }: { eventId: number, action: Action, to: string | null },
): Promise<number> {
  let changing: Copy[]
  if ('lane' in action) {
    const { lane, ownPlaces = false, confirmed = [] } = action
    changing = rows.filter(c => isKeptHere(c.lane) && !isThere(c, lane, to) && isMovable(actor, c, lane))
    if (isDelivered(lane)) {
      const unseen = new Set((await possibleForgeries(tx, actor, changing)).map(f => f.id))
      for (const id of confirmed) unseen.delete(id)
      changing = changing.filter(c => !unseen.has(c.id))
    }
    // A no to whoever asks has its reason, which is not said of so many.
    if (lane === 'bin') changing = await notRequested(tx, changing)
    await moveRows(tx, actor, changing, { eventId, lane, to, ownPlaces })
  }
  else {
    changing = await notSaidYet(tx, rows, action.value)
    await markRows(tx, actor, changing, { eventId, value: action.value })
  }
  if (changing.length) await countMore(tx, eventId, changing.length)
  return changing.length
}
