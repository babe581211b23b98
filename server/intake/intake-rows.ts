import isSame from 'fast-deep-equal'
import { senderKeys, type Content, type FinalDecision, type Message } from '#core'
import { SEARCH_VERSION, WordCollector } from '#core/text'
import { ANY_WORD } from '../db/search'
import { cleanJson, cleanText, indexKey } from '../platform/clean-text'
import { claimsOf, decisionRow, stateByDecision } from '../copies/decision-rows'

/** From where mail comes in. */
export type Source = 'smtp' | 'import' | 'demo'

/** UTF-16 units of the words of a message, all together: a tsvector holds under 1 MiB, and each of them is a row of its index. */
const MAX_WORDS = 128_000
const STORED_TEXT = 256 * 1024
const STORED_HEADERS = 200
const STORED_ATTACHMENTS = 200
/** Names of files inside an archive. */
const STORED_NAMES = 100

/** How one handing-over ends, for its record. */
export interface HandedOver {
  /** The same for every recipient of one handing-over. */
  transaction: string
  source: Source
  reply: { code: number, text: string }
}

/** What is stored of a message, as plain data; times are ISO 8601 instants. */
export type MessageRow = ReturnType<typeof messageRow>
/** What is stored of one recipient's copy, with its attempt and its decision. */
export type CopyRows = ReturnType<typeof copyRows>

/**
 * A message's row. Refused and erased mail keeps its envelope facts; discarded mail not even its subject.
 * @param kept it lies somewhere, and not only on record
 */
export function messageRow(whole: Content, kept: boolean, withSubject: boolean) {
  const content = kept
    ? whole
    : { ...whole, subject: withSubject ? whole.subject : '', segments: [], headers: [], links: [], attachments: [] }
  const facts = cleanJson(storedContent(content))
  return {
    contentHash: content.hash,
    messageId: content.messageId === null ? null : indexKey(content.messageId),
    subject: cleanText(content.subject).slice(0, 4000),
    size: content.size,
    parser: content.parser,
    facts,
    whole: isSame(facts, whole),
    senderKeys: keysOf(content),
    listId: content.list.id === null ? null : indexKey(content.list.id),
    words: searchedWords(content),
    searchVersion: SEARCH_VERSION,
  }
}

/** Stands among the keys of a message that has more senders than are kept. */
export const MORE_SENDERS = 'more'
const MAX_KEYS = 200

// Under what From and Sender are found; the envelope is the attempt's.
function keysOf({ from, sender }: Content): string[] {
  const keys = [...new Set([...from, ...(sender ? [sender] : [])].flatMap(senderKeys).map(indexKey))]
  return keys.length > MAX_KEYS ? [...keys.slice(0, MAX_KEYS - 1), MORE_SENDERS] : keys
}

/** Whose a copy is: one person's, or the mailbox that several share. */
export interface Whose {
  personId: string | null
  mailbox: string | null
}

/** The rows of one recipient's copy. */
export function copyRows(
  message: Message,
  decision: FinalDecision,
  { personId, mailbox }: Whose,
  { transaction, source, reply }: HandedOver,
) {
  const { attempt, content } = message
  const { envelope } = attempt
  const sender = content.from[0] ?? attempt.envelopeSender
  const recipient = indexKey(decision.recipient)
  return {
    attempt: {
      transaction,
      at: envelope.receivedAt,
      client: attempt.client ?? envelope.client,
      helo: textOrNull(envelope.helo),
      mailFrom: textOrNull(envelope.mailFrom),
      rcptTo: recipient,
      tls: envelope.tls,
      source,
      authentication: cleanJson(attempt.authentication),
      direction: decision.direction,
      firstHop: attempt.client ?? '',
      signedIn: textOrNull(envelope.user),
      defects: cleanJson(attempt.defects),
      replyCode: reply.code,
      reply: cleanText(reply.text),
    },
    copy: {
      ...stateByDecision(decision, content),
      recipient,
      personId,
      mailbox: textOrNull(mailbox),
      laneSince: envelope.receivedAt,
      receivedAt: envelope.receivedAt,
      senderAddress: indexKey(sender?.key ?? ''),
      senderDomain: indexKey(sender?.domain ?? ''),
      senderName: indexKey(sender?.name ?? ''),
      verdict: attempt.authentication.verdict,
    },
    decision: decisionRow(decision, envelope.receivedAt),
    claims: claimsOf(decision),
  }
}

export function textOrNull(text: string | null): string | null {
  return text === null ? null : indexKey(text)
}

/** The facts as they are stored: what is long is cut, and the source keeps everything. */
export function storedContent(content: Content): Content {
  let room = STORED_TEXT
  const cut = (text: string) => {
    const kept = text.slice(0, Math.max(0, room))
    room -= kept.length
    return kept
  }
  return {
    ...content,
    segments: content.segments.map(s => ({ ...s, text: cut(s.text) })),
    headers: content.headers
      .slice(0, STORED_HEADERS)
      .map(h => ({ name: h.name, raw: h.raw.slice(0, 4000), value: h.value.slice(0, 4000) })),
    to: content.to.slice(0, 100),
    cc: content.cc.slice(0, 100),
    links: content.links.slice(0, 100).map(l => ({ target: l.target.slice(0, 2000), text: l.text.slice(0, 500) })),
    attachments: content.attachments.slice(0, STORED_ATTACHMENTS).map(a => ({
      ...a,
      ...(a.text === undefined ? {} : { text: cut(a.text) }),
      ...(a.inside === undefined ? {} : { inside: a.inside.slice(0, STORED_NAMES) }),
    })),
  }
}

/** The words by which a message is found: in Mail, and where a phrase may stand in it. */
export function searchedWords({ subject, segments, from, replyTo, attachments }: Pick<Content, SearchedPart>): string[] {
  const collector = new WordCollector(MAX_WORDS)
  collector.add(subject)
  for (const { name, local, domainUnicode } of [...from, ...replyTo]) collector.add(`${name} ${local} ${domainUnicode}`)
  for (const { name, inside } of attachments) for (const file of [name, ...(inside ?? [])]) collector.add(file)
  for (const { text } of segments) collector.add(text)
  return [...[...collector.words].map(cleanText), ...(collector.isOdd ? [ANY_WORD] : [])]
}

type SearchedPart = 'subject' | 'segments' | 'from' | 'replyTo' | 'attachments'
