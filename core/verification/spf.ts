import { domainToAscii } from '../address'
import { normaliseIp, type SpfFound } from '../message'
import { evaluateSpf } from './mailauth'
import { isSpfRecord } from './spf-syntax'
import { saysNothingThere, type DnsType, type LookUps } from './dns'

/** A record of more is not read: RFC 7208 3.4 has them fit into one UDP answer of 512 octets. */
const MAX_RECORD = 8 * 1024
/** What mailauth answers with permerror. */
const INVALID = 'v=spf1 invalid'
/** Not the name of this machine, so that a result does not depend on it. */
const RECEIVER = 'unknown'

interface Asked {
  /** MAIL FROM without angle brackets; empty or null for the null sender. */
  mailFrom: string | null
  helo: string | null
  client: string | null
}

/** Whether a TXT record is an SPF record (RFC 7208 4.5). */
export function isSpf(text: string): boolean {
  return /^v=spf1(?: |$)/i.test(text)
}

/**
 * Evaluates SPF (RFC 7208): of the MAIL FROM domain, or of HELO where MAIL FROM is empty. Ten terms that look something up, and two that
 * find nothing (4.6.4).
 */
export async function verifySpf({ mailFrom, helo, client }: Asked, lookUps: LookUps): Promise<SpfFound> {
  const identity = mailFrom ? mailFrom.slice(mailFrom.lastIndexOf('@') + 1) : (helo ?? '')
  const domain = domainToAscii(identity)
  const ip = normaliseIp(client)
  if (domain === null || domain.startsWith('[') || !domain.includes('.')) return { result: 'none', domain: null }
  if (ip === null) return { result: 'none', domain, reason: 'the address of the client is not known' }
  // Most domains have none: then there is nothing to evaluate.
  const isSilent = await lookUps.ask(domain, 'TXT').then(found => !found.some(r => isSpf(r.join(''))), saysNothingThere)
  if (isSilent) return { result: 'none', domain }
  const local = mailFrom ? mailFrom.slice(0, Math.max(0, mailFrom.lastIndexOf('@'))) : ''
  const { status } = await evaluateSpf({
    sender: `${local || 'postmaster'}@${domain}`,
    ip,
    helo: helo || ip,
    mta: RECEIVER,
    resolver: (name, type) => records(lookUps, name, type as DnsType),
  })
  return { result: status.result, domain, ...(status.result === 'temperror' ? { reason: 'DNS did not answer' } : {}) }
}

async function records(lookUps: LookUps, name: string, type: DnsType): Promise<unknown> {
  const answer = await lookUps.ask(shortened(name), type)
  if (type !== 'TXT') return answer
  return (answer as string[][]).map((record) => {
    const text = record.join('')
    if (!isSpf(text)) return record
    return [text.length <= MAX_RECORD && isSpfRecord(text) ? withDomain(text, name) : INVALID]
  })
}

// What macros made too long loses labels on its left (RFC 7208 7.3).
function shortened(name: string): string {
  if (name.length <= 253) return name
  const cut = name.slice(-254)
  return cut.slice(cut.indexOf('.') + 1)
}

/**
 * Expands the macros d and p of a record before mailauth does, which takes both for the domain of the sender, in included records too.
 * d is the domain whose record it is (RFC 7208 7.2). p is not looked up, as the RFC advises: it is “unknown”, as for a client without a
 * validated name.
 */
function withDomain(text: string, name: string): string {
  return text.replace(/%%|%\{[dp]\d{0,3}r?[.+,/_=-]*\}/gi, macro => (macro === '%%' ? macro : expanded(macro, name)))
}

function expanded(macro: string, name: string): string {
  const [, letter, digits, reverse, cuts] = /^%\{([dp])(\d*)(r?)([^\dr}]*)\}$/i.exec(macro)!
  // A count of zero is not valid, and mailauth says so.
  if (digits && Number(digits) === 0) return macro
  const value = letter!.toLowerCase() === 'd' ? name : 'unknown'
  const cut = new Set(cuts || '.')
  const pieces = ['']
  for (const char of value) {
    if (cut.has(char)) pieces.push('')
    else pieces[pieces.length - 1] += char
  }
  if (reverse) pieces.reverse()
  return pieces.slice(digits ? -Number(digits) : 0).join('.')
}
