import { Agent, request as httpRequest, type OutgoingHttpHeaders } from 'node:http'
import { PASSWORD, addressOf } from './office'

export const JSON_TYPE = { 'content-type': 'application/json' }

export interface Answer {
  status: number
  headers: Headers
  text: string
}

interface Question {
  method?: string
  headers?: OutgoingHttpHeaders
  body?: string | Buffer
  /** Where the connection comes from. */
  localAddress?: string
  /** Keeps connections; without one, each request has a connection of its own. */
  agent?: Agent
}

/** Connections that are kept, so many at once. */
export const keptConnections = (maxSockets: number) => new Agent({ keepAlive: true, maxSockets })

/**
 * Sends one request.
 * @param base origin of the server
 * @param path as it is to stand in the request line: nothing is normalised
 */
export async function request(base: string, path: string, question: Question = {}): Promise<Answer> {
  try {
    return await send(base, path, question)
  }
  catch (error) {
    // A kept connection that the server closed in this very moment says nothing of the server: it is asked on a new one.
    if (!question.agent || (error as NodeJS.ErrnoException).code !== 'ECONNRESET') throw error
    return send(base, path, { ...question, agent: undefined })
  }
}

function send(base: string, path: string, { method = 'GET', headers = {}, body, localAddress, agent }: Question): Promise<Answer> {
  const { hostname, port } = new URL(base)
  const length = body === undefined || body === '' ? {} : { 'content-length': String(Buffer.byteLength(body)) }
  return new Promise((resolve, reject) => {
    httpRequest({ hostname, port, path, method, localAddress, agent: agent ?? false, headers: { ...headers, ...length } }, (response) => {
      const chunks: Buffer[] = []
      response
        .on('data', (chunk: Buffer) => chunks.push(chunk))
        .on('error', reject)
        .on('end', () => {
          const all = new Headers()
          for (let i = 0; i < response.rawHeaders.length; i += 2) all.append(response.rawHeaders[i]!, response.rawHeaders[i + 1]!)
          resolve({ status: response.statusCode!, headers: all, text: Buffer.concat(chunks).toString() })
        })
    })
      .on('error', reject)
      .end(body)
  })
}

/** What a route answered; its body as JSON where it is JSON. */
export type Called = Omit<Answer, 'text'> & { body: any } // eslint-disable-line @typescript-eslint/no-explicit-any

/** Somebody who calls the routes; `cookie` is the session's. */
export interface Caller {
  (method: string, path: string, body?: unknown): Promise<Called>
  readonly cookie: string
}

/** The cookies that an answer sets, as a request sends them back. */
export const cookiesOf = ({ headers }: Pick<Answer, 'headers'>) => headers.getSetCookie().map(c => c.split(';')[0]).join('; ')

/** The answer to signing in. */
export function sessionFor(url: string, email: string, password = PASSWORD, headers: OutgoingHttpHeaders = {}): Promise<Answer> {
  return request(url, '/api/session', { method: 'POST', headers: { ...JSON_TYPE, ...headers }, body: JSON.stringify({ email, password }) })
}

/**
 * Signs in and returns a caller.
 * @param account a name of the demo's office, or an address; null stays outside
 */
export async function signIn({ url }: { url: string }, account: string | null, password = PASSWORD): Promise<Caller> {
  let cookie = ''
  if (account !== null) {
    const answer = await sessionFor(url, account.includes('@') ? account : addressOf(account), password)
    if (answer.status !== 200) throw new Error(`signing in as ${account}: ${answer.status} ${answer.text}`)
    cookie = cookiesOf(answer)
  }
  const call = async (method: string, path: string, body?: unknown): Promise<Called> => {
    const { status, headers, text } = await request(url, path, {
      method,
      headers: { ...(cookie ? { cookie } : {}), ...(body === undefined ? {} : JSON_TYPE) },
      body: body === undefined || typeof body === 'string' ? body : JSON.stringify(body),
    })
    return { status, headers, body: text && headers.get('content-type')?.includes('json') ? JSON.parse(text) : text }
  }
  return Object.assign(call, { cookie })
}

/** What a stream of server-sent events told, in order. */
export const eventsOf = <T>(text: string) =>
  text.split('\n\n').filter(e => e.startsWith('data: ')).map(e => JSON.parse(e.slice(6)) as T)

/** Undoes an event. */
export const undo = (caller: Caller, eventId: number) => caller('POST', `/api/audit-events/${eventId}/undo`)

/** A stream of server-sent events that stays open: its status, and when it has ended. */
export function openStream(url: string, path: string, cookie: string) {
  const sent = httpRequest(url + path, { agent: false, headers: { cookie, accept: 'text/event-stream' } })
  const status = new Promise<number>((resolve, reject) => sent.on('response', r => resolve(r.statusCode!)).on('error', reject))
  const ended = new Promise<void>(resolve => sent.on('response', r => r.on('close', resolve).resume()).on('close', resolve))
  status.catch(() => undefined) // it was closed before it was answered
  sent.end()
  return { status, ended, close: () => sent.destroy() }
}
