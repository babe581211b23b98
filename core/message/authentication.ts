import { isAtOrBelow, registrableDomain, domainToAscii, type Address } from '../address'
import { splitOutsideQuotes, withoutComments } from './comments'
import { METHOD_RESULTS, type Authentication, type MethodResult, type MethodsFound } from './types'

/** One method's result in an Authentication-Results field. */
export interface AuthResult {
  method: string
  result: string
  reason: string | null
  /** Keys as "ptype.property", lower case. */
  props: Record<string, string>
}

export interface AuthResults {
  authservId: string
  version: string | null
  results: AuthResult[]
}

/**
 * Reads an Authentication-Results field value (RFC 8601 2.2).
 * @returns null where the text has no authserv-id.
 */
export function parseAuthenticationResults(value: string): AuthResults | null {
  const [head, ...pieces] = splitOutsideQuotes(withoutComments(value), ';')
  const id = /^\s*("(?:\\.|[^"\\])*"|[^\s;=]+)(?:\s+(\d+))?\s*$/.exec(head ?? '')
  if (!id) return null
  const results: AuthResult[] = []
  for (const piece of pieces) {
    const method = /^\s*([\w-]+)(?:\s*\/\s*\d+)?\s*=\s*([\w-]+)/.exec(piece)
    if (!method) continue // ";none", or nothing after the last semicolon
    const entry: AuthResult = { method: method[1]!.toLowerCase(), result: method[2]!.toLowerCase(), reason: null, props: {} }
    const rest = piece.slice(method[0].length)
    for (const [key, text] of properties(rest)) {
      if (key === 'reason') entry.reason = text
      else if (key.includes('.')) entry.props[key] = text
    }
    results.push(entry)
  }
  return { authservId: unquote(id[1]!).toLowerCase(), version: id[2] ?? null, results }
}

/**
 * What the results say about the domain of From: DMARC if it was evaluated, else DKIM or SPF with relaxed alignment
 * (RFC 7489 3.1, the registrable domain).
 */
export function verdictFor(from: Address | null, said: readonly AuthResults[]): Authentication {
  if (!from?.domain) return { verdict: 'none', by: '', saidBy: null }
  let failed: Authentication | null = null
  let unsure: Authentication | null = null
  for (const method of ['dmarc', 'dkim', 'spf'] as const) {
    for (const results of said) {
      for (const entry of results.results) {
        if (entry.method !== method || !aligned(method, entry, from.domain)) continue
        if (entry.result === 'pass') return { verdict: 'pass', by: method, saidBy: results.authservId }
        if (/^(?:hard)?fail$/.test(entry.result)) failed ??= { verdict: 'fail', by: method, saidBy: results.authservId }
        if (entry.result === 'temperror') unsure ??= { verdict: 'temperror', by: method, saidBy: results.authservId }
      }
    }
    if (method === 'dmarc' && failed) return failed
  }
  return failed ?? unsure ?? { verdict: 'none', by: '', saidBy: null }
}

const MAX_SAID = 10
const MAX_NAME = 253

/** The same results method by method, as own verification finds them. What is not said is none. */
export function methodsSaid(from: Address | null, said: readonly AuthResults[]): MethodsFound {
  const entries = said.flatMap(s => s.results)
  const resultOf = ({ result }: AuthResult): MethodResult => {
    const plain = result === 'hardfail' ? 'fail' : result
    return METHOD_RESULTS.find(r => r === plain) ?? 'neutral'
  }
  const first = (method: string) => entries.find(e => e.method === method)
  const domainOf = (text: string | undefined) => (text === undefined ? null : domainToAscii(text.slice(text.lastIndexOf('@') + 1, MAX_NAME)))
  const [spf, dmarc, arc] = [first('spf'), first('dmarc'), first('arc')]
  return {
    spf: { result: spf ? resultOf(spf) : 'none', domain: domainOf(spf?.props['smtp.mailfrom'] ?? spf?.props['smtp.helo']) },
    dkim: entries
      .filter(e => e.method === 'dkim')
      .slice(0, MAX_SAID)
      .flatMap((e) => {
        const domain = domainOf(e.props['header.d'] ?? e.props['header.i'])
        if (domain === null) return []
        return [{ domain, selector: (e.props['header.s'] ?? '').slice(0, MAX_NAME), result: resultOf(e), aligned: from !== null && aligned('dkim', e, from.domain) }]
      }),
    dmarc: { result: dmarc ? resultOf(dmarc) : 'none', domain: domainOf(dmarc?.props['header.from']) ?? from?.domain ?? null, policy: null },
    arc: { result: arc ? resultOf(arc) : 'none' },
  }
}

function aligned(method: 'dmarc' | 'dkim' | 'spf', entry: AuthResult, fromDomain: string): boolean {
  const named =
    method === 'dmarc'
      ? entry.props['header.from']
      : method === 'dkim'
        ? (entry.props['header.d'] ?? entry.props['header.i'])
        : entry.props['smtp.mailfrom']
  if (named === undefined) return method === 'dmarc'
  const domain = domainToAscii(named.slice(named.lastIndexOf('@') + 1))
  if (!domain) return false
  if (method === 'dmarc') return domain === fromDomain
  const base = registrableDomain(fromDomain)
  return domain === fromDomain || (base !== null && isAtOrBelow(domain, base) && registrableDomain(domain) === base)
}

// "ptype.property=value", white space allowed around the dot and the sign; keys in lower case.
function* properties(text: string): Generator<[key: string, value: string]> {
  const tight = text.replace(/\s+/g, ' ').replaceAll(' .', '.').replaceAll('. ', '.').replaceAll(' =', '=').replaceAll('= ', '=')
  for (const word of splitOutsideQuotes(tight, ' ')) {
    const equals = word.indexOf('=')
    const key = word.slice(0, Math.max(0, equals)).toLowerCase()
    if (/^[\w-]+(?:\.[\w-]+)?$/.test(key) && equals < word.length - 1) yield [key, unquote(word.slice(equals + 1))]
  }
}

function unquote(text: string): string {
  return text.startsWith('"') && text.endsWith('"') && text.length > 1 ? text.slice(1, -1).replace(/\\(.)/gs, '$1') : text
}
