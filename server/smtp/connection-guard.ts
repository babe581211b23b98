import type { Socket } from 'node:net'
import { SMTPServer, type SMTPServerOptions, type SMTPServerSession } from 'smtp-server'
import { ipBytes, normaliseIp } from '#core/message'
import type { SmtpLimits } from './limits'

/** One connection, and since when it keeps the server waiting. */
interface Watched {
  socket: Socket
  /** When its last line was complete. */
  line: number
  /** When it came, or its last message had been answered. */
  transaction: number
  /** Not it, but the server is at work. */
  working: boolean
}

const LINE_FEED = 10
const TICK = 500
/** How long one that was turned away may take to go, in milliseconds. */
const LEAVE = 2000
/** An IPv6 client has a whole network of addresses, by common practice a /64 (RFC 6177). */
const NETWORK_BYTES = 8

/**
 * The SMTP server, with somebody at its door: so many connections for each client, and no patience with one that keeps a place
 * taken by sending a byte now and then. A byte is not enough: a line must be complete in time, and the whole transaction.
 */
export class ConnectionGuard extends SMTPServer {
  readonly #limits: SmtpLimits
  readonly #open = new Map<string, number>()
  readonly #watched = new Map<string, Watched>()
  readonly #clock: NodeJS.Timeout

  constructor(options: SMTPServerOptions, limits: SmtpLimits) {
    super({ ...options, maxClients: limits.clients })
    this.#limits = limits
    this.#clock = setInterval(() => this.#sendTheSlowAway(), TICK).unref()
  }

  override connect(socket: Socket, options: Parameters<SMTPServer['connect']>[1]): void {
    const client = clientKey(socket.remoteAddress ?? '')
    const open = (this.#open.get(client) ?? 0) + 1
    if (open > this.#limits.perClient) {
      sendAway(socket, `421 4.7.0 Too many connections from your address (${this.#limits.perClient}); close one and try again`)
      return
    }
    this.#open.set(client, open)
    super.connect(socket, options)
    const key = connectionKey(socket)
    const now = performance.now()
    const watched: Watched = { socket, line: now, transaction: now, working: false }
    this.#watched.set(key, watched)
    socket.on('data', (chunk: Buffer) => {
      if (chunk.includes(LINE_FEED)) watched.line = performance.now()
    })
    socket.once('close', () => {
      this.#watched.delete(key)
      const left = this.#open.get(client)! - 1
      if (left) this.#open.set(client, left)
      else this.#open.delete(client)
    })
  }

  /** The message is in and the server works on it: the client's clocks stand still until it is answered. */
  working(session: SMTPServerSession): void {
    const watched = this.#watched.get(connectionKey(session))
    if (watched) watched.working = true
  }

  /** The message is answered; the next transaction begins. */
  answered(session: SMTPServerSession): void {
    const watched = this.#watched.get(connectionKey(session))
    if (watched) Object.assign(watched, { working: false, line: performance.now(), transaction: performance.now() })
  }

  /** Stops taking mail and waits for the transactions under way. */
  stop(): Promise<void> {
    clearInterval(this.#clock)
    return new Promise(resolve => this.close(() => resolve()))
  }

  #sendTheSlowAway(): void {
    const now = performance.now()
    const { commandSeconds, transactionSeconds } = this.#limits
    for (const { socket, line, transaction, working } of this.#watched.values()) {
      if (working) continue
      if (now - line > commandSeconds * 1000) sendAway(socket, `421 4.4.2 No line was complete within ${commandSeconds} seconds`)
      else if (now - transaction > transactionSeconds * 1000)
        sendAway(socket, `421 4.4.2 The message was not complete within ${transactionSeconds} seconds`)
    }
  }
}

function sendAway(socket: Socket, reply: string): void {
  if (socket.destroyed || socket.writableEnded) return
  socket.on('error', () => undefined) // it may be gone already
  socket.unpipe()
  socket.end(`${reply}\r\n`)
  socket.resume()
  setTimeout(() => socket.destroy(), LEAVE).unref()
}

// The same for a socket and for the session on it.
function connectionKey({ remoteAddress, remotePort }: Pick<Socket, 'remoteAddress' | 'remotePort'>): string {
  return `${normaliseIp(remoteAddress)} ${remotePort}`
}

function clientKey(address: string): string {
  const bytes = ipBytes(address)
  return bytes?.length === 16 ? bytes.slice(0, NETWORK_BYTES).join('.') : (bytes?.join('.') ?? address)
}
