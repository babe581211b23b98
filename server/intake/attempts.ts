import { and, desc, eq, gte, ilike, inArray, isNull, lt, or, sql, type SQL } from 'drizzle-orm'
import { makeAddress } from '#core'
import { attemptsText, withVisibleControls, type ToldAttempt } from '#core/words'
import { visibleTo, type Copy } from '../access/copy-access'
import { sentenceFor } from '../access/others-clauses'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { actItems, acts, attempts, copies, people, rulings } from '../db/schema'
import { literally } from '../db/asking'
import { setting, TIME_ZONE } from '../db/settings'
import { invalid } from '../platform/problem'
import { policyInForce } from '../policy/active-policy'

/** Which attempts are asked for. */
export interface AttemptQuery {
  /** An address, or part of one: as it stood in the envelope, or in From. */
  sender?: string
  recipient?: string
  /** The last thirty days, unless said. */
  after?: Date
  before?: Date
  /** Id of the last one of the page before. */
  cursor?: number
  limit: number
}

/** One attempt with what became of it. */
export interface AttemptLine extends ToldAttempt {
  id: number
  /** The copy that it made, where there is one that can be opened. */
  copyId: number | null
}

const DAYS = 30
const DAY = 24 * 3600_000

/** Tries to hand over a message, accepted or not, the newest first: everybody's for who sees that, else those for one's own addresses. */
export async function listAttempts(
  asker: Asker,
  query: AttemptQuery,
): Promise<{ items: AttemptLine[], next: number | null, after: string, before: string }> {
  const before = query.before ?? new Date()
  const after = query.after ?? new Date(before.getTime() - DAYS * DAY)
  if (after >= before) throw invalid('The time asked for ends before it begins.', { before: 'Choose a later day.' })
  const rows = await db()
    .select({ attempt: attempts, copy: copies, ruling: rulings })
    .from(attempts)
    .leftJoin(copies, and(eq(copies.messageId, attempts.messageId), eq(copies.recipient, attempts.rcptTo)))
    .leftJoin(rulings, and(eq(rulings.id, copies.rulingId), eq(copies.attemptId, attempts.id)))
    .where(
      and(
        visibleAttempts(asker),
        // What became a message that the asker does not see is as if it had never come.
        or(isNull(copies.id), visibleTo(asker) ?? sql`true`),
        gte(attempts.at, after),
        lt(attempts.at, before),
        query.sender ? or(like(attempts.mailFrom, query.sender), like(copies.senderAddress, query.sender)) : undefined,
        query.recipient ? like(attempts.rcptTo, query.recipient) : undefined,
        query.cursor === undefined
          ? undefined
          : sql`(${attempts.at}, ${attempts.id}) < (select at, id from attempts where id = ${query.cursor})`,
      ),
    )
    .orderBy(desc(attempts.at), desc(attempts.id))
    .limit(query.limit + 1)
  const shown = rows.slice(0, query.limit)
  const onward = await doneSince(shown.flatMap(r => (r.copy ? [r.copy.id] : [])))
  const { policy } = await policyInForce()
  return {
    after: after.toISOString(),
    before: before.toISOString(),
    next: rows.length > query.limit ? shown.at(-1)!.attempt.id : null,
    items: shown.map(({ attempt, copy, ruling }) => {
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
          gone: copy.lane === 'dropped' ? (copy.erased ? ('erased' as const) : ('dropped' as const)) : null,
        },
        sentence: ruling
          ? sentenceFor(asker, { ...ruling, lane: ruling.finalLane as Copy['lane'], quarantine: ruling.quarantineId }, policy)
          : null,
        onward: own ? (onward.get(copy.id) ?? []) : [],
      }
    }),
  }
}

/** The same as plain text to pass on. */
export async function attemptsAsText(asker: Asker, query: AttemptQuery): Promise<string> {
  const { items, after, before } = await listAttempts(asker, query)
  const { policy } = await policyInForce()
  const timeZone = await setting(TIME_ZONE, 'UTC')
  return attemptsText({ sender: query.sender, recipient: query.recipient, after, before, timeZone }, items, policy)
}

function visibleAttempts(asker: Asker): SQL | undefined {
  if (may(asker, 'see everybody’s mail')) return undefined
  const own = asker.addresses.map((address) => {
    const { local, domain, key } = makeAddress(address)
    // With a tag too (RFC 5233).
    return or(eq(attempts.rcptTo, key), ilike(attempts.rcptTo, `${literally(local)}+%@${literally(domain)}`))
  })
  return own.length ? or(...own) : sql`false`
}

function like(column: typeof attempts.mailFrom | typeof attempts.rcptTo | typeof copies.senderAddress, asked: string): SQL {
  const address = makeAddress(asked)
  return address.local && address.domain ? eq(column, address.key) : ilike(column, `%${literally(asked)}%`)
}

async function doneSince(copyIds: readonly number[]): Promise<Map<number, { at: string, words: string }[]>> {
  const out = new Map<number, { at: string, words: string }[]>()
  if (!copyIds.length) return out
  const rows = await db()
    .select({ copyId: actItems.copyId, at: acts.at, by: people.name, kind: acts.kind, detail: acts.detail })
    .from(actItems)
    .innerJoin(acts, eq(acts.id, actItems.actId))
    .leftJoin(people, eq(people.id, acts.personId))
    .where(and(inArray(actItems.copyId, [...copyIds]), inArray(acts.kind, ['moved', 'released', 'taken back'])))
    .orderBy(acts.id)
  for (const { copyId, at, by, kind, detail } of rows) {
    const what = kind === 'taken back' ? 'took that back' : `${kind} it to ${String(detail.lane)}`
    out.set(copyId, [...(out.get(copyId) ?? []), { at: at.toISOString(), words: `${by ?? 'somebody'} ${what}` }])
  }
  return out
}
