import { and, eq } from 'drizzle-orm'
import type { Lane } from '#core'
import { isDatabaseAway, isDeadlock, mailDb, type Tx } from '../db/client'
import { attempts, copies, messages, sources } from '../db/schema'
import type { CopyRows, MessageRow } from './intake-rows'
import { storeDecision } from '../copies/stored-decisions'
import { takeIds } from '../db/row-ids'
import { searchColumn } from '../db/search'

/** A decided message, waiting to be kept. The rows are JSON, as the reading thread made them. */
export interface NewMail {
  contentHash: string
  messageJson: string
  /** In the order of the recipients. */
  copiesJson: readonly string[]
  /** The bytes where the message was taken; null where only its record is kept. */
  raw: Buffer | null
}

/** What became of one recipient's copy. */
export interface StoredMail {
  copyId: number
  /** The same message came before; nothing new was made. */
  repeat: boolean
  lane: Lane
}

interface Waiting {
  item: NewMail
  done: (kept: StoredMail[]) => void
  failed: (error: unknown) => void
}

/** Batches that are written at the same time, each on a connection of its own. */
const BATCH_SIZE = 3
const MAX_MESSAGES = 64
/** Larger messages are written one by one. */
const MAX_BYTES = 1024 * 1024

const waiting: Waiting[] = []
let writing = 0

/**
 * Keeps a message with its copies and decisions. What waits while others are written is committed together, in one statement
 * and one round trip. When this returns, nothing of it can be lost.
 */
export function storeMail(item: NewMail): Promise<StoredMail[]> {
  return new Promise((done, failed) => {
    waiting.push({ item, done, failed })
    if (writing < BATCH_SIZE) void write()
  })
}

async function write(): Promise<void> {
  writing++
  while (waiting.length) {
    const batch = nextBatch()
    if (batch.length === 1 && size(batch[0]!) > MAX_BYTES) await alone(batch[0]!)
    else await together(batch)
  }
  writing--
}

// The oldest, as many as fit; of two with one content the second waits for the next batch.
function nextBatch(): Waiting[] {
  const batch = [waiting.shift()!]
  const hashes = new Set([batch[0]!.item.contentHash])
  let bytes = size(batch[0]!)
  while (waiting.length && batch.length < MAX_MESSAGES) {
    const { item } = waiting[0]!
    bytes += size(waiting[0]!)
    if (bytes > MAX_BYTES || hashes.has(item.contentHash)) break
    hashes.add(item.contentHash)
    batch.push(waiting.shift()!)
  }
  return batch
}

function size({ item }: Waiting): number {
  return item.messageJson.length + (item.raw?.length ?? 0)
}

async function together(batch: Waiting[]): Promise<void> {
  // Always in one order: two batches, or two processes, with the same messages would otherwise wait for each other.
  batch.sort((a, b) => (a.item.contentHash < b.item.contentHash ? -1 : 1))
  try {
    const kept = await keepNew(batch.map(w => w.item))
    batch.forEach((w, i) => w.done(kept[i]!))
  }
  catch (error) {
    if (isDatabaseAway(error)) batch.forEach(w => w.failed(error))
    // One of them came before, or something about it is not as usual: each by itself, so that it harms no other.
    else for (const one of batch) await alone(one)
  }
}

async function alone({ item, done, failed }: Waiting): Promise<void> {
  try {
    done(await keepAny(item).catch(error => (isDeadlock(error) ? keepAny(item) : Promise.reject(error))))
  }
  catch (error) {
    failed(error)
  }
}

/*
 * $1  [{"id", "row": message, "at": where its bytes begin in $2, or null, "length"}]
 * $2  the bytes of all of them, one after the other
 * $3  [{"id": of the copy, "attemptId", "decisionId", "messageId", "rows": {"attempt", "copy", "decision", "claims"}}]
 * A message that is there already makes the rows that refer to it fail, and so all of it.
 */
const KEEP_NEW = `
with given as materialized (select * from jsonb_to_recordset($1::jsonb) as g(id bigint, "row" jsonb, "at" int, "length" int)),
  given_copies as materialized (select * from jsonb_to_recordset($3::jsonb) as g(id bigint, "attemptId" bigint, "decisionId" bigint,
    "messageId" bigint, rows jsonb)),
  made as (
    insert into messages (id, content_hash, message_id, subject, size, parser, facts, whole, sender_keys, list_id, search,
      search_version)
      overriding system value
    select g.id, "row"->>'contentHash', "row"->>'messageId', "row"->>'subject', ("row"->>'size')::int, ("row"->>'parser')::smallint,
      "row"->'facts', ("row"->>'whole')::bool,
      array(select jsonb_array_elements_text("row"->'senderKeys')), "row"->>'listId',
      array_to_tsvector(array(select jsonb_array_elements_text("row"->'words'))), ("row"->>'searchVersion')::smallint
    from given g),
  stored as (
    insert into sources (message_id, raw) select id, substring($2::bytea from "at" + 1 for "length") from given where "at" is not null),
  attempted as (
    insert into attempts (id, message_id, transaction, at, client, helo, mail_from, rcpt_to, tls, source, authentication, direction,
      first_hop, signed_in, defects, reply_code, reply) overriding system value
    select "attemptId", "messageId", a.transaction, a.at, a.client, a.helo, a."mailFrom", a."rcptTo", a.tls, a.source, a.authentication,
      a.direction, a."firstHop", a."signedIn", a.defects, a."replyCode", a.reply
    from given_copies, jsonb_to_record(rows->'attempt') as a(transaction uuid, at timestamptz, client text, helo text, "mailFrom" text,
      "rcptTo" text, tls bool, source text, authentication jsonb, direction text, "firstHop" text, "signedIn" text, defects jsonb,
      "replyCode" smallint, reply text)),
  copied as (
    insert into copies (id, message_id, attempt_id, decision_id, recipient, person_id, mailbox, lane, quarantine_id, erased, folder, filed,
      not_refused, lane_since, received_at, tags, important, sender_address, sender_domain, sender_name, verdict, subject, reason)
      overriding system value
    select id, "messageId", "attemptId", "decisionId", c.recipient, c."personId", c.mailbox, c.lane, c."quarantineId", c.erased, c.folder,
      c.filed, c."notRefused", c."laneSince", c."receivedAt", array(select jsonb_array_elements_text(c.tags)), c.important,
      c."senderAddress", c."senderDomain", c."senderName", c.verdict, c.subject, c.reason
    from given_copies, jsonb_to_record(rows->'copy') as c(recipient text, "personId" text, mailbox text, lane text, "quarantineId" text,
      erased bool, folder text, filed bool, "notRefused" bool, "laneSince" timestamptz, "receivedAt" timestamptz, tags jsonb,
      important bool, "senderAddress" text, "senderDomain" text, "senderName" text, verdict text, subject text, reason jsonb)),
  decided as (
    insert into decisions (id, copy_id, sequence, policy_version, decided_lane, final_lane, quarantine_id, effects, reasons, decided_by, at)
      overriding system value
    select "decisionId", id, 1, r."policyVersion", r."decidedLane", r."finalLane", r."quarantineId", r.effects, r.reasons,
      r."decidedBy", r.at
    from given_copies, jsonb_to_record(rows->'decision') as r("policyVersion" int, "decidedLane" text, "finalLane" text,
      "quarantineId" text, effects jsonb, reasons jsonb, "decidedBy" int, at timestamptz))
insert into decision_claims (decision_id, copy_id, clause_kind, clause_id, list_id, entry_id, outcome)
select "decisionId", id, k."clauseKind", k."clauseId", k."listId", k."entryId", k.outcome
from given_copies, jsonb_to_recordset(rows->'claims') as k("clauseKind" text, "clauseId" text, "listId" text, "entryId" text, outcome text)`

async function keepNew(items: readonly NewMail[]): Promise<StoredMail[][]> {
  const copyCount = items.reduce((sum, i) => sum + i.copiesJson.length, 0)
  const [messageIds, attemptIds, copyIds, decisionIds] = await Promise.all([
    takeIds('messages', items.length),
    takeIds('attempts', copyCount),
    takeIds('copies', copyCount),
    takeIds('decisions', copyCount),
  ])
  const kept: StoredMail[][] = []
  const given: string[] = []
  const copyRows: string[] = []
  const bytes: Buffer[] = []
  let at = 0
  for (const [i, { messageJson, copiesJson, raw }] of items.entries()) {
    given.push(`{"id":${messageIds[i]},"at":${raw ? at : null},"length":${raw?.length ?? 0},"row":${messageJson}}`)
    if (raw) bytes.push(raw)
    at += raw?.length ?? 0
    kept.push(
      copiesJson.map((rows) => {
        const n = copyRows.length
        copyRows.push(
          `{"id":${copyIds[n]},"attemptId":${attemptIds[n]},"decisionId":${decisionIds[n]},"messageId":${messageIds[i]},"rows":${rows}}`,
        )
        return { copyId: copyIds[n]!, repeat: false, lane: 'inbox' as const }
      }),
    )
  }
  await mailDb().$client.query({
    name: 'keep new mail',
    text: KEEP_NEW,
    values: [`[${given.join(',')}]`, Buffer.concat(bytes), `[${copyRows.join(',')}]`],
  })
  return kept
}

// Whatever may have come before: a repeat makes no second copy, and a refused one is decided afresh.
function keepAny({ messageJson, copiesJson, raw }: NewMail): Promise<StoredMail[]> {
  const message = JSON.parse(messageJson) as MessageRow
  return mailDb().transaction(async (tx) => {
    const messageId = await keepMessage(tx, message, raw)
    const rows = copiesJson.map((json, i) => ({ i, rows: JSON.parse(json) as CopyRows }))
    // Always in one order: two hand-overs of one message, their recipients in different order, would wait for each other.
    rows.sort((a, b) => (a.rows.copy.recipient < b.rows.copy.recipient ? -1 : 1))
    const out: StoredMail[] = []
    for (const { i, rows: own } of rows) out[i] = await keepCopy(tx, messageId, own)
    return out
  })
}

async function keepMessage(tx: Tx, { words, ...row }: MessageRow, raw: Buffer | null): Promise<number> {
  const message = { ...row, search: searchColumn(words) }
  const [made] = await tx
    .insert(messages)
    .values(message)
    .onConflictDoNothing({ target: messages.contentHash })
    .returning({ id: messages.id })
  const [there] = made ? [made] : await tx.select({ id: messages.id }).from(messages).where(eq(messages.contentHash, message.contentHash))
  if (raw) {
    const [stored] = await tx
      .insert(sources)
      .values({ messageId: there!.id, raw })
      .onConflictDoNothing()
      .returning({ id: sources.messageId })
    // It was refused or erased before, without its text; now it is taken.
    if (stored && !made) await tx.update(messages).set(message).where(eq(messages.id, there!.id))
  }
  return there!.id
}

async function keepCopy(tx: Tx, messageId: number, { attempt, copy, decision, claims }: CopyRows): Promise<StoredMail> {
  const [tried] = await tx
    .insert(attempts)
    .values({ ...attempt, at: new Date(attempt.at), messageId })
    .returning({ id: attempts.id })
  const state = { ...copy, laneSince: new Date(copy.laneSince), receivedAt: new Date(copy.receivedAt), attemptId: tried!.id, messageId }
  const [made] = await tx.insert(copies).values(state).onConflictDoNothing().returning({ id: copies.id })
  let copyId = made?.id
  if (copyId === undefined) {
    const [earlier] = await tx
      .select()
      .from(copies)
      .where(and(eq(copies.messageId, messageId), eq(copies.recipient, copy.recipient)))
      .for('update')
    if (earlier!.lane !== 'refused') return { copyId: earlier!.id, repeat: true, lane: earlier!.lane }
    copyId = earlier!.id
    await tx
      .update(copies)
      .set({ ...state, version: earlier!.version + 1 })
      .where(eq(copies.id, copyId))
  }
  await storeDecision(tx, copyId, decision, claims)
  return { copyId, repeat: false, lane: copy.lane }
}
