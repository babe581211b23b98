import type { Authentication, DmarcFound, MethodResult, MethodsFound, SignatureFound, SpfFound } from '../message'
import { oneOf } from '../wording'

const RESULTS: Record<MethodResult, string> = {
  none: 'none',
  pass: 'passed',
  fail: 'failed',
  softfail: 'failed (soft)',
  neutral: 'neutral',
  policy: 'not accepted',
  temperror: 'not answered',
  permerror: 'not valid',
}

/** What was verified of a sender and how, in a sentence; null where nothing was found or said. */
export function verificationSentence({ verdict, by, saidBy, found }: Authentication, fromDomain: string | null): string | null {
  if (!found) return verdict === 'temperror' ? 'The sender could not be verified when the message came.' : null
  const sealed = verdict !== 'pass' && found.arc.result === 'pass' && found.arc.domain
  const evidence = sealed ? ` ${sealed} passed it on and sealed what it found (ARC): evidence, but no proof.` : ''
  const sentence = `${ownSentence({ verdict, by }, found, fromDomain)}${evidence}`
  return saidBy === null ? sentence : `${saidBy} says: ${sentence}`
}

function ownSentence(
  { verdict, by }: Pick<Authentication, 'verdict' | 'by'>,
  { spf, dkim }: MethodsFound,
  fromDomain: string | null,
): string {
  if (fromDomain === null) return 'From does not name exactly one sender, so no sender is verified.'
  const signer = dkim.find(s => s.aligned && s.result === 'pass')
  if (verdict === 'pass' && signer && by !== 'spf') return `${signer.domain} signed it (DKIM), which matches the From address.`
  if (verdict === 'pass') return `It came from a server that ${spf.domain} names as its own (SPF), which matches the From address.`
  if (verdict === 'temperror') return `DNS did not answer for ${fromDomain}, so the sender could not be verified.`
  const why = whyNot(fromDomain, spf, dkim)
  if (verdict === 'fail')
    return by === 'dmarc' ? `${fromDomain} did not send it (DMARC failed): ${why}.` : `The sender may be forged: ${why}.`
  return `Nothing shows that ${fromDomain} sent it: ${why}.`
}

function whyNot(fromDomain: string, spf: SpfFound, dkim: readonly SignatureFound[]): string {
  const own = dkim.find(s => s.aligned)
  const others = [...new Set(dkim.filter(s => !s.aligned && s.result === 'pass').map(s => s.domain))]
  const signature = own
    ? `the signature of ${own.domain} does not count${own.reason ? `, because ${own.reason}` : ''}`
    : others.length
      ? `it is signed by ${oneOf(others, 'and', 3)}, not by ${fromDomain}`
      : `it has no signature of ${fromDomain}`
  return `${signature}, and ${spfPart(spf, fromDomain)}`
}

function spfPart({ result, domain }: SpfFound, fromDomain: string): string {
  if (domain === null) return 'the sending server gave no domain'
  if (result === 'pass') return `its server is one of ${domain}, not of ${fromDomain}`
  if (result === 'none') return `${domain} does not say which servers are its own`
  return `its server is not one that ${domain} names as its own`
}

/** The results method by method, a line each, for details. */
export function verificationLines({ spf, dkim, dmarc, arc }: MethodsFound): { method: string, result: string, detail: string }[] {
  return [
    { method: 'SPF', result: RESULTS[spf.result], detail: detailOf(spf.domain ?? 'no domain', spf.reason) },
    ...(dkim.length
      ? dkim.map(s => ({
          method: 'DKIM',
          result: RESULTS[s.result],
          detail: detailOf(`${s.domain || 'no domain'}${s.selector ? `, selector ${s.selector}` : ''}${s.aligned ? ', matches From' : ''}`, s.reason),
        }))
      : [{ method: 'DKIM', result: RESULTS.none, detail: 'no signature' }]),
    { method: 'DMARC', result: RESULTS[dmarc.result], detail: detailOf(dmarcDetail(dmarc), dmarc.reason) },
    ...(arc.result === 'none'
      ? []
      : [{
          method: 'ARC',
          result: RESULTS[arc.result],
          detail: detailOf(`${arc.domain ? `sealed by ${arc.domain}` : 'sealed'}${arc.said ? `, which found ${arc.said}` : ''}`, arc.reason),
        }]),
  ]
}

function detailOf(text: string, reason: string | undefined): string {
  return reason === undefined ? text : `${text}: ${reason}`
}

function dmarcDetail({ domain, policy }: DmarcFound): string {
  if (domain === null) return 'no domain'
  return policy === null ? domain : `${domain} asks receivers to ${POLICIES[policy]}`
}

const POLICIES = { none: 'do nothing', quarantine: 'quarantine mail that fails', reject: 'refuse mail that fails' }
