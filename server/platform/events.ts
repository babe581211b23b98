import { setResponseHeaders, type H3Event } from 'h3'
import { Problem } from './problem'
import { requestSlots } from './slots'

/** What is told as server-sent events. */
export interface Streaming<T> {
  tell(item: T): void
  /** Aborted once nobody listens any more. */
  signal: AbortSignal
}

/** Who reads a stream. */
export interface Reader {
  id: string
  /** Whether they are still signed in, with the rights with which they began to read. */
  isUnchanged(): Promise<boolean>
}

/** A connection on which nothing is said is taken for dead by what lies between. */
const STILL_HERE = 15_000
/** Milliseconds between looks whether a recipient may still read. */
const LOOK_AT_READER = 5000
/** One user has so many streams open at a time: some windows, each with its job and what it computes. */
const MAX_STREAMS = 12

const streams = new Set<() => void>()
const openOf = new Map<string, number>()
let ending = false

/** Ends every stream: a server that stops would wait for them. */
export function endStreams(): void {
  ending = true
  for (const end of [...streams]) end()
}

/** Whether the server stops: then a stream ends with what it has just told. */
export function areEnding(): boolean {
  return ending
}

/** A stream that is open. */
export interface OpenStream<T> extends Streaming<T> {
  /** Tells that something failed, and why where the recipient can do something about it. */
  fail(error: unknown): void
  end(): void
}

/**
 * Answers with server-sent events, as long as their recipient listens, is signed in, and has the rights with which they began.
 * @param run begins what tells; what it does ends by the stream's signal
 * @throws 429 where the recipient has too many streams open
 */
export function answerWithStream<T>(event: H3Event, run: (stream: OpenStream<T>) => void): ReadableStream<Uint8Array> {
  const { reader } = event.context as { reader?: Reader }
  const who = reader?.id ?? ''
  mustHaveRoom(who)
  setResponseHeaders(event, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' })
  const encoder = new TextEncoder()
  const left = new AbortController()
  let spoke = Date.now()
  // Counted from here on: a stream that nobody begins to read ends with its request.
  openOf.set(who, (openOf.get(who) ?? 0) + 1)
  let close: () => void = () => undefined
  const end = () => {
    if (left.signal.aborted) return
    clearInterval(clock)
    left.abort()
    streams.delete(end)
    const others = openOf.get(who)! - 1
    if (others) openOf.set(who, others)
    else openOf.delete(who)
    close()
  }
  streams.add(end)
  event.node.res.once('close', end)
  let say: (text: string) => void = () => undefined
  const clock = setInterval(() => {
    if (Date.now() - spoke > STILL_HERE) say(':\n\n')
    // Where that cannot be asked, nothing more is told: the browser asks again.
    void reader?.isUnchanged().catch(() => false).then(is => is || end())
  }, LOOK_AT_READER)
  return new ReadableStream<Uint8Array>({
    start(controller) {
      say = (text) => {
        spoke = Date.now()
        if (!left.signal.aborted) controller.enqueue(encoder.encode(text))
      }
      close = () => controller.close()
      run({
        signal: left.signal,
        end,
        tell: item => say(`data: ${JSON.stringify(item)}\n\n`),
        fail: error =>
          say(`event: failed\ndata: ${JSON.stringify({ detail: error instanceof Problem ? error.detail : undefined })}\n\n`),
      })
    },
    cancel() {
      // It is closed already.
      close = () => undefined
      end()
    },
  })
}

function mustHaveRoom(who: string): void {
  if ((openOf.get(who) ?? 0) < MAX_STREAMS) return
  throw new Problem(
    429,
    'Too many streams',
    `${MAX_STREAMS} of your windows or programs already receive updates. Close some of them, then try again.`,
    { headers: { 'retry-after': '10' } },
  )
}

/**
 * Answers with server-sent events: each thing that is told on the way, then what the work comes to. It is one of the things that are
 * done for its user at a time, and ends when the caller leaves.
 */
export function answerWithEvents<T>(event: H3Event, work: (stream: Streaming<T>) => Promise<T>): ReadableStream<Uint8Array> {
  const { reader } = event.context as { reader?: Reader }
  return answerWithStream<T>(event, ({ tell, fail, end, signal }) => {
    requestSlots
      .take(reader?.id ?? '', () => work({ tell, signal }))
      .then(tell)
      // What was told before stands; the caller sees that nothing came after it, and asks again.
      .catch(fail)
      .finally(end)
  })
}
