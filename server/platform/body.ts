import type { IncomingMessage } from 'node:http'
import { setResponseHeader, type H3Event } from 'h3'
import { Problem } from './problem'

const KB = 1024
/** How much may be sent: by whoever has not signed in, by anybody who has, by those who keep much. */
export const MOST_BODY = { anybody: 64 * KB, person: KB * KB, much: 25 * KB * KB }
/**
 * Arrays and objects within each other; what the forms need is far less, and deeper ones would exhaust the stack of whatever
 * walks them.
 */
const MOST_NESTING = 60

/**
 * The body of a request, counted while it comes in: Content-Length may be missing, or lie.
 * @throws 413 where it is larger than `most` bytes; of the rest nothing is kept
 */
export async function readBytes(event: H3Event, most: number): Promise<Buffer> {
  const { req } = event.node
  const body = Number(req.headers['content-length'] ?? 0) > most ? null : await upTo(req, most)
  if (body) return body
  throw new Problem(413, 'Too large', `The body is larger than ${sizeWords(most)}, which is the most that is taken here.`)
}

// Null as soon as it is larger.
function upTo(req: IncomingMessage, most: number): Promise<Buffer | null> {
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = []
    let size = 0
    const end = (settle: () => void) => {
      req.off('data', take).off('end', whole).off('error', broken).off('close', broken)
      settle()
    }
    const take = (chunk: Buffer) => {
      size += chunk.length
      if (size > most) end(() => resolve(null))
      else chunks.push(chunk)
    }
    const whole = () => end(() => resolve(Buffer.concat(chunks)))
    const broken = () => end(() => reject(new Problem(400, 'Not understood', 'The body ended too early.')))
    req.on('data', take).on('end', whole).on('error', broken).on('close', broken)
  })
}

/** So long, in milliseconds, and so many bytes of it. */
const LINGER = { time: 2000, bytes: 8 * KB * KB }

/**
 * Lets the rest of a body that nobody reads go by, for a while, so that its sender is still there for the answer; whoever goes
 * on sending loses the connection.
 */
export async function letBodyGo(event: H3Event): Promise<void> {
  const { req } = event.node
  if (req.complete || (!req.headers['content-length'] && !req.headers['transfer-encoding'])) return
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
  throw new Problem(415, 'Not the right type', `Send ${type}: the header content-type says ${mediaType(event) || 'nothing'}.`)
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
    throw new Problem(400, 'Not understood', 'The body is not valid JSON in UTF-8.')
  }
  if (isDeep(value)) throw new Problem(400, 'Not understood', `The body is nested deeper than ${MOST_NESTING} arrays and objects.`)
  return value
}

// Level by level, without recursion: the depth is what is not trusted.
function isDeep(value: unknown): boolean {
  let level: unknown[] = [value]
  for (let depth = 0; level.length; depth++) {
    if (depth > MOST_NESTING) return true
    level = level.flatMap(v => (v !== null && typeof v === 'object' ? Object.values(v) : [])).filter(v => typeof v === 'object')
  }
  return false
}
