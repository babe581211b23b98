import { networkInterfaces } from 'node:os'
import { inNetwork, normaliseIp } from '#core/message'
import { processRoles } from '../platform/readiness'

/** A port that this process listens on. */
export interface Listening {
  host: string
  port: number
  /** From where it can be reached, firewalls apart: this machine only, all its network addresses, or the one that is its host. */
  reach: 'machine' | 'all' | 'one'
}

export interface ListeningView {
  web: Listening
  /** Null where this process takes no mail. */
  smtp: Listening | null
  /** The addresses of this machine on its networks. */
  addresses: string[]
}

/** Where the product listens, as its environment says. */
export function listening(env: Record<string, string | undefined> = process.env): ListeningView {
  return {
    web: listeningAt(env.NITRO_HOST || env.HOST || '127.0.0.1', Number(env.NITRO_PORT || env.PORT || 3000)),
    smtp: processRoles().includes('intake') ? listeningAt(env.SMTP_HOST || '127.0.0.1', Number(env.SMTP_PORT || 2525)) : null,
    addresses: Object.values(networkInterfaces()).flatMap(all => all ?? []).filter(a => !a.internal && !a.scopeid).map(a => a.address),
  }
}

const UNSPECIFIED = ['0.0.0.0', '::']
const LOOPBACK = ['127.0.0.0/8', '::1']

function listeningAt(host: string, port: number): Listening {
  const ip = normaliseIp(host)
  if (ip !== null && UNSPECIFIED.includes(ip)) return { host, port, reach: 'all' }
  const isLoopback = host === 'localhost' || (ip !== null && LOOPBACK.some(network => inNetwork(ip, network)))
  return { host, port, reach: isLoopback ? 'machine' : 'one' }
}
