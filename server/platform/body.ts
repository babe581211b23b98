import type { IncomingMessage } from 'node:http'
import { setResponseHeader, type H3Event } from 'h3'
import { numberWords } from '#core/wording'
import { Problem } from './problem'

const KB = 1024
/**
 * How much may be sent: by whoever has not signed in; by a person; changes of the policy, and files or texts, by those who keep much.
 */
export const MAX_BODY = { anybody: 64 * KB, usual: KB * KB, changes: 4 * KB * KB, large: 25 * KB * KB }
export type BodySize = Exclude<keyof typeof MAX_BODY, 'anybody'>
/** Values in a body of JSON, for so many bytes that it may have: each is looked at several times before it is understood. */
const MAX_VALUES = { usual: 20_000, more: 200_000 }
/**
 * Arrays and objects within each other; what the forms need is far less, and deeper ones would exhaust the stack of whatever
 * walks them.
 */
const MAX_NESTING = 60

/**
 * The body of a request, counted while it comes in: Content-Length may be missing, or lie.
 * @throws 413 where it is larger than `most` bytes; of the rest nothing is kept
 */
export async function readBytes(event: H3Event, most: number): Promise<Buffer> {
  const { req } = event.node
  const body = Number(req.headers['content-length'] ?? 0) > most ? null : await upTo(req, most)
  if (body) return body
  throw new Problem(413, 'Too large', `The request body is larger than ${sizeWords(most)}, the maximum.`)
}

/** So many milliseconds may pass between two pieces of a body. */
const MAX_PAUSE = 20_000

// Null as soon as it is larger.
function upTo(req: IncomingMessage, most: number): Promise<Buffer | null> {
  return new Promise((resolve, reject) => {
    const early = () => reject(new Problem(400, 'Not understood', 'The request body ended too early.'))
    // It left while its request waited: none of the events below would come any more.
    if (req.destroyed && !req.readableEnded) return early()
    const chunks: Buffer[] = []
    let size = 0
    let clock = setTimeout(slow, MAX_PAUSE)
    const end = (settle: () => void) => {
      clearTimeout(clock)
      req.off('data', take).off('end', whole).off('error', broken).off('close', broken)
      settle()
    }
    const take = (chunk: Buffer) => {
      size += chunk.length
      clearTimeout(clock)
      clock = setTimeout(slow, MAX_PAUSE)
      if (size > most) end(() => resolve(null))
      else chunks.push(chunk)
    }
    const whole = () => end(() => resolve(Buffer.concat(chunks)))
    const broken = () => end(early)
    function slow() {
      end(() => reject(new Problem(408, 'Too slow', `No data arrived for ${MAX_PAUSE / 1000} seconds. Send the request again.`)))
    }
    req.on('data', take).on('end', whole).on('error', broken).on('close', broken)
  })
}

/** Milliseconds, and bytes: enough for a file that is a little too large, so that its sender gets the answer 413. */
const LINGER = { time: 2000, bytes: 64 * KB * KB }

/**
 * Lets the rest of a body that nobody reads go by, for a while, so that its sender is still there for the answer; whoever goes
 * on sending loses the connection.
 */
export async function letBodyGo(event: H3Event): Promise<void> {
  const { req } = event.node
  if (req.complete || req.destroyed || (!req.headers['content-length'] && !req.headers['transfer-encoding'])) return
  await new Promise<void>((done) => {
    let size = 0
    const clock = setTimeout(gone, LINGER.time)
    function count(chunk: Buffer) {
      size += chunk.length
      if (size > LINGER.bytes) gone()
    }
    function gone() {
      clearTimeout(clock)
      req.off('data', count).off('end', gone).off('error', gone).off('close', gone).pause()
      done()
    }
    req.on('data', count).on('end', gone).on('error', gone).on('close', gone)
  })
  if (!req.complete) setResponseHeader(event, 'connection', 'close')
}

function sizeWords(bytes: number): string {
  return bytes >= KB * KB ? `${bytes / KB / KB} MB` : `${bytes / KB} kB`
}

/** The media type of the body, in small letters, without parameters (RFC 9110 8.3); empty where none is said. */
export function mediaType(event: H3Event): string {
  return (event.node.req.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase()
}

/** Refuses a body of another type: a form on somebody else's page can send only a few, and none of these. */
export function mustBeOfType(event: H3Event, type: string): void {
  if (mediaType(event) === type) return
  throw new Problem(415, 'Wrong content type', `Send ${type}: the header content-type says ${mediaType(event) || 'nothing'}.`)
}

/** A body of JSON (RFC 8259), as a value. @throws 413, 415, or 400 where it is no JSON */
export async function readJson(event: H3Event, most: number): Promise<unknown> {
  mustBeOfType(event, 'application/json')
  const bytes = await readBytes(event, most)
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes)) as unknown
  }
  catch {
    throw new Problem(400, 'Not understood', 'The request body is not valid JSON in UTF-8.')
  }
  const maxValues = most > MAX_BODY.usual ? MAX_VALUES.more : MAX_VALUES.usual
  const { depth, count } = measured(value, maxValues)
  if (depth > MAX_NESTING)
    throw new Problem(400, 'Not understood', `The request body has more than ${MAX_NESTING} levels of arrays and objects.`)
  if (count > maxValues)
    throw new Problem(413, 'Too large', `The request body has more than ${numberWords(maxValues)} values. Send it in parts.`)
  return value
}

// Level by level, without recursion: the depth is what is not trusted. Given up where it is too deep or has too many values.
function measured(value: unknown, maxValues: number): { depth: number, count: number } {
  let level: object[] = isObject(value) ? [value] : []
  let [depth, count] = [0, 1]
  for (; level.length && depth <= MAX_NESTING + 1 && count <= maxValues; depth++) {
    const next: object[] = []
    for (const container of level) {
      const values: unknown[] = Array.isArray(container) ? container : Object.values(container)
      count += values.length
      if (count > maxValues) break
      for (const v of values) if (isObject(v)) next.push(v)
    }
    level = next
  }
  return { depth: depth - 1, count }
}

function isObject(value: unknown): value is object {
  return value !== null && typeof value === 'object'
}
