import { and, asc, gt, lte, max, notInArray, sql } from 'drizzle-orm'
import { isKeptHere, type KeptLane } from '#core'
import { countMore, recordAct } from '../audit/record'
import { reviews } from '../access/copy-access'
import type { Asker } from '../access/roles'
import { db, jobsDb, type Tx } from '../db/client'
import { copies } from '../db/schema'
import { CannotBeDone, type JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { matching, type CopyFilter } from './copy-conditions'
import { judgeRows, notSaidYet } from './judgements'
import { notAskedFor } from '../retention/erase'
import { isMovable, isThere, moveRows, mustReview, quarantineFor } from './moves'

/** What is done to all copies that match. */
type Deed = { lane: KeptLane, quarantine?: string | null, ownPlaces?: boolean } | { value: 'wanted' | 'unwanted' | null }

/** All copies that match a filter, but for some of them. */
export interface ManyQuery extends CopyFilter {
  except?: number[]
}

/** Work that was begun: its act takes it back, also while it goes on. */
export interface Begun {
  act: number
  job: number
}

const AT_ONCE = 200

/**
 * Begins to move or judge all copies that match now. It goes on as a job; what comes in later is none of it, and what cannot be
 * moved stays where it is.
 */
export async function beginMany(asker: Asker, { except = [], ...filter }: ManyQuery, deed: Deed): Promise<Begun> {
  // Told now, and not by a job that fails.
  await matching(asker, filter)
  const to = 'lane' in deed ? await quarantineFor(deed.lane, deed.quarantine) : null
  if (to !== null) mustReview(asker, to)
  return db().transaction(async (tx) => {
    const [newest] = await tx.select({ id: max(copies.id) }).from(copies)
    const act = await recordAct(tx, {
      personId: asker.id,
      kind: 'lane' in deed ? 'moved' : 'judged',
      detail: { ...deed, ...('lane' in deed ? { quarantine: to } : {}), count: 0 },
    })
    const payload = { filter, except, deed, to, upTo: newest?.id ?? 0 }
    return { act, job: await addJob(tx, { kind: 'many', payload, personId: asker.id, actId: act }) }
  })
}

interface Payload {
  /** Its times as they are in JSON. */
  filter: Omit<CopyFilter, 'after' | 'before'> & { after?: string, before?: string }
  except: number[]
  deed: Deed
  to: string | null
  upTo: number
}

/** Does it, each step with the rights that its asker has by then. */
export const manyJob: JobKind = {
  async run(job) {
    const { deed, to, ...payload } = job.payload as unknown as Payload
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
          .limit(AT_ONCE)
          .for('update')
        more = rows.length === AT_ONCE
        after = rows.at(-1)?.id ?? after
        const moved = rows.length ? await doTo(tx, actor!, rows, { actId: job.actId!, deed, to }) : 0
        return { cursor: { after }, done: rows.length, moved }
      })
    }
  },
}

async function matchingNow(actor: Asker, { filter, except, upTo }: Pick<Payload, 'filter' | 'except' | 'upTo'>) {
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

function mustStillReview(actor: Asker, quarantine: string | null): void {
  if (quarantine !== null && !reviews(actor, quarantine))
    throw new CannotBeDone('You may no longer put mail into this quarantine. What had been moved by then stays, and can be undone.')
}

type Row = typeof copies.$inferSelect

async function doTo(
  tx: Tx,
  asker: Asker,
  rows: readonly Row[],
  { actId, deed, to }: { actId: number, deed: Deed, to: string | null },
): Promise<number> {
  let changing: Row[]
  if ('lane' in deed) {
    const { lane, ownPlaces = false } = deed
    changing = rows.filter(c => isKeptHere(c.lane) && !isThere(c, lane, to) && isMovable(asker, c, lane))
    // A no to whoever asks has its reason, which is not said of so many.
    if (lane === 'bin') changing = await notAskedFor(tx, changing)
    await moveRows(tx, asker, changing, { actId, lane, to, ownPlaces })
  }
  else {
    changing = await notSaidYet(tx, rows, deed.value)
    await judgeRows(tx, asker, changing, { actId, value: deed.value })
  }
  if (changing.length) await countMore(tx, actId, changing.length)
  return changing.length
}
