import { DMARC_POLICIES, type DmarcFound, type DmarcPolicy, type SignatureFound, type SpfFound } from '../message'
import { isAligned, organisationalDomain, type Alignment } from './alignment'
import { DnsError, saysNothingThere, type LookUps } from './dns'
import { readTags } from './tags'

/** The record of a domain, as far as a receiver needs it. */
export interface DmarcRecord {
  policy: DmarcPolicy
  dkim: Alignment
  spf: Alignment
}

/** What DNS says of a domain's policy: a record, none, or no answer. */
export type DmarcPolicyFound = DmarcRecord | 'none' | 'temperror'

/**
 * Finds the policy for a From domain: its own record, or that of its organisational domain (RFC 7489 6.6.3, by the Public Suffix List).
 * What its successor changes is not followed: the walk up the tree, np= and t=. pct= is not sampled: all mail is treated alike, but 0
 * asks for nothing.
 */
export async function findDmarc(fromDomain: string, lookUps: LookUps): Promise<DmarcPolicyFound> {
  try {
    const own = await recordsOf(fromDomain, lookUps)
    const top = organisationalDomain(fromDomain)
    const above = own.length || top === fromDomain ? [] : await recordsOf(top, lookUps)
    const [only, more] = own.length ? own : above
    // Of several none counts, and none above them.
    return only === undefined || more !== undefined ? 'none' : (readDmarc(only, !own.length) ?? 'none')
  }
  catch (error) {
    if (error instanceof DnsError) return 'temperror'
    throw error
  }
}

async function recordsOf(domain: string, lookUps: LookUps): Promise<string[]> {
  const records = await lookUps.ask(`_dmarc.${domain}`, 'TXT').catch((error: unknown) => {
    if (saysNothingThere(error)) return []
    throw error
  })
  return records.map(r => r.join('')).filter(text => /^v\s*=\s*DMARC1\s*(?:;|$)/.test(text))
}

/**
 * Reads a record (RFC 7489 6.3), which passes over what is no tag.
 * @returns null where the whole record is to be ignored
 */
export function readDmarc(text: string, forSubdomain: boolean): DmarcRecord | null {
  const tags = readTags(text, { skipMalformed: true })
  if (!tags) return null
  const value = (name: string) => tags.get(name)?.toLowerCase()
  const asked = (forSubdomain ? value('sp') : undefined) ?? value('p')
  const known = DMARC_POLICIES.find(p => p === asked)
  // 6.6.3: without a valid policy, a record with an address for reports counts as “none”.
  if (known === undefined && !/^mailto:/i.test(tags.get('rua') ?? '')) return null
  return {
    policy: value('pct') === '0' ? 'none' : (known ?? 'none'),
    dkim: value('adkim') === 's' ? 'strict' : 'relaxed',
    spf: value('aspf') === 's' ? 'strict' : 'relaxed',
  }
}

/** Evaluates DMARC (RFC 7489 6.6.2). What was not answered may have passed: then the result is temperror, never fail. */
export function evaluateDmarc(
  fromDomain: string | null,
  record: DmarcPolicyFound,
  { spf, dkim }: { spf: SpfFound, dkim: readonly SignatureFound[] },
): DmarcFound {
  if (fromDomain === null) return { result: 'permerror', domain: null, policy: null, reason: 'there is not exactly one sender in From' }
  if (record === 'temperror') return { result: 'temperror', domain: fromDomain, policy: null, reason: 'DNS did not answer' }
  if (record === 'none') return { result: 'none', domain: fromDomain, policy: null }
  const results = [
    ...dkim.filter(s => isAligned(s.domain, fromDomain, record.dkim)).map(s => s.result),
    ...(isAligned(spf.domain, fromDomain, record.spf) ? [spf.result] : []),
  ]
  const result = results.includes('pass') ? 'pass' : results.includes('temperror') ? 'temperror' : 'fail'
  return { result, domain: fromDomain, policy: record.policy, ...(result === 'temperror' ? { reason: 'DNS did not answer' } : {}) }
}
