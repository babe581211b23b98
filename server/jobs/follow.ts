import { setResponseHeaders, type H3Event } from 'h3'
import isSame from 'fast-deep-equal'
import type { Asker } from '../access/roles'
import { ENDED, openJob, type JobLine } from './store'

const LOOK_AGAIN = 400
/** A connection on which nothing is said is taken for dead by what lies between. */
const STILL_HERE = 15_000

const streams = new Set<() => void>()
let closed = false

/**
 * Tells of a job as server-sent events until it has ended: how it is at once, then whatever changes. The last event says how
 * it ended. A stream that is cut off is opened again by the browser, and begins with how it is then.
 */
export async function followJob(event: H3Event, asker: Asker, id: number): Promise<ReadableStream<Uint8Array>> {
  // Before the stream begins: what is not there, or not theirs, is an answer like any other.
  const first = await openJob(asker, id)
  setResponseHeaders(event, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
  const encoder = new TextEncoder()
  let timer: ReturnType<typeof setTimeout> | undefined
  let told: JobLine | null = null
  let last = Date.now()
  let end = () => {}
  return new ReadableStream<Uint8Array>({
    start(controller) {
      end = () => {
        clearTimeout(timer)
        if (streams.delete(end)) controller.close()
      }
      streams.add(end)
      const tell = (line: JobLine) => {
        if (!isSame(line, told)) {
          controller.enqueue(encoder.encode(`data: ${JSON.stringify(line)}\n\n`))
          last = Date.now()
        }
        else if (Date.now() - last > STILL_HERE) {
          controller.enqueue(encoder.encode(':\n\n'))
          last = Date.now()
        }
        told = line
        if (ENDED.includes(line.state) || closed) return end()
        timer = setTimeout(look, LOOK_AGAIN)
      }
      const look = () => {
        openJob(asker, id).then(
          line => streams.has(end) && tell(line),
          // The database is away, or the job is theirs no more: the browser asks again.
          () => end(),
        )
      }
      tell(first)
    },
    cancel() {
      clearTimeout(timer)
      streams.delete(end)
    },
  })
}

/** Ends every stream: a server that stops would wait for them. */
export function endStreams(): void {
  closed = true
  for (const end of [...streams]) end()
}
