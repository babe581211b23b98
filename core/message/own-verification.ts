import { hasPlainFrom } from './parse'
import type { Authentication, Content } from './types'

/**
 * What own verification says of the sender in a message's facts. Verifying reads From by itself, from the bytes that signatures cover. In
 * a header that can be read in two ways it may have found another sender than the facts name: then nobody is verified.
 */
export function forSenderOf(content: Pick<Content, 'from' | 'fromFields' | 'defects'>, authentication: Authentication): Authentication {
  const { saidBy, found } = authentication
  if (saidBy !== null || !found) return authentication
  const domain = (hasPlainFrom(content) && content.from[0]!.domain) || null
  if (found.dmarc.domain === domain) return authentication
  return {
    verdict: 'none',
    by: '',
    saidBy: null,
    found: {
      ...found,
      dkim: found.dkim.map(s => ({ ...s, aligned: false })),
      dmarc: { result: 'permerror', domain: null, policy: null, reason: 'its header can be read in two ways, with different senders' },
    },
  }
}
