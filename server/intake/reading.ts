import type { Content, Extent, WhatIf } from '#core'
import * as here from '../workers/mail'
import { log } from '../platform/log'
import type { Edition } from '../workers/editions'
import { hasThreads, runOn, TookTooLong, type Pool } from '../platform/threads'
import { newStart } from '../platform/work-clock'

/** One try at reading a message. */
interface Try {
  pool: Pool
  extent: Extent
  /** Of work (server/platform/work-clock.ts). Reading the header alone has none: only its length costs time. */
  seconds?: number
}

/** What is larger goes to the heavy threads at once. */
const LARGE = 1024 * 1024

// First as any other; then where it holds up no plain one; then with less of it, until an answer is sure.
const TRIES: readonly Try[] = [
  { pool: 'ordinary', extent: 'whole', seconds: 1 },
  { pool: 'heavy', extent: 'whole', seconds: 5 },
  { pool: 'heavy', extent: 'closed', seconds: 5 },
  { pool: 'heavy', extent: 'header' },
]

/**
 * Reads a message and decides its copies under an edition of the policy. It is always decided: what takes too long is read less
 * of, and says so.
 */
export function readAndDecide(job: here.DecideJob, edition: Edition): Promise<here.Decided> {
  return withClock(job, edition, 'decideMessage', here.decideMessage)
}

/** Where one copy would end, and where without each of the clauses that matched it. */
export function readAndAsk(job: here.DecideJob, edition: Edition): Promise<WhatIf> {
  return withClock(job, edition, 'askWhatIf', here.askWhatIf)
}

/** Reads and decides a message that comes in, with the rows that are kept of it. */
export function readForStorage(job: here.StoreJob, edition: Edition): Promise<here.ToStore> {
  return withClock(job, edition, 'messageForStorage', here.messageForStorage)
}

/** What the bytes of a message say, read with the same clock. */
export function readContent(bytes: Uint8Array): Promise<Content> {
  return withClock({ read: { bytes } }, null, 'contentOf', here.contentOf)
}

interface ToRead {
  read: { bytes: Uint8Array } | { content: Content }
}
type Here<Job, Answer> = (asked: here.WorkOrder<Job>) => Promise<Answer | here.Needs>

async function withClock<Job extends ToRead, Answer extends object>(
  job: Job,
  edition: Edition | null,
  name: string,
  direct: Here<Job, Answer>,
): Promise<Answer> {
  // What was read before costs no more than deciding, however long it is.
  const bytes = 'bytes' in job.read ? job.read.bytes.length : 0
  for (const one of TRIES) {
    if (one.pool === 'ordinary' && bytes > LARGE) continue
    try {
      return await tryOnce(one, job, edition, { name, direct })
    }
    catch (error) {
      if (!(error instanceof TookTooLong)) throw error
      log.warn({ seconds: one.seconds, extent: one.extent, bytes }, 'a message took too long to read; it is tried otherwise')
    }
  }
  throw new Error('a message could not even be read by its header')
}

async function tryOnce<Job, Answer extends object>(
  { pool, extent, seconds }: Try,
  job: Job,
  edition: Edition | null,
  { name, direct }: { name: string, direct: Here<Job, Answer> },
): Promise<Answer> {
  const run = async (asked: here.WorkOrder<Job>) => {
    if (!hasThreads()) return direct(asked)
    const start = newStart()
    return runOn<Answer | here.Needs>(pool, name, { ...asked, start }, { seconds, start })
  }
  const asked = { job, extent, number: edition?.number ?? 0 }
  // The policy goes along only where the thread has not got it yet.
  const answer = await run(asked)
  const item = edition && 'needs' in answer ? await run({ ...asked, edition }) : answer
  if ('needs' in item) throw new Error('a worker thread would not take the policy')
  return item
}
