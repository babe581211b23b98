import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { fileTypeFromBuffer } from 'file-type/core'
import { makeAddress, type Address } from '../address'
import { differingLines } from './alternatives'
import { attachmentText } from './attachment-text'
import { verdictFor } from './authentication'
import { readBodies, type RawAttachment } from './bodies'
import { withoutComments } from './comments'
import { decodeSafely } from './encoded-words'
import { countFields, decodedFields, listIdentity, markedImportant, readDate, upstreamMark } from './facts'
import { htmlText } from './html-text'
import { mailboxes } from './mailboxes'
import { plainLinks, splitQuoted } from './plain-text'
import { DefectList, fieldValue, scanStructure, type RawField } from './structure'
import { inNetwork, normaliseIp, walkTrace } from './trace'
import { PARSER_VERSION, type Attachment, type Attempt, type Content, type DefectCode, type Direction, type Envelope, type Link, type Message, type Segment, type Trust } from './types'

/** How much of a message is read. */
export interface ReadOptions {
  /** Documents are not opened: a second attempt, after one of them took too long. */
  closedDocuments?: boolean
}

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
export async function parseContent(bytes: Uint8Array, options: ReadOptions = {}): Promise<Content> {
  const structure = scanStructure(bytes)
  const defects = new DefectList()
  for (const defect of structure.defects) defects.add(defect.code, defect.detail)
  const { fields } = structure
  const bodies = await readBodies(bytes, structure, defects)
  if (bytes.includes(0)) defects.add('NUL bytes', 'the message holds bytes of value zero')
  const date = readDate(fieldValue(fields, 'date'))
  const from = mailboxes(fields, 'from')
  headerDefects(fields, from, date, defects)
  const subject = decodeSafely(fieldValue(fields, 'subject') ?? '')
  const { segments, links } = readText(bodies.html, bodies.text)
  const attachments: Attachment[] = []
  for (const raw of bodies.attachments) attachments.push(await readAttachment(raw, options, defects))
  const senders = mailboxes(fields, 'sender')
  return {
    parser: PARSER_VERSION,
    hash: bytesToHex(sha256(bytes)),
    size: bytes.length,
    messageId: messageId(fieldValue(fields, 'message-id')),
    date,
    from,
    fromFields: countFields(fields, 'from'),
    sender: senders[0] ?? null,
    replyTo: mailboxes(fields, 'reply-to'),
    to: mailboxes(fields, 'to'),
    cc: mailboxes(fields, 'cc'),
    subject,
    segments: [{ place: 'subject', text: subject }, ...segments],
    headers: decodedFields(fields),
    list: listIdentity(fields),
    links,
    attachments,
    important: markedImportant(fields),
    upstreamMark: upstreamMark(fields, subject),
    defects: defects.list,
  }
}

/** What the handing-over says about the same content; cheap, so that it can be done again without the bytes. */
export function readAttempt(content: Content, envelope: Envelope, trust: Trust): Attempt {
  const fields = content.headers.map(h => ({ name: h.name, value: h.raw }))
  const { said, client } = walkTrace(fields, envelope.client, trust)
  const from = content.fromFields === 1 && content.from.length === 1 ? content.from[0]! : null
  const direction = directionOf(envelope, trust)
  const defects = new DefectList()
  const ours = content.from.find(a => trust.ownDomains.includes(a.domain))
  if (ours && direction === 'inbound') defects.add('claims own domain', ours.key)
  return {
    envelope,
    envelopeSender: envelope.mailFrom ? makeAddress(envelope.mailFrom) : null,
    client,
    authentication: verdictFor(from, said),
    direction,
    defects: defects.list,
  }
}

// Outbound or internal only for those who signed in or connect from a network of ours; loopback is none unless named.
function directionOf(envelope: Envelope, trust: Trust): Direction {
  const ip = normaliseIp(envelope.client)
  const ownClient = envelope.user !== null || (ip !== null && trust.ownNetworks.some(n => inNetwork(ip, n)))
  if (!ownClient) return 'inbound'
  return envelope.rcptTo.every(r => trust.ownDomains.includes(makeAddress(r).domain)) ? 'internal' : 'outbound'
}

function readText(html: string | null, text: string | null): { segments: Segment[], links: Link[] } {
  if (html !== null && html.trim()) {
    const read = htmlText(html)
    const other = text === null ? '' : differingLines(text, read.segments, read.links)
    return other ? { ...read, segments: [...read.segments, { place: 'hidden', text: other }] } : read
  }
  const plain = (text ?? '').replace(/\r\n?/g, '\n')
  return { segments: splitQuoted(plain), links: plainLinks(plain) }
}

function headerDefects(fields: readonly RawField[], from: readonly Address[], date: string | null, defects: DefectList): void {
  const repeated: [string, DefectCode][] = [['from', 'two From fields'], ['subject', 'two Subject fields'], ['date', 'two Date fields'], ['message-id', 'two Message-ID fields'], ['to', 'two To fields']]
  for (const [name, code] of repeated) {
    const count = countFields(fields, name)
    if (count > 1) defects.add(code, `${count} fields where RFC 5322 3.6 allows one`)
  }
  if (countFields(fields, 'from') === 0) defects.add('no From', 'RFC 5322 3.6 requires one')
  else if (from.length === 0) defects.add('unreadable From', fieldValue(fields, 'from')?.slice(0, 200) ?? '')
  else if (from.length > 1) defects.add('several mailboxes in From', from.slice(0, 5).map(a => a.key).join(', '))
  if (countFields(fields, 'date') === 0) defects.add('no Date', 'RFC 5322 3.6 requires one')
  else if (date === null) defects.add('unreadable Date', fieldValue(fields, 'date')?.slice(0, 200) ?? '')
  if (countFields(fields, 'message-id') === 0) defects.add('no Message-ID', 'RFC 5322 3.6.4 asks for one')
}

function messageId(field: string | undefined): string | null {
  const plain = withoutComments(field ?? '')
  const id = /<([^<>]+)>/.exec(plain)?.[1] ?? plain
  return id.replace(/\s+/g, '') || null
}

async function readAttachment(raw: RawAttachment, { closedDocuments }: ReadOptions, defects: DefectList): Promise<Attachment> {
  const detected = await detectedType(raw.bytes)
  const { text, unreadable } = await attachmentText(raw.bytes, raw.type, detected, raw.name, closedDocuments)
  if (unreadable) defects.add('attachment not readable', `${raw.name || 'an attachment'}: ${unreadable}`)
  return {
    name: raw.name,
    declaredType: raw.type,
    detectedType: detected,
    size: raw.bytes.length,
    sha256: bytesToHex(sha256(raw.bytes)),
    ...(text === null ? {} : { text }),
  }
}

async function detectedType(bytes: Uint8Array): Promise<string | null> {
  try {
    return (await fileTypeFromBuffer(bytes))?.mime ?? null
  }
  catch {
    return null // cut short in the middle of a signature: its bytes say nothing
  }
}
