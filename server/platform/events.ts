import { setResponseHeaders, type H3Event } from 'h3'
import { Problem } from './problem'

/** What is told as server-sent events. */
export interface Telling<T> {
  tell(told: T): void
  /** Aborted once nobody listens any more. */
  signal: AbortSignal
}

/** A connection on which nothing is said is taken for dead by what lies between. */
export const STILL_HERE = 15_000

const streams = new Set<() => void>()
let ending = false

/** Says how a stream is ended that is open now. @returns to be called once it has ended; true if it was open until then */
export function opened(end: () => void): () => boolean {
  streams.add(end)
  return () => streams.delete(end)
}

/** Ends every stream: a server that stops would wait for them. */
export function endStreams(): void {
  ending = true
  for (const end of [...streams]) end()
}

/** Whether the server stops: then a stream ends with what it has just told. */
export function areEnding(): boolean {
  return ending
}

/** Says that events come. */
export function setEventHeaders(event: H3Event): void {
  setResponseHeaders(event, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
}

/**
 * Answers with server-sent events: each thing that is told on the way, then what the work comes to. Ends the work when the caller
 * leaves.
 */
export function answerWithEvents<T>(event: H3Event, work: (telling: Telling<T>) => Promise<T>): ReadableStream<Uint8Array> {
  setEventHeaders(event)
  const encoder = new TextEncoder()
  const left = new AbortController()
  let clock: ReturnType<typeof setInterval> | undefined
  let ended = () => false
  return new ReadableStream<Uint8Array>({
    start(controller) {
      const say = (text: string) => {
        if (!left.signal.aborted) controller.enqueue(encoder.encode(text))
      }
      const end = () => {
        clearInterval(clock)
        left.abort()
        if (ended()) controller.close()
      }
      ended = opened(end)
      clock = setInterval(() => say(':\n\n'), STILL_HERE)
      const tell = (told: T) => say(`data: ${JSON.stringify(told)}\n\n`)
      work({ tell, signal: left.signal })
        .then(tell)
        // What was told before stands; the caller sees that nothing came after it, and asks again.
        .catch((error: unknown) => say(
          `event: failed\ndata: ${JSON.stringify({ detail: error instanceof Problem ? error.detail : undefined })}\n\n`,
        ))
        .finally(end)
    },
    cancel() {
      clearInterval(clock)
      ended()
      left.abort()
    },
  })
}
