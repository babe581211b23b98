import { and, desc, eq, gt, inArray, sql, type SQL } from 'drizzle-orm'
import {
  canVerifySenders,
  decisionFor,
  isDelivered,
  isKeptHere,
  isUsualTime,
  personOwner,
  type Attempt,
  type Content,
  type Effect,
  type Reason,
} from '#core'
import { isDoubted } from '#core/review'
import { movedSentence, decisionSentence } from '#core/words'
import { deliveredBytes } from '#core/formats'
import { db } from '../db/client'
import { auditEventItems, auditEvents, attempts, copies, messages, people, decisions } from '../db/schema'
import { recordEvent } from '../audit/record'
import { actionsOn, type CopyActions, type OpenRequests } from '../access/copy-actions'
import { isOwn, visibleTo, type Copy } from '../access/copy-access'
import { shortReasonFor } from '../access/others-clauses'
import { wordsOfOthers, type OthersWords } from '../access/own-words'
import type { Actor } from '../access/roles'
import { activePolicy } from '../policy/active-policy'
import { readCursor, writtenCursor } from '../platform/cursor'
import { notFound, Problem } from '../platform/problem'
import { Slots } from '../platform/slots'
import { matching, type CopyFilter } from './copy-conditions'
import { htmlToShow } from './opened-html'
import { contentToShow, sourceOf } from '../intake/stored-message'
import { openRequestsFor } from '../requests/open-requests'
import { leavesAt, type KeptFor } from '../retention/leaves'

/** Which page of them. */
export interface CopyPage extends CopyFilter {
  cursor?: string
  limit: number
}

/** How many match: exactly, up to a number that nobody reads on from. */
export interface CopyCount {
  total: number
  /** There are more than `total`. */
  more: boolean
}

const MAX_COUNTED = 10_000

/** One line of the list of messages. */
export interface CopyView {
  id: number
  lane: Copy['lane']
  quarantine: string | null
  /** It was erased or discarded, and nothing but its record is left; which of the two. */
  gone: 'erased' | 'discarded' | null
  /** Delivered, and out of the inbox. */
  filed: boolean
  /** The folder of the inbox in which it is, or null. */
  folder: string | null
  recipient: string
  /** Whose it is, by name; the address of a mailbox that several share. */
  recipientName: string
  sender: string
  senderName: string
  subject: string
  /** What decided, in a few words. */
  reason: string
  movedBy: string | null
  receivedAt: string
  /** Bytes as received; null where only the log entry is kept. */
  size: number | null
  judgement: Copy['judgement']
  judgementStrength: Copy['judgementStrength']
  /** A clause refused it, and the message was accepted for another recipient. */
  notRefused: boolean
  tags: string[]
  important: boolean
  opened: boolean
  /** Its sender cannot be trusted to be the sender; see `isDoubted`. */
  doubted: boolean
  /** Somebody waits for an answer to the request for its release. */
  releaseRequested: boolean
  /** What the actor may do with it. */
  can: CopyActions
  version: number
}

/** Copies that match, newest first. `next` is the cursor of the page after this one, or null. How many there are is asked apart. */
export async function listCopies(actor: Actor, filter: CopyPage): Promise<{ items: CopyView[], next: string | null }> {
  const page = await db()
    .select(LINE)
    .from(copies)
    .where(and(await matching(actor, filter), afterCursor(filter.cursor)))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(filter.limit + 1)
  const rows = page.slice(0, filter.limit)
  const context = await lineContext(actor, rows)
  const items = rows.map(row => lineOf(context, row))
  const last = page.length > filter.limit ? page[filter.limit - 1]! : null
  return { items, next: last && writtenCursor([last.receivedAt.getTime(), last.id]) }
}

/** These copies, as far as the actor may see them, in this order. */
export async function linesOf(actor: Actor, ids: readonly number[]): Promise<CopyView[]> {
  if (!ids.length) return []
  const rows = await db()
    .select(LINE)
    .from(copies)
    .where(and(inArray(copies.id, [...ids]), visibleTo(actor)))
  const context = await lineContext(actor, rows)
  const byId = new Map(rows.map(row => [row.id, row]))
  return ids.flatMap(id => (byId.has(id) ? [lineOf(context, byId.get(id)!)] : []))
}

/** How many copies match. */
export async function countCopies(actor: Actor, filter: CopyFilter): Promise<CopyCount> {
  const some = db()
    .select({ one: sql`1` })
    .from(copies)
    .where(await matching(actor, filter))
    .limit(MAX_COUNTED + 1)
    .as('some')
  const [count] = await db()
    .select({ total: sql<number>`count(*)::int` })
    .from(some)
  return { total: Math.min(count!.total, MAX_COUNTED), more: count!.total > MAX_COUNTED }
}

const SIZE = sql<number | null>`(select m.size from messages m where m.id = copies.message_id)`
const LINE = {
  id: copies.id,
  lane: copies.lane,
  quarantineId: copies.quarantineId,
  erased: copies.erased,
  folder: copies.folder,
  recipient: copies.recipient,
  personId: copies.personId,
  mailbox: copies.mailbox,
  senderAddress: copies.senderAddress,
  senderName: copies.senderName,
  verdict: copies.verdict,
  subject: copies.subject,
  reason: copies.reason,
  filed: copies.filed,
  notRefused: copies.notRefused,
  movedBy: copies.movedBy,
  receivedAt: copies.receivedAt,
  size: SIZE,
  judgement: copies.judgement,
  judgementStrength: copies.judgementStrength,
  tags: copies.tags,
  important: copies.important,
  firstOpenedAt: copies.firstOpenedAt,
  version: copies.version,
}

/** What lines need besides their rows. */
interface LineContext {
  actor: Actor
  /** Names by the id of the person. */
  names: ReadonlyMap<string, string>
  others: OthersWords
  canVerify: boolean
  requestsFor: (copy: { id: number }) => OpenRequests
}

async function lineContext(actor: Actor, rows: readonly { id: number }[]): Promise<LineContext> {
  const { policy } = await activePolicy()
  return {
    actor,
    names: new Map(policy.people.map(p => [p.id, p.name])),
    others: await wordsOfOthers(actor),
    canVerify: canVerifySenders(policy),
    requestsFor: await openRequestsFor(db(), actor, rows),
  }
}

type Line = Pick<Copy, Exclude<keyof typeof LINE, 'size'>> & { size: number | null }

function lineOf({ actor, names, others, canVerify, requestsFor }: LineContext, row: Line): CopyView {
  // What a colleague's own rule says of their mail is theirs, whoever may see the mail.
  const own = isOwn(actor, row)
  const folder = row.lane === 'inbox' ? row.folder : null
  return {
    id: row.id,
    lane: row.lane,
    quarantine: row.quarantineId,
    gone: row.lane === 'discarded' ? (row.erased ? 'erased' : 'discarded') : null,
    folder: folder !== null && !own && others.folders.has(folder) ? null : folder,
    filed: row.lane === 'inbox' && row.filed,
    recipient: row.recipient,
    recipientName: (row.personId === null ? undefined : names.get(row.personId)) ?? row.recipient,
    sender: row.senderAddress,
    senderName: row.senderName,
    subject: row.subject,
    reason: row.movedBy ? `moved by ${row.movedBy}` : shortReasonFor(actor, row.reason),
    movedBy: row.movedBy,
    receivedAt: row.receivedAt.toISOString(),
    size: row.size,
    judgement: row.judgement,
    judgementStrength: row.judgementStrength,
    notRefused: row.notRefused,
    tags: own ? row.tags : row.tags.filter(tag => !others.tags.has(tag)),
    important: row.important,
    opened: row.firstOpenedAt !== null,
    doubted: isDoubted(row.verdict, canVerify),
    releaseRequested: requestsFor(row).any,
    can: actionsOn(actor, row, requestsFor(row)),
    version: row.version,
  }
}

function afterCursor(cursor: string | undefined): SQL | undefined {
  if (!cursor) return undefined
  const [at, id] = readCursor(cursor, isUsualTime)
  return sql`(${copies.receivedAt}, ${copies.id}) < (${new Date(at)}, ${id})`
}

export interface CopyDetail extends CopyView {
  laneSince: string
  /** When it leaves by itself the place where it is; null is never. */
  leaves: string | null
  person: { id: string, name: string } | null
  facts: Omit<Content, 'parser'> & {
    attempt: Omit<Attempt, 'envelope' | 'envelopeSender'> & {
      mailFrom: string | null
      helo: string | null
      tls: boolean
      at: string
      source: string
    }
  }
  decision: {
    policyVersion: number
    lane: string
    quarantine: string | null
    decidedBy: number | null
    effects: Effect[]
    at: string
  } | null
  reasons: Reason[]
  /** Why, in one sentence. */
  sentence: string
  html: string | null
  history: { eventId: number, at: string, by: string | null, kind: string, detail: Record<string, unknown>, undone: boolean }[]
}

/** A costly one keeps a thread for seconds: its recipient can open another one meanwhile, and there is a third thread for the others. */
const opening = new Slots(2)

/** One copy with everything that is known of it. Opening somebody else's mail goes on record. */
export async function openCopy(actor: Actor, id: number, retention: KeptFor): Promise<CopyDetail> {
  const copy = await findCopy(actor, id)
  const [message] = await db().select().from(messages).where(eq(messages.id, copy.messageId))
  const [attempt] = await db().select().from(attempts).where(eq(attempts.id, copy.attemptId))
  const [decision] = copy.decisionId === null ? [] : await db().select().from(decisions).where(eq(decisions.id, copy.decisionId))
  const [person] =
    copy.personId === null ? [] : await db().select({ id: people.id, name: people.name }).from(people).where(eq(people.id, copy.personId))
  await recordOpening(actor, copy)
  const { policy } = await activePolicy()
  const { parser: _, ...facts } = await contentToShow(message!)
  const seen = decision ? decisionFor(personOwner(actor.id), { ...decision, place: null, stop: null }) : null
  return {
    ...lineOf(await lineContext(actor, [copy]), { ...copy, size: message!.size }),
    laneSince: copy.laneSince.toISOString(),
    leaves: await leavesAt(copy, retention),
    person: person ?? null,
    facts: {
      ...facts,
      attempt: {
        client: attempt!.client,
        authentication: attempt!.authentication ?? { verdict: 'none', by: '', saidBy: null },
        direction: (attempt!.direction ?? 'inbound') as Attempt['direction'],
        defects: attempt!.defects ?? [],
        mailFrom: attempt!.mailFrom,
        helo: attempt!.helo,
        tls: attempt!.tls,
        at: attempt!.at.toISOString(),
        source: attempt!.source,
      },
    },
    decision: seen && {
      policyVersion: seen.policyVersion,
      lane: seen.finalLane,
      quarantine: seen.quarantineId,
      decidedBy: seen.decidedBy,
      effects: seen.effects,
      at: seen.at.toISOString(),
    },
    reasons: seen?.reasons ?? [],
    sentence: movedSentence(
      copy,
      seen
        ? decisionSentence(
            { lane: seen.finalLane as Copy['lane'], quarantine: seen.quarantineId, reasons: seen.reasons, decidedBy: seen.decidedBy },
            policy,
          )
        : 'No decision was made for this message.',
      policy,
    ),
    html: await opening.take(actor.id, () => htmlToShow(copy.messageId)),
    history: await historyOf(copy.id, isOwn(actor, copy)),
  }
}

/**
 * The bytes as they were received, with the headers and the subject mark that the decision put on this copy.
 * @throws 410 where they are not kept any more
 */
export async function copySource(actor: Actor, id: number): Promise<Buffer> {
  const copy = await findCopy(actor, id)
  const isHere = isKeptHere(copy.lane) || isDelivered(copy.lane)
  const source = isHere ? await sourceOf(copy.messageId) : null
  if (!source)
    throw new Problem(
      410,
      'No longer kept',
      'This message was refused or deleted permanently. Only its log entry is left, not its source.',
    )
  await recordOpening(actor, copy)
  const [decision] =
    copy.decisionId === null
      ? []
      : await db().select({ effects: decisions.effects }).from(decisions).where(eq(decisions.id, copy.decisionId))
  return Buffer.from(deliveredBytes(source, decision?.effects ?? []))
}

/** One copy. @throws where there is none of that number, or it is not theirs to see */
export async function findCopy(actor: Actor, id: number): Promise<Copy> {
  const [copy] = await db()
    .select()
    .from(copies)
    .where(and(eq(copies.id, id), visibleTo(actor)))
  if (!copy) throw notFound('This message')
  return copy
}

/** Milliseconds within which opening once more is the same look. */
const ONE_LOOK = 10 * 60_000

async function recordOpening(actor: Actor, copy: Copy): Promise<void> {
  if (isOwn(actor, copy)) {
    if (!copy.firstOpenedAt) await db().update(copies).set({ firstOpenedAt: new Date() }).where(eq(copies.id, copy.id))
    return
  }
  await db().transaction(async (tx) => {
    // Two looks at the same time would each not see the other: they are put on record one after the other.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext(${`opened ${copy.id} ${actor.id}`}))`)
    // Shown anew after an event is the same look; twice in ten minutes is one.
    const [lately] = await tx
      .select({ id: auditEvents.id })
      .from(auditEventItems)
      .innerJoin(auditEvents, eq(auditEvents.id, auditEventItems.eventId))
      .where(
        and(
          eq(auditEventItems.copyId, copy.id),
          eq(auditEvents.personId, actor.id),
          eq(auditEvents.kind, 'opened'),
          gt(auditEvents.at, new Date(Date.now() - ONE_LOOK)),
        ),
      )
      .limit(1)
    if (lately) return
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind: 'opened',
      detail: { whose: copy.personId ?? copy.mailbox, recipient: copy.recipient },
    })
    await tx.insert(auditEventItems).values({ eventId: eventId, copyId: copy.id })
  })
}

const SHOWN_KINDS = ['moved', 'released', 'binned', 'marked', 'changed', 'applied', 'undone']

/** @param own who opened it besides is told to whom it belongs */
async function historyOf(copyId: number, own: boolean): Promise<CopyDetail['history']> {
  const rows = await db()
    .select({
      eventId: auditEvents.id,
      at: auditEvents.at,
      by: people.name,
      kind: auditEvents.kind,
      detail: auditEvents.detail,
      undone: sql<boolean>`exists (select 1 from audit_events u where u.undoes = ${auditEvents.id})`,
    })
    .from(auditEventItems)
    .innerJoin(auditEvents, eq(auditEvents.id, auditEventItems.eventId))
    .leftJoin(people, eq(people.id, auditEvents.personId))
    .where(and(eq(auditEventItems.copyId, copyId), inArray(auditEvents.kind, [...SHOWN_KINDS, ...(own ? ['opened'] : [])])))
    .orderBy(desc(auditEvents.id))
    .limit(50)
  return rows.map(r => ({ ...r, at: r.at.toISOString() }))
}
