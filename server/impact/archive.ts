import { inArray, sql } from 'drizzle-orm'
import type pg from 'pg'
import {
  parseContent,
  PARSER_VERSION,
  readAttempt,
  registrableDomain,
  type Attempt,
  type Content,
  type Envelope,
  type Message,
  type Policy,
} from '#core'
import type { CopyFacts } from '#core/simulate'
import type { Db } from '../db/client'
import { copies } from '../db/schema'
import { storedEnvelope, type AttemptRow } from '../intake/stored-envelope'
import { KeptCopies, type CachedContent, type CachedCopy, type Stamp } from './kept-copies'

/** A copy's message as it was handed over, for deciding it again; null where only a record of it is left. */
export interface ArchivedMessage {
  recipient: string
  message: Message | null
}

/** What is known of a copy besides its message, but for what came of its sender before. */
export type KnownCopy = Omit<CopyFacts, 'earlier' | 'earlierStopped'> & { receivedAt: Date }

/** A copy, the row of its message, and how it was handed over. */
interface Row extends Stamp {
  id: number
  recipient: string
  attempt: AttemptRow
}

type RowAsRead = [
  id: string,
  messageId: string,
  stamp: string,
  recipient: string,
  at: number,
  mailFrom: AttemptRow['mailFrom'],
  client: AttemptRow['client'],
  firstHop: AttemptRow['firstHop'],
  helo: AttemptRow['helo'],
  tls: AttemptRow['tls'],
  signedIn: AttemptRow['signedIn'],
  direction: AttemptRow['direction'],
  authentication: AttemptRow['authentication'],
  defects: AttemptRow['defects'],
]

const ROWS = `select c.id, c.message_id, m.xmin::text, c.recipient, extract(epoch from a.at)::float8, a.mail_from, a.client, a.first_hop,
  a.helo, a.tls, a.signed_in, a.direction, a.authentication, a.defects
  from copies c join messages m on m.id = c.message_id join attempts a on a.id = c.attempt_id where c.id = any($1::bigint[])`

const CONTENTS = `select m.id, case when m.whole and m.parser = $2 then m.facts end, case when not (m.whole and m.parser = $2) then s.raw end
  from messages m left join sources s on s.message_id = m.id where m.id = any($1::bigint[])`

/** Mail that is here, as a thread reads it to simulate. What a message is and how it was handed over does not change, and is kept. */
export class Archive {
  private readonly kept = new KeptCopies()

  constructor(private readonly db: Db, private readonly client: pg.Client) {}

  /** A new question is asked: what the one before looked at makes room for what this one looks at. */
  begin(): void {
    this.kept.begin()
  }

  /** Drops all that is kept of these messages; of all where none are named. */
  forget(messageIds?: readonly number[]): void {
    this.kept.forget(messageIds)
  }

  /**
   * The messages of these copies, in this order; of those of which only a record is left, null.
   * @param trust whom we believe, for what attempts of before do not say
   */
  async messages(ids: readonly number[], trust: Policy['trust']): Promise<(ArchivedMessage & { id: number })[]> {
    const rows = await this.rowsOf(ids)
    const found = new Map<number, CachedCopy>()
    const missing: Row[] = []
    for (const row of rows) {
      // What was erased, or read anew, since it was kept is another row.
      const one = this.kept.take(row.id, row)
      if (one) found.set(row.id, one)
      else missing.push(row)
    }
    const contents = await this.contentsOf(missing)
    for (const row of missing) {
      const { id, messageId, recipient, attempt } = row
      const known = contents.get(messageId) ?? null
      const { envelope, attempt: then } = storedEnvelope(attempt, recipient)
      const message = known && { content: known.content, attempt: attemptOf(known.content, envelope, then, trust) }
      const one = { messageId, recipient, message }
      found.set(id, one)
      this.kept.put(id, one, { ...row, known })
    }
    return ids.flatMap((id) => {
      const one = found.get(id)
      return one ? [{ id, recipient: one.recipient, message: one.message }] : []
    })
  }

  // By hand: of a large archive the mapping of rows took a tenth of the time.
  private async rowsOf(ids: readonly number[]): Promise<Row[]> {
    if (!ids.length) return []
    const { rows } = await this.client.query<RowAsRead>({ name: 'copies of the archive', text: ROWS, values: [ids], rowMode: 'array' })
    return rows.map(([id, messageId, stamp, recipient, at, ...rest]) => {
      const [mailFrom, client, firstHop, helo, tls, signedIn, direction, authentication, defects] = rest
      return {
        id: Number(id),
        messageId: Number(messageId),
        stamp,
        recipient,
        attempt: {
          at: new Date(Math.round(at * 1000)),
          mailFrom,
          client,
          firstHop,
          helo,
          tls,
          signedIn,
          direction,
          authentication,
          defects,
        },
      }
    })
  }

  private async contentsOf(rows: readonly Row[]): Promise<Map<number, CachedContent>> {
    const out = new Map<number, CachedContent>()
    const missing = new Set<number>()
    for (const row of rows) {
      const there = this.kept.content(row)
      if (there) out.set(row.messageId, there)
      else missing.add(row.messageId)
    }
    if (!missing.size) return out
    const { rows: read } = await this.client.query<[id: string, facts: Content | null, raw: Buffer | null]>({
      name: 'contents of the archive',
      text: CONTENTS,
      values: [[...missing], PARSER_VERSION],
      rowMode: 'array',
    })
    for (const [id, facts, raw] of read) {
      const content = facts ?? (raw && (await parseContent(raw)))
      if (content) out.set(Number(id), { content, length: lengthOf(content) })
    }
    return out
  }

  /** What is known of these copies now, by id. */
  async known(ids: readonly number[]): Promise<Map<number, KnownCopy>> {
    if (!ids.length) return new Map()
    const rows = await this.db
      .select({
        id: copies.id,
        recipient: copies.recipient,
        personId: copies.personId,
        lane: copies.lane,
        quarantineId: copies.quarantineId,
        movedBy: copies.movedBy,
        judgement: copies.judgement,
        strength: copies.judgementStrength,
        opened: sql<boolean>`${copies.firstOpenedAt} is not null`,
        sender: copies.senderAddress,
        senderDomain: copies.senderDomain,
        receivedAt: copies.receivedAt,
        verdict: copies.verdict,
      })
      .from(copies)
      .where(inArray(copies.id, [...ids]))
    return new Map(
      rows.map(row => [
        row.id,
        {
          id: row.id,
          lane: row.lane,
          quarantine: row.quarantineId,
          byHand: row.movedBy !== null,
          recipient: row.personId ?? row.recipient,
          sender: row.sender,
          senderDomain: registrableDomain(row.senderDomain) ?? row.senderDomain,
          judgement: row.judgement,
          implied: row.strength === 'implied',
          opened: row.opened,
          verified: row.verdict === 'pass',
          receivedAt: row.receivedAt,
          at: row.receivedAt.getTime(),
        },
      ]),
    )
  }
}

function lengthOf(content: Content): number {
  return content.segments.reduce((n, s) => n + s.text.length, 0) + content.headers.reduce((n, h) => n + h.raw.length * 2, 0)
}

// The record of an attempt says all of it; only rows of before all of that was kept leave something to be read from the message.
function attemptOf(content: Content, envelope: Envelope, then: Partial<Attempt>, trust: Policy['trust']): Attempt {
  const { client, envelopeSender, direction, authentication, defects } = then
  return authentication && defects && client !== undefined && envelopeSender !== undefined && direction
    ? { envelope, client, envelopeSender, direction, authentication, defects }
    : { ...readAttempt(content, envelope, trust), ...then }
}
