import { readFile } from 'node:fs/promises'
import { parse } from 'csv-parse/sync'
import { makeAddress, parseContent, peopleOf, readAttempt, type IndexedPolicy, type Message } from '#core'
import { looksLikeMbox, readMbox } from '#core/formats'
import { deliveredTo, fileTrace } from '#core/message'
import { complain, Complaint } from './complaint'
import { eachFile } from './files'

export type Judgement = 'wanted' | 'unwanted'

/** One copy of a message in a file, as far as a file says of it. */
export interface FileCopy {
  name: string
  message: Message
  recipient: string
}

/** For whom messages of files are, and what of them is believed. */
export interface FileOptions {
  /** The recipient; else the messages say. */
  said: string | undefined
  /** Their Received fields are believed, and with them what trusted relays say of their senders. */
  trustReceived: boolean
}

/** What people said of copies, by message and recipient. */
export type Marks = ReadonlyMap<string, Judgement>

/**
 * Each copy of the messages in files and mbox files (RFC 4155).
 * @returns so many messages were for nobody of the policy
 */
export async function eachCopy(
  files: readonly string[],
  { indexed, ...of }: { indexed: IndexedPolicy } & FileOptions,
  look: (copy: FileCopy) => void,
): Promise<number> {
  let forNobody = 0
  await eachFile([...files], async (bytes, file) => {
    for (const one of messagesIn(bytes, file)) {
      const found = await copiesOf(one, indexed, of).catch((error: unknown) => void complain(one.name, error))
      if (!found?.length) forNobody++
      for (const copy of found ?? []) look(copy)
    }
  })
  return forNobody
}

function* messagesIn(bytes: Uint8Array, file: string): Generator<{ bytes: Uint8Array, name: string }> {
  if (!looksLikeMbox(bytes)) return yield { bytes, name: file }
  let number = 0
  for (const { message } of readMbox(bytes)) yield { bytes: message, name: `${file}#${++number}` }
}

async function copiesOf(
  { bytes, name }: { bytes: Uint8Array, name: string },
  { compiled }: IndexedPolicy,
  { said, trustReceived }: FileOptions,
): Promise<FileCopy[]> {
  const content = await parseContent(bytes)
  const recipients = said === undefined ? deliveredTo(content.headers) : [said]
  const ours = said === undefined ? recipients.filter(r => peopleOf(compiled, makeAddress(r)).length) : recipients
  const trace = fileTrace(content.headers)
  return [...new Set(ours)].map((recipient) => {
    const envelope = {
      mailFrom: trace.mailFrom,
      rcptTo: [recipient],
      client: trustReceived ? trace.client : null,
      helo: null,
      tls: false,
      user: null,
      receivedAt: (trustReceived ? trace.receivedAt : content.date) ?? new Date(0).toISOString(),
    }
    return { name, recipient, message: { content, attempt: readAttempt(content, envelope, compiled.policy.trust) } }
  })
}

/** What people said, from CSV: message-id, judgement, and recipient where that matters. */
export async function judgementsFrom(file: string): Promise<Marks> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new Complaint(`${file} cannot be read.`)
  })
  let rows: Record<string, string>[]
  try {
    const columns = (names: string[]) => names.map(n => n.trim().toLowerCase())
    rows = parse(text, { columns, bom: true, trim: true, skip_empty_lines: true })
  }
  catch (error) {
    throw new Complaint(`${file} is not CSV: ${error instanceof Error ? error.message : String(error)}`)
  }
  const out = new Map<string, Judgement>()
  for (const [i, row] of rows.entries()) {
    const { 'message-id': id, judgement, recipient = '' } = row
    if (!id || (judgement !== 'wanted' && judgement !== 'unwanted'))
      throw new Complaint(`${file}, line ${i + 2}: expected a message-id and “wanted” or “unwanted”.`)
    out.set(keyOf(id, recipient), judgement)
  }
  return out
}

/** What was said of a copy, or null. */
export function judgementOf(marked: Marks, { content }: Message, recipient: string): Judgement | null {
  const id = content.messageId ?? ''
  return marked.get(keyOf(id, recipient)) ?? marked.get(keyOf(id, '')) ?? null
}

function keyOf(id: string, recipient: string): string {
  return `${id.replace(/^<|>$/g, '')} ${recipient ? makeAddress(recipient).key : ''}`
}
