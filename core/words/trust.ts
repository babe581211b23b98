import type { AuthResults, Hop } from '../message'
import { oneOf, quoted } from '../wording'

/** What a header says about its sender, and who says it. */
export interface HeaderClaims {
  /** From us outward, as hopsOf has them. */
  hops: readonly Hop[]
  /** All Authentication-Results of the header, wherever they are. */
  results: readonly AuthResults[]
  /** The domain of From; null where the header names no one sender. */
  fromDomain: string | null
}

/** Why no trusted relay verified or failed the sender, in sentences that say what to do. For a sender who is not verified. */
export function whyNotVerified({ hops, results, fromDomain }: HeaderClaims): string {
  const [first] = hops
  const counted = hops.filter(h => h.received && h.said.length)
  if (counted.length) return notAligned(counted.flatMap(h => h.said), fromDomain)
  if (!first!.authservIds.length)
    return `${first!.client} is not a trusted relay: it is in none of the networks above. Add it, or check the relay address of this test.`
  // The one that should have said something: of several relays the outermost.
  const at = hops.findLastIndex(h => h.authservIds.length)
  const { client, authservIds, said, others, received } = hops[at]!
  const ids = oneOf(authservIds.map(quoted))
  const relay = `${client} is a trusted relay, but`
  const paste = 'If the header was not pasted whole, paste all of it.'
  if (!received && said.length)
    return `${relay} the message has no Received field below its Authentication-Results: `
      + `without one, the results cannot be told from forged ones. ${paste}`
  if (others.length)
    return `${relay} its Authentication-Results has the authserv-id ${oneOf(others.map(o => quoted(o.authservId)))}, not ${ids}. `
      + 'If that is the relay’s own, enter it above.'
  if (received && results.some(r => authservIds.includes(r.authservId)))
    return `${relay} the Authentication-Results of ${ids} is below its Received field, where the sender could have written it. `
      + 'Set the relay to add its own at the top.'
  return `${relay} it wrote no Authentication-Results${received ? ' above its Received field' : ', and no Received field'}. `
    + `${paste} Else set the relay to write its results.`
}

function notAligned(said: readonly AuthResults[], fromDomain: string | null): string {
  const ids = oneOf([...new Set(said.map(s => quoted(s.authservId)))], 'and')
  if (fromDomain === null) return `${ids} is believed, but the header does not name exactly one sender in From.`
  const found = said.flatMap(s => s.results).map(r => `${r.method}=${r.result}${of(r.props)}`)
  return found.length
    ? `${ids} is believed, but has no result for ${fromDomain}, the domain in From: it says ${oneOf(found, 'and')}.`
    : `${ids} is believed, but says nothing about the sender.`
}

function of(props: Record<string, string>): string {
  const domain = props['header.from'] ?? props['header.d'] ?? props['header.i'] ?? props['smtp.mailfrom']
  return domain === undefined ? '' : ` for ${domain}`
}
