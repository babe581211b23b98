import { Resolver } from 'node:dns/promises'
import { DnsError, type DnsAnswers, type DnsErrorCode, type DnsType, type Resolve } from '#core/verification'

/** How often a server is asked over UDP; TCP follows by itself where an answer does not fit. */
const TRIES = 2
/** There is no such record: also where c-ares takes the name for none, else a sender could make it look as if DNS did not answer. */
const NOTHING: Record<string, DnsErrorCode> = { ENOTFOUND: 'ENOTFOUND', ENODATA: 'ENODATA', EBADNAME: 'ENOTFOUND' }

/**
 * Looks records up at DNS servers, by c-ares.
 * @param servers addresses, with a port if it is not 53; empty for the system's
 * @param tryMs milliseconds to wait before a server is asked again
 */
export function lookUpAt(servers: readonly string[], tryMs = 1000): Resolve {
  const resolver = new Resolver({ timeout: Math.ceil(tryMs), tries: TRIES })
  if (servers.length) resolver.setServers(servers)
  const ask: { [T in DnsType]: (name: string) => Promise<DnsAnswers[T]> } = {
    TXT: name => resolver.resolveTxt(name),
    A: name => resolver.resolve4(name),
    AAAA: name => resolver.resolve6(name),
    MX: name => resolver.resolveMx(name),
    PTR: name => resolver.resolvePtr(name),
  }
  return async (name, type) => {
    try {
      return await ask[type](name)
    }
    catch (error) {
      const { code, message } = error as { code?: string, message: string }
      throw new DnsError(NOTHING[code ?? ''] ?? 'ETIMEOUT', `${name} ${type}: ${code ?? message}`)
    }
  }
}

/** Gives up all look-ups that are not answered in time: after so many milliseconds from the first one on. */
export function within(ms: number, resolve: Resolve): Resolve {
  let over: Promise<never> | null = null
  return (name, type) => {
    over ??= new Promise((_, reject) => {
      setTimeout(() => reject(new DnsError('ETIMEOUT', `DNS did not answer within ${ms / 1000} seconds`)), ms).unref()
    })
    over.catch(() => undefined)
    return Promise.race([resolve(name, type), over])
  }
}
