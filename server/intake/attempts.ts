import { and, desc, eq, gte, ilike, inArray, isNull, lt, or, sql, type SQL } from 'drizzle-orm'
import { makeAddress, type Lane } from '#core'
import { attemptsText, withVisibleControls, type AttemptReport, type Audience, LANE_NAMES } from '#core/words'
import { visibleTo, type Copy } from '../access/copy-access'
import { sentenceFor } from '../access/others-clauses'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { auditEventItems, auditEvents, attempts, copies, people, decisions } from '../db/schema'
import { literally } from '../db/asking'
import { setting, TIME_ZONE } from '../db/settings'
import { invalid } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'

/** Which attempts are asked for. */
export interface AttemptQuery {
  /** An address, or part of one: as it stood in the envelope, or in From. */
  sender?: string
  recipient?: string
  /** Each in sender, recipient or subject. */
  words?: string
  /** The last thirty days, unless said. */
  after?: Date
  before?: Date
  /** Id of the last one of the page before. */
  cursor?: number
  limit: number
}

/** One attempt with what became of it. */
export interface AttemptView extends AttemptReport {
  id: number
  /** The copy that it made, where there is one that can be opened. */
  copyId: number | null
}

const DAYS = 30
const DAY = 24 * 3600_000

/** Tries to hand over a message, accepted or not, the newest first: everybody's for who sees that, else those for one's own addresses. */
export async function listAttempts(
  actor: Actor,
  query: AttemptQuery,
): Promise<{ items: AttemptView[], next: number | null, after: string, before: string }> {
  const before = query.before ?? new Date()
  const after = query.after ?? new Date(before.getTime() - DAYS * DAY)
  if (after >= before) throw invalid('The period ends before it begins.', { before: 'Choose a later end date.' })
  const rows = await db()
    .select({ attempt: attempts, copy: copies, decision: decisions })
    .from(attempts)
    .leftJoin(copies, and(eq(copies.messageId, attempts.messageId), eq(copies.recipient, attempts.rcptTo)))
    .leftJoin(decisions, and(eq(decisions.id, copies.decisionId), eq(copies.attemptId, attempts.id)))
    .where(
      and(
        visibleAttempts(actor),
        // What became a message that the actor does not see is as if it had never come.
        or(isNull(copies.id), visibleTo(actor) ?? sql`true`),
        gte(attempts.at, after),
        lt(attempts.at, before),
        query.sender ? or(like(attempts.mailFrom, query.sender), like(copies.senderAddress, query.sender)) : undefined,
        query.recipient ? like(attempts.rcptTo, query.recipient) : undefined,
        ...wordsIn(query.words),
        query.cursor === undefined
          ? undefined
          : sql`(${attempts.at}, ${attempts.id}) < (select at, id from attempts where id = ${query.cursor})`,
      ),
    )
    .orderBy(desc(attempts.at), desc(attempts.id))
    .limit(query.limit + 1)
  const shown = rows.slice(0, query.limit)
  const onward = await doneSince(shown.flatMap(r => (r.copy ? [r.copy.id] : [])))
  const { policy } = await activePolicy()
  return {
    after: after.toISOString(),
    before: before.toISOString(),
    next: rows.length > query.limit ? shown.at(-1)!.attempt.id : null,
    items: shown.map(({ attempt, copy, decision }) => {
      const own = copy !== null && copy.attemptId === attempt.id
      return {
        id: attempt.id,
        at: attempt.at.toISOString(),
        client: attempt.client,
        mailFrom: attempt.mailFrom,
        from: copy?.senderAddress || null,
        rcptTo: attempt.rcptTo,
        subject: copy?.subject ? withVisibleControls(copy.subject) : null,
        replyCode: attempt.replyCode,
        reply: withVisibleControls(attempt.reply),
        repeat: copy !== null && !own,
        copyId: copy?.id ?? null,
        copy: copy && {
          lane: copy.lane,
          quarantine: copy.quarantineId,
          ...(copy.lane === 'inbox' && copy.filed ? { filed: true } : {}),
          gone: copy.lane === 'discarded' ? (copy.erased ? ('erased' as const) : ('discarded' as const)) : null,
        },
        sentence: decision
          ? sentenceFor(actor, { ...decision, lane: decision.finalLane as Copy['lane'], quarantine: decision.quarantineId }, policy)
          : null,
        onward: own ? (onward.get(copy.id) ?? []) : [],
      }
    }),
  }
}

/** The same as plain text to pass on. @param audience the text for an outside sender is short, without names of rules and people */
export async function attemptsAsText(actor: Actor, query: AttemptQuery, audience: Audience): Promise<string> {
  const { items, after, before } = await listAttempts(actor, query)
  const { policy } = await activePolicy()
  const timeZone = await setting(TIME_ZONE, 'UTC')
  return attemptsText({ sender: query.sender, recipient: query.recipient, after, before, timeZone, audience }, items, policy)
}

function visibleAttempts(actor: Actor): SQL | undefined {
  if (can(actor, 'read all mail')) return undefined
  const own = actor.addresses.map((address) => {
    const { local, domain, key } = makeAddress(address)
    // With a tag too (RFC 5233).
    return or(eq(attempts.rcptTo, key), ilike(attempts.rcptTo, `${literally(local)}+%@${literally(domain)}`))
  })
  return own.length ? or(...own) : sql`false`
}

function wordsIn(words = ''): (SQL | undefined)[] {
  return words.split(/\s+/).filter(Boolean).map((word) => {
    const part = `%${literally(word)}%`
    return or(...[attempts.mailFrom, copies.senderAddress, attempts.rcptTo, copies.subject].map(column => ilike(column, part)))
  })
}

function like(column: typeof attempts.mailFrom | typeof attempts.rcptTo | typeof copies.senderAddress, asked: string): SQL {
  const address = makeAddress(asked)
  return address.local && address.domain ? eq(column, address.key) : ilike(column, `%${literally(asked)}%`)
}

async function doneSince(copyIds: readonly number[]): Promise<Map<number, { at: string, words: string }[]>> {
  const out = new Map<number, { at: string, words: string }[]>()
  if (!copyIds.length) return out
  const rows = await db()
    .select({ copyId: auditEventItems.copyId, at: auditEvents.at, by: people.name, kind: auditEvents.kind, detail: auditEvents.detail })
    .from(auditEventItems)
    .innerJoin(auditEvents, eq(auditEvents.id, auditEventItems.eventId))
    .leftJoin(people, eq(people.id, auditEvents.personId))
    .where(and(inArray(auditEventItems.copyId, [...copyIds]), inArray(auditEvents.kind, ['moved', 'released', 'undone'])))
    .orderBy(auditEvents.id)
  for (const { copyId, at, by, kind, detail } of rows) {
    const what = kind === 'undone' ? 'undid that' : `${kind} it to ${LANE_NAMES[detail.lane as Lane]}`
    out.set(copyId, [...(out.get(copyId) ?? []), { at: at.toISOString(), words: `${by ?? 'a deactivated user'} ${what}` }])
  }
  return out
}
