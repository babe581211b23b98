import { and, asc, desc, eq, lt, sql } from 'drizzle-orm'
import { differences, type PolicyChange } from '#core/change'
import { jobsDb } from '../db/client'
import { auditEvents, jobs, proposals, versions } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { wordsOf } from './apply'
import { aroundVersion } from './around-version'
import { loadWithoutEntries } from './store'
import { WORDS_VERSION } from './words-version'

const KIND = 'words'

/**
 * Makes stored sentences anew after an update of the product changed how changes are described: of versions, of proposals, and of
 * changes that were applied once to existing mail. What they are made from is data and stays as it is.
 */
export const wordsJob: JobKind = {
  async run({ step, isStopping }) {
    for (const remake of [remakeVersion, remakeProposal, remakeApplied]) {
      while (!(await isStopping())) {
        const write = await remake()
        if (!write) break
        await step(async (tx) => {
          await write(tx as unknown as ReturnType<typeof jobsDb>)
          return { cursor: { kind: remake.name }, done: 1 }
        })
      }
    }
  },
}

/** Asks for it where something older is stored. */
export async function requestWords(): Promise<void> {
  const [older] = await jobsDb().select({ one: sql`1` }).from(versions).where(lt(versions.wordsVersion, WORDS_VERSION)).limit(1)
  const [proposed] = await jobsDb().select({ one: sql`1` }).from(proposals).where(lt(proposals.wordsVersion, WORDS_VERSION)).limit(1)
  const [applied] = await jobsDb().select({ one: sql`1` }).from(auditEvents).where(isOlderApplied()).limit(1)
  if (older || proposed || applied) await addJob(jobsDb(), { kind: KIND, key: 'all' })
}

type Write = (at: ReturnType<typeof jobsDb>) => Promise<unknown>

async function remakeVersion(): Promise<Write | null> {
  const at = jobsDb()
  const [row] = await at
    .select({ number: versions.number })
    .from(versions)
    .where(lt(versions.wordsVersion, WORDS_VERSION))
    .orderBy(desc(versions.number))
    .limit(1)
  if (!row) return null
  const { before, after } = await aroundVersion(at, row.number)
  const words = await wordsOf(before, differences(before, after))
  return db => db.update(versions).set({ words, wordsVersion: WORDS_VERSION }).where(eq(versions.number, row.number))
}

async function remakeProposal(): Promise<Write | null> {
  const at = jobsDb()
  const [row] = await at.select().from(proposals).where(lt(proposals.wordsVersion, WORDS_VERSION)).orderBy(desc(proposals.id)).limit(1)
  if (!row) return null
  const words = await wordsOf(await loadWithoutEntries(at as never, row.base), row.changes)
  return db => db.update(proposals).set({ words, wordsVersion: WORDS_VERSION }).where(eq(proposals.id, row.id))
}

async function remakeApplied(): Promise<Write | null> {
  const at = jobsDb()
  const [row] = await at.select({ id: auditEvents.id }).from(auditEvents).where(isOlderApplied()).orderBy(desc(auditEvents.id)).limit(1)
  if (!row) return null
  const [job] = await at
    .select({ payload: jobs.payload })
    .from(jobs)
    .where(and(eq(jobs.eventId, row.id), eq(jobs.kind, 'existing')))
    .orderBy(asc(jobs.id))
    .limit(1)
  const net = (job?.payload.net ?? []) as PolicyChange[]
  const words = net.length ? await wordsOf(await loadWithoutEntries(at as never), net) : ''
  const remade = { words, wordsVersion: WORDS_VERSION }
  return db => db
    .update(auditEvents)
    .set({ detail: sql`${auditEvents.detail} || ${JSON.stringify(remade)}::jsonb` })
    .where(eq(auditEvents.id, row.id))
}

function isOlderApplied() {
  return and(
    eq(auditEvents.kind, 'applied'),
    sql`coalesce((${auditEvents.detail} ->> 'wordsVersion')::int, 0) < ${WORDS_VERSION}`,
  )
}
