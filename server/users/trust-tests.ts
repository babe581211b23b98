import {
  hasPlainFrom, hopsOf, makeAddress, parseAuthenticationResults, parseMessage, peopleOf, readPastedHeader, type Content, type Direction,
  type PastedHeader, type Trust, type Verdict,
} from '#core'
import { whyNotVerified } from '#core/words'
import { counted, oneOf, quoted } from '#core/wording'
import { invalid } from '../platform/problem'
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
  /** Why no relay's result counted; null where one did. */
  why: string | null
  /** What of the pasted text is no header field, in sentences. */
  unread: string[]
}

/** What would be believed of a message's header. */
export async function testTrace({ client, headers, relays, ownNetworks }: TraceTest): Promise<TraceTestResult> {
  const { policy } = await activePolicy()
  const pasted = readPastedHeader(headers)
  if (!pasted.header)
    throw invalid('No line of this is a header field, such as “From: name@domain”. Paste the header as the source of the message shows it.', {
      'trace.headers': 'No header field found.',
    })
  const bytes = new TextEncoder().encode(`${pasted.header}\r\n\r\n`)
  const envelope = { mailFrom: null, rcptTo: [], client, helo: null, tls: false, user: null, receivedAt: new Date().toISOString() }
  const trust = { ...policy.trust, relays, ownNetworks }
  const { attempt, content } = await parseMessage(bytes, envelope, trust)
  const { verdict, saidBy } = attempt.authentication
  const from = content.from[0]
  const who = from ? `${from.local}@${from.domainUnicode}` : 'The sender'
  const is = { pass: 'is verified', fail: 'fails authentication', none: 'is not verified', temperror: 'could not be verified by the relay' }[verdict]
  const by = saidBy === null ? 'no trusted relay gives a result' : `result of ${saidBy}`
  const hop = attempt.client === null ? '' : `; client address ${attempt.client}`
  return {
    verdict,
    saidBy,
    firstHop: attempt.client,
    direction: attempt.direction,
    words: `${who} ${is}: ${by}${hop}. The message is ${attempt.direction}.`,
    why: verdict === 'none' ? whyNot(content, client, trust) : null,
    unread: unreadWords(pasted),
  }
}

function whyNot(content: Content, client: string, trust: Trust): string {
  if (!trust.relays.length) return 'No trusted relay is entered above.'
  const fields = content.headers.map(h => ({ name: h.name, value: h.raw }))
  const results = fields
    .filter(f => f.name.toLowerCase() === 'authentication-results')
    .flatMap(f => parseAuthenticationResults(f.value) ?? [])
  const fromDomain = hasPlainFrom(content) ? content.from[0]!.domain : null
  return whyNotVerified({ hops: hopsOf(fields, client, trust), results, fromDomain })
}

const MAX_NAMED = 5
const MAX_SHOWN = 60

function unreadWords({ unread, below }: PastedHeader): string[] {
  const short = (text: string) => quoted(text.length > MAX_SHOWN ? `${text.slice(0, MAX_SHOWN)}…` : text)
  const named = unread
    .slice(0, MAX_NAMED)
    .map(({ line, text }) => `Line ${line} is not a header field and was left out: ${short(text)}.`)
  const more = unread.length - named.length
  return [
    ...named,
    ...(more > 0 ? [`${counted(more, 'more line is', 'more lines are')} no header fields.`] : []),
    ...(unread.length ? ['Such lines are often the captions of buttons, or the rest of a line that lost the space at its beginning.'] : []),
    ...(below ? [`An empty line ends the header: ${counted(below, 'line')} below it ${below === 1 ? 'was' : 'were'} not read.`] : []),
  ]
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
