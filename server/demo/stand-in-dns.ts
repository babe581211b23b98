import { createSocket } from 'node:dgram'
import { createServer, type AddressInfo, type Socket } from 'node:net'
import { decode, encode, type Answer, type Packet, type Question } from 'dns-packet'
import { DnsError, recordsIn, type Zone, type ZoneRecord } from '#core/verification'

/** What of an answer fits into UDP without EDNS (RFC 1035 4.2.1). */
const MAX_UDP = 512
const AUTHORITATIVE = 1 << 10
const TRUNCATED = 1 << 9
const NXDOMAIN = 3
const SERVFAIL = 2
/** Milliseconds after which an idle TCP connection is closed. */
const IDLE = 5000
const MAX_QUERY = 64 * 1024
/** What the length before it over TCP can say (RFC 1035 4.2.2). */
const MAX_ANSWER = 65_535

export interface StandInDns {
  /** "127.0.0.1:5353" */
  address: string
  stop(): Promise<void>
}

/**
 * A stand-in for DNS: answers from a zone, over UDP and TCP on loopback, and from nothing else. It asks no other server.
 * @param zone read for each question, so that it may change
 */
export async function startStandInDns(zone: () => Zone): Promise<StandInDns> {
  const tcp = createServer(socket => serve(socket, zone))
  await new Promise<void>((resolve, reject) => {
    tcp.once('error', reject)
    tcp.listen(0, '127.0.0.1', resolve)
  })
  const { port } = tcp.address() as AddressInfo
  const udp = createSocket('udp4')
  udp.on('message', (bytes, from) => {
    const whole = answerTo(bytes, zone())
    if (whole) udp.send(whole.length <= MAX_UDP ? whole : cut(whole), from.port, from.address)
  })
  await new Promise<void>((resolve, reject) => {
    udp.once('error', reject)
    udp.bind(port, '127.0.0.1', resolve)
  })
  return {
    address: `127.0.0.1:${port}`,
    async stop() {
      await Promise.all([
        new Promise<void>(resolve => udp.close(() => resolve())),
        new Promise<void>(resolve => tcp.close(() => resolve())),
      ])
    },
  }
}

function serve(socket: Socket, zone: () => Zone): void {
  let read = Buffer.alloc(0)
  socket.setTimeout(IDLE, () => socket.destroy())
  socket.on('error', () => socket.destroy())
  socket.on('data', (chunk) => {
    read = Buffer.concat([read, chunk])
    if (read.length > MAX_QUERY) return socket.destroy()
    while (read.length >= 2 && read.length >= 2 + read.readUInt16BE(0)) {
      const length = 2 + read.readUInt16BE(0)
      const answer = answerTo(read.subarray(2, length), zone())
      if (!answer) return socket.destroy()
      const size = Buffer.alloc(2)
      size.writeUInt16BE(answer.length)
      socket.write(Buffer.concat([size, answer]))
      read = read.subarray(length)
    }
  })
}

// Null for what is no question, or what no packet can hold: it is not answered.
function answerTo(bytes: Buffer, zone: Zone): Buffer | null {
  try {
    const asked = decode(bytes)
    const [question] = asked.questions ?? []
    if (!question || asked.type === 'response') return null
    const whole = encode(replyTo(asked.id ?? 0, question, zone))
    return whole.length <= MAX_ANSWER ? whole : null
  }
  catch {
    return null
  }
}

function replyTo(id: number, question: Question, zone: Zone): Packet {
  const reply: Packet = { id, type: 'response', flags: AUTHORITATIVE, questions: [question], answers: [] }
  try {
    const records = recordsIn(zone, question.name.toLowerCase(), question.type)
    return { ...reply, answers: records.map(record => answerOf(question.name, record)).filter(a => a !== null) }
  }
  catch (error) {
    const code = error instanceof DnsError ? error.code : 'ETIMEOUT'
    return { ...reply, flags: AUTHORITATIVE | { ENODATA: 0, ENOTFOUND: NXDOMAIN, ETIMEOUT: SERVFAIL }[code] }
  }
}

/** The head and the question of an answer that does not fit: TCP is to be asked. */
function cut(whole: Buffer): Buffer {
  const { id, flags, questions } = decode(whole)
  return encode({ id, type: 'response', flags: flags! | TRUNCATED, questions, answers: [] })
}

function answerOf(name: string, { type, ttl, data }: ZoneRecord): Answer | null {
  switch (type) {
    case 'A':
    case 'AAAA':
    case 'PTR':
    case 'NS':
    case 'CNAME':
      return { name, ttl, type, class: 'IN', data: data[0]! }
    case 'MX':
      return { name, ttl, type, class: 'IN', data: { preference: Number(data[0]), exchange: data[1]! } }
    case 'TXT':
      return { name, ttl, type, class: 'IN', data: data.map(text => Buffer.from(text, 'latin1')) }
    default:
      return null
  }
}
