import { parseAuthenticationResults, type ArcFound, type FieldBytes } from '../message'
import type { LookUps } from './dns'
import { verifySeals, type ArcState } from './mailauth'

/** Sets of ARC fields (RFC 8617 4.2.1). */
const MAX_SETS = 50
const FIELDS: readonly string[] = ['arc-seal', 'arc-message-signature', 'arc-authentication-results']
const MAX_SAID = 500

/**
 * Verifies the chain of seals (RFC 8617 5.2). It is evidence of what others found before a mailing list or a forwarder changed the
 * message; it never makes a sender verified.
 */
export async function verifyArc(state: ArcState, fields: readonly FieldBytes[], lookUps: LookUps): Promise<ArcFound> {
  const own = fields.filter(f => FIELDS.includes(f.name))
  if (!own.length) return { result: 'none' }
  if (own.length > MAX_SETS * FIELDS.length) return { result: 'fail', reason: `it has more than ${MAX_SETS} seals` }
  if (state.error) return { result: 'fail', reason: 'the chain of seals is not complete' }
  const { status } = await verifySeals(state, lookUps)
  const newest = state.lastEntry
  const domain = newest?.['arc-seal']?.parsed?.d?.value
  const said = newest?.['arc-authentication-results']
  const shown = {
    ...(domain ? { domain } : {}),
    ...(said ? { said: saidIn(said.original) } : {}),
  }
  if (status.result === 'fail' && lookUps.failed) return { result: 'temperror', ...shown, reason: 'DNS did not answer' }
  return { result: status.result, ...shown, ...(status.result === 'fail' ? { reason: 'a seal or the sealed message was changed' } : {}) }
}

// "i=1; mx.example; spf=pass …" without its instance.
function saidIn(line: Uint8Array): string {
  const text = new TextDecoder().decode(line)
  const value = text.slice(text.indexOf(':') + 1).replace(/^\s*i\s*=\s*\d+\s*;/i, '')
  const results = parseAuthenticationResults(value)
  if (!results) return ''
  return `${results.authservId}: ${results.results.map(r => `${r.method}=${r.result}`).join(', ') || 'nothing'}`.slice(0, MAX_SAID)
}
