import { makeAddress } from '../address'
import { differingLines } from './alternatives'
import { readAttachment } from './attachments'
import { methodsSaid, verdictFor } from './authentication'
import { readBodies, type Bodies, type Piece } from './bodies'
import { withoutComments } from './comments'
import { hasZone, readDate } from './dates'
import { sha256 } from './digest'
import { decodeWords } from './encoded-words'
import { countFields, decodedFields, listIdentity, markedImportant } from './facts'
import { htmlText, MAX_LINKS } from './html-text'
import { readMailboxes, type Mailboxes } from './mailboxes'
import { plainLinks, splitQuoted, type QuoteState } from './plain-text'
import { DefectList, fieldValue, scanStructure, settleRawFields, type RawField } from './structure'
import { inNetwork, normaliseIp, walkTrace } from './trace'
import {
  PARSER_VERSION,
  type Attempt,
  type Content,
  type DefectCode,
  type Direction,
  type Envelope,
  type Link,
  type Message,
  type Segment,
  type Trust,
} from './types'

/** How much of a message is read: less each time that reading it took too long. */
export const EXTENTS = ['whole', 'closed', 'header'] as const
export type Extent = (typeof EXTENTS)[number]

export interface ReadOptions {
  /**
   * "closed": documents are not opened, and of each text the first megabyte is read. "header": nothing but header fields.
   * Either is a defect of the message.
   */
  extent?: Extent
}

const MAX_TEXT_CLOSED = 1024 * 1024

/**
 * Reads a message. Never rejects, for any bytes: what is wrong with the message is on its list of defects.
 * @param bytes the message as received (RFC 5322), without SMTP dot-stuffing
 * @param envelope how it was handed over; times are ISO 8601 instants
 * @param trust our own domains and networks, and the relays whose word about authentication counts
 */
export async function parseMessage(bytes: Uint8Array, envelope: Envelope, trust: Trust, options: ReadOptions = {}): Promise<Message> {
  const content = await parseContent(bytes, options)
  return { content, attempt: readAttempt(content, envelope, trust) }
}

/** What the bytes alone say. */
export async function parseContent(bytes: Uint8Array, { extent = 'whole' }: ReadOptions = {}): Promise<Content> {
  const structure = scanStructure(bytes)
  const { defects } = structure
  const bodies = readBodies(
    extent === 'header' ? { ...structure, root: { ...structure.root, kind: 'leaf', bodyStart: 0, bodyEnd: 0, children: [] } } : structure,
    extent === 'closed' ? { mostText: MAX_TEXT_CLOSED } : {},
  )
  if (extent === 'header') defects.add('read by its header alone', 'reading its text took too long')
  if (bytes.includes(0)) defects.add('NUL bytes', 'the message has bytes of value zero')
  const fields = settleRawFields(structure.fields, bodies.charset)
  const date = readDate(fieldValue(fields, 'date'))
  const from = readMailboxes(fields, 'from')
  headerDefects(fields, from, date, defects)
  const subject = decodeWords(fieldValue(fields, 'subject') ?? '')
  const { segments, links } = readTexts(bodies)
  if (links.length > MAX_LINKS) defects.add('too many links', `more than ${MAX_LINKS}`)
  const attachments = []
  for (const raw of bodies.attachments)
    attachments.push(
      await readAttachment(
        raw,
        raw.pieces
          ? render(raw.pieces)
              .segments.map(s => s.text)
              .join('\n')
          : null,
        extent !== 'whole',
        defects,
      ),
    )
  return {
    parser: PARSER_VERSION,
    hash: await sha256(bytes),
    size: bytes.length,
    messageId: messageId(fieldValue(fields, 'message-id')),
    date,
    from: from.addresses,
    fromFields: countFields(fields, 'from'),
    sender: readMailboxes(fields, 'sender').addresses[0] ?? null,
    replyTo: readMailboxes(fields, 'reply-to').addresses,
    to: readMailboxes(fields, 'to').addresses,
    cc: readMailboxes(fields, 'cc').addresses,
    subject,
    segments: [{ place: 'subject', text: subject }, ...segments],
    headers: decodedFields(fields),
    list: listIdentity(fields),
    links: links.slice(0, MAX_LINKS),
    attachments,
    important: markedImportant(fields),
    defects: defects.list,
  }
}

/** True if a message names its sender plainly: one From field with one mailbox, written so that every reader sees the same. */
export function hasPlainFrom(content: Pick<Content, 'from' | 'fromFields' | 'defects'>): boolean {
  return content.fromFields === 1 && content.from.length === 1 && !content.defects.some(d => d.code === 'unreadable From')
}

/** What the handing-over says about the same content; cheap, so that it can be done again without the bytes. */
export function readAttempt(content: Content, envelope: Envelope, trust: Trust): Attempt {
  const fields = content.headers.map(h => ({ name: h.name, value: h.raw }))
  const { said, client } = walkTrace(fields, envelope.client, trust)
  const from = hasPlainFrom(content) ? content.from[0]! : null
  const direction = attemptDirection(envelope, trust)
  const defects = new DefectList()
  const ours = content.from.find(a => trust.ownDomains.includes(a.domain))
  if (ours && direction === 'inbound') defects.add('claims own domain', ours.key)
  return {
    envelope,
    envelopeSender: envelope.mailFrom ? makeAddress(envelope.mailFrom) : null,
    client,
    authentication: { ...verdictFor(from, said), ...(said.length ? { found: methodsSaid(from, said) } : {}) },
    direction,
    defects: defects.list,
  }
}

/** Outbound or internal only for those who signed in or connect from a network of ours; loopback is none unless named. */
export function attemptDirection(envelope: Pick<Envelope, 'client' | 'user' | 'rcptTo'>, trust: Trust): Direction {
  const ip = normaliseIp(envelope.client)
  const ownClient = envelope.user !== null || (ip !== null && trust.ownNetworks.some(n => inNetwork(ip, n)))
  if (!ownClient) return 'inbound'
  return envelope.rcptTo.every(r => trust.ownDomains.includes(makeAddress(r).domain)) ? 'internal' : 'outbound'
}

/** What the texts of a message say: own and quoted as they come, then what is not shown. */
function readTexts({ pieces, alternatives, aside }: Bodies): { segments: Segment[], links: Link[] } {
  const { segments, links } = render(pieces)
  const shown = segments.filter(s => s.place !== 'hidden')
  const hidden = segments.filter(s => s.place === 'hidden')
  for (const piece of aside) {
    const read = renderPiece(piece, { forwarded: false })
    hidden.push(...read.segments)
    links.push(...read.links)
  }
  // Only now is known what is shown, and what is anywhere.
  const known = [...shown, ...hidden].map(s => s.text)
  for (const { target } of links) known.push(target)
  for (const piece of alternatives) {
    const read = renderPiece(piece, { forwarded: false })
    links.push(...read.links)
    const text = differingLines(read.segments.map(s => s.text).join('\n'), known)
    if (text) hidden.push({ place: 'hidden', text })
  }
  return { segments: [...shown, ...hidden.map(s => ({ place: 'hidden' as const, text: s.text }))], links }
}

function render(pieces: readonly Piece[]): { segments: Segment[], links: Link[] } {
  const segments: Segment[] = []
  const links: Link[] = []
  const state: QuoteState = { forwarded: false }
  for (const piece of pieces) {
    const read = renderPiece(piece, piece.quoted ? { forwarded: false } : state)
    for (const segment of read.segments)
      segments.push(piece.quoted && segment.place === 'own' ? { place: 'quoted', text: segment.text } : segment)
    for (const link of read.links) links.push(link)
  }
  return { segments, links }
}

function renderPiece({ html, text, flowed }: Piece, state: QuoteState): { segments: Segment[], links: Link[] } {
  if (html) return htmlText(text, state)
  return { segments: splitQuoted(text, { flowed, state }), links: plainLinks(text) }
}

function headerDefects(fields: readonly RawField[], from: Mailboxes, date: string | null, defects: DefectList): void {
  const repeated: [string, DefectCode][] = [
    ['from', 'two From fields'],
    ['subject', 'two Subject fields'],
    ['date', 'two Date fields'],
    ['message-id', 'two Message-ID fields'],
    ['to', 'two To fields'],
  ]
  for (const [name, code] of repeated) {
    const count = countFields(fields, name)
    if (count > 1) defects.add(code, `${count} fields; RFC 5322 3.6 allows one`)
  }
  if (countFields(fields, 'from') === 0) defects.add('no From', 'RFC 5322 3.6 requires one')
  else if (from.addresses.length === 0 || from.doubtful) defects.add('unreadable From', fieldValue(fields, 'from')?.slice(0, 200) ?? '')
  if (from.addresses.length > 1)
    defects.add(
      'several mailboxes in From',
      from.addresses
        .slice(0, 5)
        .map(a => a.key)
        .join(', '),
    )
  if (countFields(fields, 'date') === 0) defects.add('no Date', 'RFC 5322 3.6 requires one')
  else if (date === null) defects.add('unreadable Date', fieldValue(fields, 'date')?.slice(0, 200) ?? '')
  else if (!hasZone(fieldValue(fields, 'date')!)) defects.add('Date without a zone', 'it is read as UTC (RFC 5322 4.3)')
  if (countFields(fields, 'message-id') === 0) defects.add('no Message-ID', 'RFC 5322 3.6.4 asks for one')
}

function messageId(field: string | undefined): string | null {
  const plain = withoutComments(field ?? '')
  const id = /<([^<>]+)>/.exec(plain)?.[1] ?? plain
  return id.replace(/\s+/g, '') || null
}
