import { and, asc, eq, gt, lt, ne, or, sql } from 'drizzle-orm'
import { PARSER_VERSION } from '#core'
import { SEARCH_VERSION } from '#core/text'
import { jobsDb } from '../db/client'
import { messages, sources } from '../db/schema'
import { searchColumn } from '../db/search'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { messageRow, type MessageRow } from './intake-rows'
import { readContent } from './reading'

const BATCH_SIZE = 20

// Of refused and erased mail there is nothing to read: its facts stay as they are.
const hasSource = sql`exists (select 1 from ${sources} where ${sources.messageId} = ${messages.id})`
const isOlder = and(or(ne(messages.parser, PARSER_VERSION), lt(messages.searchVersion, SEARCH_VERSION)), hasSource)

/** Makes the facts and the words of messages anew that an older version read, from their bytes. */
export const factsJob: JobKind = {
  async run(job) {
    const [count] = await jobsDb()
      .select({ n: sql<number>`count(*)::int` })
      .from(messages)
      .where(isOlder)
    // What is done already is counted too, where the job goes on after it was interrupted.
    const before = Number(job.cursor?.done ?? 0)
    await job.setTotal(before + count!.n)
    let done = before
    for (let after = Number(job.cursor?.after ?? 0); !(await job.isStopping());) {
      const rows = await jobsDb()
        .select({ id: messages.id, raw: sources.raw })
        .from(messages)
        .innerJoin(sources, eq(sources.messageId, messages.id))
        .where(and(isOlder, gt(messages.id, after)))
        .orderBy(asc(messages.id))
        .limit(BATCH_SIZE)
      if (!rows.length) return
      const read: { id: number, row: MessageRow }[] = []
      for (const { id, raw } of rows) read.push({ id, row: messageRow(await readContent(raw), true, true) })
      after = rows.at(-1)!.id
      done += rows.length
      await job.step(async (tx) => {
        for (const { id, row: { words, ...row } } of read)
          await tx.update(messages).set({ ...row, search: searchColumn(words) }).where(eq(messages.id, id))
        return { cursor: { after, done }, done: rows.length }
      })
    }
  },
}

/** Asks for it, if there is anything to be read anew. */
export async function askForFacts(): Promise<void> {
  const [one] = await jobsDb()
    .select({ id: messages.id })
    .from(messages)
    .where(isOlder)
    .limit(1)
  if (one) await addJob(jobsDb(), { kind: 'facts', key: `${PARSER_VERSION} ${SEARCH_VERSION}` })
}
