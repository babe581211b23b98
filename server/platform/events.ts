import { setResponseHeaders, type H3Event } from 'h3'

/** What is told as server-sent events. */
export interface Telling<T> {
  tell(told: T): void
  /** Aborted once nobody listens any more. */
  signal: AbortSignal
}

/** A connection on which nothing is said is taken for dead by what lies between. */
const STILL_HERE = 15_000

/**
 * Answers with server-sent events: each thing that is told on the way, then what the work comes to. Ends the work when the caller
 * leaves.
 */
export function answerWithEvents<T>(event: H3Event, work: (telling: Telling<T>) => Promise<T>): ReadableStream<Uint8Array> {
  setResponseHeaders(event, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
  const encoder = new TextEncoder()
  const left = new AbortController()
  let clock: ReturnType<typeof setInterval> | undefined
  return new ReadableStream<Uint8Array>({
    start(controller) {
      const say = (text: string) => {
        if (!left.signal.aborted) controller.enqueue(encoder.encode(text))
      }
      clock = setInterval(() => say(':\n\n'), STILL_HERE)
      const tell = (told: T) => say(`data: ${JSON.stringify(told)}\n\n`)
      work({ tell, signal: left.signal })
        .then(tell)
        // What was told before stands; the caller sees that nothing came after it, and asks again.
        .catch((error: unknown) => say(`event: failed\ndata: ${JSON.stringify({ message: error instanceof Error ? error.message : '' })}\n\n`))
        .finally(() => {
          clearInterval(clock)
          if (!left.signal.aborted) controller.close()
        })
    },
    cancel() {
      clearInterval(clock)
      left.abort()
    },
  })
}
