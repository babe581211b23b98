import type { H3Event } from 'h3'
import isSame from 'fast-deep-equal'
import type { Asker } from '../access/roles'
import { areEnding, opened, setEventHeaders, STILL_HERE } from '../platform/events'
import { ENDED, openJob, type JobLine } from './store'

const LOOK_AGAIN = 400

/**
 * Tells of a job as server-sent events until it has ended: how it is at once, then whatever changes. The last event says how
 * it ended. A stream that is cut off is opened again by the browser, and begins with how it is then.
 */
export async function followJob(event: H3Event, asker: Asker, id: number): Promise<ReadableStream<Uint8Array>> {
  // Before the stream begins: what is not there, or not theirs, is an answer like any other.
  const first = await openJob(asker, id)
  setEventHeaders(event)
  const encoder = new TextEncoder()
  let timer: ReturnType<typeof setTimeout> | undefined
  let told: JobLine | null = null
  let last = Date.now()
  // Whether it was open until then.
  let ended = () => false
  let open = true
  return new ReadableStream<Uint8Array>({
    start(controller) {
      const end = () => {
        clearTimeout(timer)
        open = false
        if (ended()) controller.close()
      }
      ended = opened(end)
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
        if (ENDED.includes(line.state) || areEnding()) return end()
        timer = setTimeout(look, LOOK_AGAIN)
      }
      const look = () => {
        openJob(asker, id).then(
          line => open && tell(line),
          // The database is away, or the job is theirs no more: the browser asks again.
          () => end(),
        )
      }
      tell(first)
    },
    cancel() {
      clearTimeout(timer)
      open = false
      ended()
    },
  })
}
