import { setTimeout as sleep } from 'node:timers/promises'
import type { H3Event } from 'h3'
import isSame from 'fast-deep-equal'
import type { Asker } from '../access/roles'
import { answerWithStream, areEnding, type OpenStream } from '../platform/events'
import { ENDED, openJob, type JobLine } from './store'

const LOOK_AGAIN = 400

/**
 * Tells of a job as server-sent events until it has ended: how it is at once, then whatever changes. The last event says how
 * it ended. A stream that is cut off is opened again by the browser, and begins with how it is then.
 */
export async function followJob(event: H3Event, asker: Asker, id: number): Promise<ReadableStream<Uint8Array>> {
  // Before the stream begins: what is not there, or not theirs, is an answer like any other.
  const first = await openJob(asker, id)
  return answerWithStream<JobLine>(event, (stream) => {
    tellOf(stream, first, () => openJob(asker, id))
      // The database is away, or the job is theirs no more: the browser asks again.
      .catch(() => undefined)
      .finally(() => stream.end())
  })
}

async function tellOf({ tell, signal }: OpenStream<JobLine>, first: JobLine, look: () => Promise<JobLine>): Promise<void> {
  let told: JobLine | null = null
  for (let line = first; !signal.aborted; line = await look()) {
    if (!isSame(line, told)) tell(line)
    told = line
    if (ENDED.includes(line.state) || areEnding()) return
    await sleep(LOOK_AGAIN, undefined, { signal })
  }
}
