import {
  bodyStart,
  fieldBytes,
  readMailboxes,
  utf8Text,
  type Authentication,
  type FieldBytes,
  type MethodsFound,
  type Verdict,
} from '../message'
import type { Address } from '../address'
import { isAligned } from './alignment'
import { verifyArc } from './arc'
import { verifyDkim } from './dkim'
import { evaluateDmarc, findDmarc, type DmarcPolicyFound } from './dmarc'
import { LookUps, type LookUp, type Resolve } from './dns'
import { webChecks, type SignatureChecks } from './keys'
import { verifySpf } from './spf'

/** A message, and how it was handed over. */
export interface ToVerify {
  bytes: Uint8Array
  /** MAIL FROM without angle brackets; empty for the null sender, null where there was no envelope. */
  mailFrom: string | null
  helo: string | null
  /** The first hop outside the relays; null where it is not known. */
  client: string | null
  /** ISO 8601 instant, for signatures that expire. */
  receivedAt: string
}

/** DNS, with a time limit of each. The policy of the From domain has its own: no sender can use up its time with other look-ups. */
export interface Dns {
  policy: Resolve
  others: Resolve
}

export interface Verified {
  authentication: Authentication
  lookUps: LookUp[]
  /** Signatures beyond those that were looked at. */
  more: number
}

/**
 * Verifies who sent a message: SPF (RFC 7208), DKIM (RFC 6376, 8463), DMARC (RFC 7489), and ARC (RFC 8617) as evidence. Never rejects for
 * what a message or DNS says.
 * @param checks what reads keys and verifies signatures
 */
export async function verifySender(asked: ToVerify, dns: Dns, checks: SignatureChecks = webChecks): Promise<Verified> {
  const { bytes } = asked
  const body = bodyStart(bytes)
  const fields = fieldBytes(bytes, body)
  const fromDomain = plainFrom(fields)?.domain || null
  const policyLookUps = new LookUps(dns.policy)
  const lookUps = new LookUps(dns.others)
  const policy: DmarcPolicyFound = fromDomain === null ? 'none' : await findDmarc(fromDomain, policyLookUps)
  const [spf, dkim] = await Promise.all([
    verifySpf(asked, lookUps),
    verifyDkim({ bytes, fields, body, fromDomain, now: new Date(asked.receivedAt), checks }, lookUps),
  ])
  const found: MethodsFound = {
    spf,
    dkim: dkim.signatures,
    dmarc: evaluateDmarc(fromDomain, policy, { spf, dkim: dkim.signatures }),
    arc: await verifyArc(dkim.arc, fields, lookUps),
  }
  return {
    authentication: { ...verdictOf(fromDomain, found), saidBy: null, found },
    lookUps: [...policyLookUps.made, ...lookUps.made],
    more: dkim.more,
  }
}

/** The one sender in From; null where there is none, or readers may see different ones. */
function plainFrom(fields: readonly FieldBytes[]): Address | null {
  const from = fields.filter(f => f.name === 'from')
  if (from.length !== 1) return null
  // In another character set than UTF-8 its bytes may be one domain to us, and another to who reads them by the body's.
  const value = utf8Text(from[0]!.value)
  if (value === null) return null
  const { addresses, doubtful } = readMailboxes([{ name: 'from', value: value.replace(/\r?\n/g, '') }], 'from')
  return addresses.length === 1 && !doubtful ? addresses[0]! : null
}

/**
 * What the results say of the From domain: DMARC where the domain has a policy, else an aligned signature or SPF. Where the policy
 * is not known, only what even a strict one accepts.
 */
export function verdictOf(fromDomain: string | null, { spf, dkim, dmarc }: MethodsFound): { verdict: Verdict, by: string } {
  if (fromDomain === null) return { verdict: 'none', by: '' }
  if (dmarc.result === 'pass' || dmarc.result === 'fail') return { verdict: dmarc.result, by: 'dmarc' }
  const unsure = dmarc.result === 'temperror'
  const mode = unsure ? 'strict' : 'relaxed'
  const signatures = dkim.filter(s => isAligned(s.domain, fromDomain, mode)).map(s => s.result)
  const client = isAligned(spf.domain, fromDomain, mode) ? spf.result : 'none'
  if (signatures.includes('pass')) return { verdict: 'pass', by: 'dkim' }
  if (client === 'pass') return { verdict: 'pass', by: 'spf' }
  if (unsure) return { verdict: 'temperror', by: 'dmarc' }
  if (signatures.includes('temperror')) return { verdict: 'temperror', by: 'dkim' }
  if (client === 'temperror') return { verdict: 'temperror', by: 'spf' }
  if (signatures.includes('fail')) return { verdict: 'fail', by: 'dkim' }
  return client === 'fail' ? { verdict: 'fail', by: 'spf' } : { verdict: 'none', by: '' }
}
