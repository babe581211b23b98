import { setTimeout as sleep } from 'node:timers/promises'
import type { H3Event } from 'h3'
import isSame from 'fast-deep-equal'
import type { Actor } from '../access/roles'
import { answerWithStream, areEnding, type OpenStream } from '../platform/events'
import { ENDED, openJob, type JobView } from './store'

const LOOK_AGAIN = 400

/**
 * Tells of a job as server-sent events until it has ended: how it is at once, then whatever changes. The last event says how
 * it ended. A stream that is cut off is opened again by the browser, and begins with how it is then.
 * @param shown what is told of a job for whoever reads it
 */
export async function followJob(
  event: H3Event,
  actor: Actor,
  { id, shown = async job => job }: { id: number, shown?: (job: JobView) => Promise<JobView> },
): Promise<ReadableStream<Uint8Array>> {
  // Before the stream begins: what is not there, or not theirs, is an answer like any other.
  const first = await shown(await openJob(actor, id))
  return answerWithStream<JobView>(event, (stream) => {
    tellOf(stream, first, async () => shown(await openJob(actor, id)))
      // The database is away, or the job is theirs no more: the browser asks again.
      .catch(() => undefined)
      .finally(() => stream.end())
  })
}

async function tellOf({ tell, signal }: OpenStream<JobView>, first: JobView, look: () => Promise<JobView>): Promise<void> {
  let last: JobView | null = null
  for (let line = first; !signal.aborted; line = await look()) {
    if (!isSame(line, last)) tell(line)
    last = line
    if (ENDED.includes(line.state) || areEnding()) return
    await sleep(LOOK_AGAIN, undefined, { signal })
  }
}
