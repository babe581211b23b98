import { and, asc, eq, gt, isNotNull, sql } from 'drizzle-orm'
import { forSenderOf, type Attempt, type Content } from '#core'
import { jobsDb } from '../db/client'
import { attempts, copies, messages, sources } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { cleanJson } from '../platform/clean-text'
import { activePolicy } from '../policy/active-policy'
import { verifyOne } from '../verification/verification'

const BATCH_SIZE = 20
const AT_THE_SAME_TIME = 4

// Inbound, accepted, and neither verified here nor by a relay.
const isUnverified = and(
  isNotNull(attempts.messageId),
  sql`coalesce(${attempts.direction}, 'inbound') = 'inbound'`,
  sql`${attempts.replyCode} = 250`,
  sql`${attempts.authentication} ->> 'saidBy' is null`,
  sql`not coalesce(${attempts.authentication} ? 'found', false)`,
)
const hasSource = sql`exists (select 1 from ${sources} where ${sources.messageId} = ${attempts.messageId})`

/** How many handed-over messages could be verified now, and how many not, since their source was not kept. */
export async function countUnverified(): Promise<{ ready: number, without: number }> {
  const [n] = await jobsDb()
    .select({
      ready: sql<number>`(count(*) filter (where ${hasSource}))::int`,
      without: sql<number>`(count(*) filter (where not ${hasSource}))::int`,
    })
    .from(attempts)
    .where(isUnverified)
  return n!
}

/** Begins to verify the senders of mail that is here. */
export async function verifyStoredMail(personId: string): Promise<{ job: number | null }> {
  return { job: await addJob(jobsDb(), { kind: 'senders', key: 'senders', personId }) }
}

/**
 * Verifies the senders of mail that is here, by its bytes and client address. Keys and records are those of today: what does not pass may
 * have passed then, so only a pass changes what is known of a sender. No message is decided anew.
 */
export const sendersJob: JobKind = {
  async run(job) {
    const before = Number(job.cursor?.done ?? 0)
    await job.setTotal(before + (await countUnverified()).ready)
    for (let after = Number(job.cursor?.after ?? 0), done = before; !(await job.isStopping());) {
      const rows = await jobsDb()
        .select({ attempt: attempts, raw: sources.raw, facts: messages.facts })
        .from(attempts)
        .innerJoin(sources, eq(sources.messageId, attempts.messageId))
        .innerJoin(messages, eq(messages.id, attempts.messageId))
        .where(and(isUnverified, gt(attempts.id, after)))
        .orderBy(asc(attempts.id))
        .limit(BATCH_SIZE)
      if (!rows.length) return
      const found: { id: number, authentication: Attempt['authentication'] }[] = []
      const waiting = [...rows]
      await Promise.all(Array.from({ length: AT_THE_SAME_TIME }, async () => {
        for (let row = waiting.shift(); row; row = waiting.shift()) {
          const authentication = await verifiedNow(row)
          if (authentication) found.push({ id: row.attempt.id, authentication })
        }
      }))
      after = rows.at(-1)!.attempt.id
      done += rows.length
      await job.step(async (tx) => {
        for (const { id, authentication } of found) {
          await tx.update(attempts).set({ authentication }).where(eq(attempts.id, id))
          await tx.update(copies).set({ verdict: authentication.verdict }).where(eq(copies.attemptId, id))
        }
        return { cursor: { after, done }, done: rows.length, moved: found.length }
      })
    }
  },
}

interface Row {
  attempt: typeof attempts.$inferSelect
  raw: Buffer
  facts: Content
}

async function verifiedNow({ attempt, raw, facts }: Row): Promise<Attempt['authentication'] | null> {
  const { policy } = await activePolicy()
  const client = attempt.firstHop || attempt.client
  const envelope = {
    mailFrom: attempt.mailFrom,
    rcptTo: attempt.rcptTo === null ? [] : [attempt.rcptTo],
    client,
    // Behind a relay HELO is the relay's.
    helo: client === attempt.client ? attempt.helo : null,
    tls: attempt.tls,
    user: attempt.signedIn,
    receivedAt: attempt.at.toISOString(),
  }
  const verified = await verifyOne(raw, envelope, policy.trust)
  const authentication = verified && forSenderOf(facts, verified.authentication)
  return authentication?.verdict === 'pass' ? cleanJson(authentication) : null
}
