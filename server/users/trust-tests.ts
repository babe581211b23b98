import { makeAddress, parseMessage, peopleOf, type Direction, type Trust, type Verdict } from '#core'
import { oneOf } from '#core/wording'
import { activePolicy } from '../policy/active-policy'

/** A message as it would be handed over, under trust that may not be active yet. */
export interface TraceTest {
  /** The machine that hands it over. */
  client: string
  /** Its header fields, as they are in its source. */
  headers: string
  relays: Trust['relays']
  ownNetworks: string[]
}

export interface TraceTestResult {
  verdict: Verdict
  /** The name under which that was said, or null where nobody was believed. */
  saidBy: string | null
  /** The first machine outside our relays, or null. */
  firstHop: string | null
  direction: Direction
  /** All of it in a sentence. */
  words: string
}

/** What would be believed of a message's header. */
export async function testTrace({ client, headers, relays, ownNetworks }: TraceTest): Promise<TraceTestResult> {
  const { policy } = await activePolicy()
  const bytes = new TextEncoder().encode(`${headers.replace(/\r?\n/g, '\r\n').trim()}\r\n\r\n`)
  const envelope = { mailFrom: null, rcptTo: [], client, helo: null, tls: false, user: null, receivedAt: new Date().toISOString() }
  const { attempt, content } = await parseMessage(bytes, envelope, { ...policy.trust, relays, ownNetworks })
  const { verdict, saidBy } = attempt.authentication
  const from = content.from[0]
  const who = from ? `${from.local}@${from.domainUnicode}` : 'The sender'
  const is = { pass: 'is verified', fail: 'fails authentication', none: 'is not verified' }[verdict]
  const by = saidBy === null ? 'no trusted relay gives a result' : `result of ${saidBy}`
  const hop = attempt.client === null ? '' : `; client address ${attempt.client}`
  return {
    verdict,
    saidBy,
    firstHop: attempt.client,
    direction: attempt.direction,
    words: `${who} ${is}: ${by}${hop}. The message is ${attempt.direction}.`,
  }
}

/** Whose mail to an address is, in a sentence. */
export async function testAddress(address: string): Promise<{ taken: boolean, words: string }> {
  const { policy, envelopeLists } = await activePolicy()
  const read = makeAddress(address)
  if (!read.local || !read.domain) return { taken: false, words: `“${address}” is not a complete address. Write it as name@domain.` }
  const people = peopleOf(envelopeLists.compiled, read)
  if (people.length === 1) return { taken: true, words: `Mail to ${address} is accepted, for ${people[0]!.name}.` }
  if (people.length)
    return {
      taken: true,
      words: `Mail to ${address} is accepted, for ${oneOf(people.map(p => p.name), 'and', people.length)}, who share the mailbox.`,
    }
  if (read.local.toLowerCase() === 'postmaster' && policy.trust.ownDomains.includes(read.domain))
    return {
      taken: true,
      words: `Mail to ${address} is accepted, for the first administrator: every domain has a postmaster (RFC 5321 4.5.1).`,
    }
  return { taken: false, words: `Mail to ${address} is refused: no user has this address.` }
}
