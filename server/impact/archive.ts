import { and, eq, inArray, or, sql, type SQL } from 'drizzle-orm'
import {
  isPersonal,
  makeAddress,
  parseContent,
  PARSER_VERSION,
  readAttempt,
  registrableDomain,
  tiersFor,
  type Attempt,
  type Content,
  type EntryText,
  type Envelope,
  type Message,
  type Policy,
} from '#core'
import type { CopyFacts, LookupKeys } from '#core/simulate'
import type { Db } from '../db/client'
import { attempts, copies, messages, sources } from '../db/schema'
import { storedEnvelope } from '../intake/stored-envelope'
import { MORE_SENDERS } from '../intake/intake-rows'

/** Over whose copies changed clauses stand: all; or those of these people, and of mailboxes that several share. */
export type Scope = { all: true } | { people: string[], shared: boolean }

/** Over whose copies clauses of these owners stand. @param outbound some of them are asked of mail that goes out, whoever gets it */
export function scopeOf(policy: Pick<Policy, 'people' | 'departments'>, owners: ReadonlySet<string>, outbound: boolean): Scope {
  if (outbound || owners.has('organisation')) return { all: true }
  return {
    people: policy.people.filter(p => tiersFor(policy, p.id, p.departments).some(t => owners.has(t.owner))).map(p => p.id),
    // Nobody's own clauses stand over what is not theirs alone.
    shared: [...owners].some(o => !isPersonal(o)),
  }
}

export function inScope(scope: Scope): SQL | undefined {
  if ('all' in scope) return undefined
  return or(
    scope.people.length ? inArray(copies.personId, scope.people) : undefined,
    scope.shared ? sql`${copies.mailbox} is not null` : undefined,
  ) ?? sql`false`
}

/** Copies in which one of these senders may be found, by From, Sender, envelope or List-Id. It finds too much rather than too little. */
export function withLookupKeys(lookupKeys: LookupKeys): SQL | undefined {
  if (!lookupKeys) return undefined
  if (!lookupKeys.length) return sql`false`
  const keys = lookupKeys.flatMap(keyOf)
  const lists = lookupKeys.filter(e => e.kind === 'mailingList').map(e => e.value)
  const domains = [...new Set(lookupKeys.flatMap(domainOf))]
  const below = lookupKeys.filter(e => e.kind === 'domainAndSubdomains').map(e => e.value)
  const byMessage = or(
    keys.length ? sql`m.sender_keys && ${sql.param([...keys, MORE_SENDERS])}::text[]` : undefined,
    lists.length ? sql`m.list_id = any(${sql.param(lists)}::text[])` : undefined,
  )
  const ids = [
    ...(byMessage ? [sql`select c.id from messages m join copies c on c.message_id = m.id where ${byMessage}`] : []),
    ...(domains.length || below.length
      ? [sql`select c.id from attempts a join copies c on c.attempt_id = a.id where ${envelopeAt(domains, below)}`]
      : []),
  ]
  return sql`${copies.id} in (${sql.join(ids, sql` union all `)})`
}

function keyOf({ kind, value }: EntryText): string[] {
  if (kind === 'address') return [`address:${value}`]
  if (kind === 'domain') return [`domain:${value}`]
  return kind === 'domainAndSubdomains' ? [`below:${value}`] : []
}

function domainOf({ kind, value }: EntryText): string[] {
  if (kind === 'address') return [makeAddress(value).domain]
  return kind === 'domain' ? [value] : []
}

// As the index has it: the domain written backwards, so that what lies below begins with it. What is not ASCII was not written
// as domains are compared, and is looked at always.
const DOMAIN_BACKWARDS = sql.raw(`reverse(lower(split_part(a.mail_from, '@', -1)))`)
const NOT_ASCII = sql.raw(`a.mail_from ~ '[^\\x01-\\x7f]'`)

function envelopeAt(domains: readonly string[], below: readonly string[]): SQL {
  const backwards = (domain: string) => [...domain].reverse().join('')
  const either = [
    NOT_ASCII,
    ...(domains.length ? [sql`${DOMAIN_BACKWARDS} = any(${sql.param(domains.map(backwards))}::text[])`] : []),
    ...below.flatMap((domain) => {
      const start = backwards(domain)
      return [sql`${DOMAIN_BACKWARDS} = ${start}`, sql`${DOMAIN_BACKWARDS} like ${`${start.replace(/[\\%_]/g, '\\$&')}.%`}`]
    }),
  ]
  return or(...either)!
}

/** A copy's message as it was handed over, for deciding it again; null where only a record of it is left. */
export interface ArchivedMessage {
  recipient: string
  message: Message | null
}

/** What is known of a copy besides its message, but for what came of its sender before. */
export type KnownCopy = Omit<CopyFacts, 'earlier' | 'earlierStopped'> & { receivedAt: Date }

const ATTEMPT = {
  mailFrom: attempts.mailFrom,
  client: attempts.client,
  firstHop: attempts.firstHop,
  helo: attempts.helo,
  tls: attempts.tls,
  signedIn: attempts.signedIn,
  at: attempts.at,
  direction: attempts.direction,
  authentication: attempts.authentication,
  defects: attempts.defects,
}

/** Characters of text that a thread keeps of messages that it read last: typing asks for the same mail again and again. */
const MAX_KEPT = 64_000_000

interface CachedCopy {
  messageId: number
  recipient: string
  message: Message | null
  length: number
}

/** Mail that is here, as a thread reads it to simulate. What a message is and how it was handed over does not change, and is kept. */
export class Archive {
  private readonly kept = new Map<number, CachedCopy>()
  /** Content by the id of its message, as long as some copy of it is kept. */
  private readonly contents = new Map<number, { content: Content, copies: number }>()
  private length = 0

  constructor(private readonly db: Db) {}

  /** The messages of these copies, in this order. @param trust whom we believe, for what attempts of before do not say */
  async messages(ids: readonly number[], trust: Policy['trust']): Promise<(ArchivedMessage & { id: number })[]> {
    const missing = ids.filter(id => !this.kept.has(id))
    const read = missing.length ? await this.read(missing, trust) : new Map<number, CachedCopy>()
    return ids.flatMap((id) => {
      const one = this.kept.get(id) ?? read.get(id)
      return one ? [{ id, recipient: one.recipient, message: one.message }] : []
    })
  }

  private async read(ids: readonly number[], trust: Policy['trust']): Promise<Map<number, CachedCopy>> {
    const rows = await this.db
      .select({ id: copies.id, messageId: copies.messageId, recipient: copies.recipient, attempt: ATTEMPT })
      .from(copies)
      .innerJoin(attempts, eq(attempts.id, copies.attemptId))
      .where(inArray(copies.id, [...ids]))
    const contents = await this.contentsOf([...new Set(rows.map(r => r.messageId))])
    const out = new Map<number, CachedCopy>()
    for (const { id, messageId, recipient, attempt } of rows) {
      const content = contents.get(messageId) ?? null
      const { envelope, attempt: then } = storedEnvelope(attempt, recipient)
      const message = content && { content, attempt: attemptOf(content, envelope, then, trust) }
      const one = { messageId, recipient, message, length: this.contents.has(messageId) ? 500 : 500 + lengthOf(content) }
      out.set(id, one)
      this.keep(id, one)
    }
    return out
  }

  private async contentsOf(ids: readonly number[]): Promise<Map<number, Content>> {
    const out = new Map<number, Content>()
    const missing: number[] = []
    for (const id of ids) {
      const there = this.contents.get(id)
      if (there) out.set(id, there.content)
      else missing.push(id)
    }
    if (!missing.length) return out
    const whole = and(eq(messages.whole, true), eq(messages.parser, PARSER_VERSION))
    const rows = await this.db
      .select({
        id: messages.id,
        facts: sql<Content | null>`case when ${whole} then ${messages.facts} end`,
        raw: sql<Buffer | null>`case when ${whole} then null else ${sources.raw} end`,
      })
      .from(messages)
      .leftJoin(sources, eq(sources.messageId, messages.id))
      .where(inArray(messages.id, missing))
    for (const { id, facts, raw } of rows) {
      const content = facts ?? (raw && (await parseContent(raw)))
      if (content) out.set(id, content)
    }
    return out
  }

  private keep(id: number, one: CachedCopy): void {
    this.kept.set(id, one)
    this.length += one.length
    if (one.message) {
      const there = this.contents.get(one.messageId)
      this.contents.set(one.messageId, { content: one.message.content, copies: (there?.copies ?? 0) + 1 })
    }
    for (const [oldest, its] of this.kept) {
      if (this.length <= MAX_KEPT) break
      this.kept.delete(oldest)
      this.length -= its.length
      const content = this.contents.get(its.messageId)
      if (content && --content.copies === 0) this.contents.delete(its.messageId)
    }
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
        verdict: sql<string | null>`${attempts.authentication} ->> 'verdict'`,
      })
      .from(copies)
      .innerJoin(attempts, eq(attempts.id, copies.attemptId))
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
        },
      ]),
    )
  }
}

function lengthOf(content: Content | null): number {
  if (!content) return 0
  return content.segments.reduce((n, s) => n + s.text.length, 0) + content.headers.reduce((n, h) => n + h.raw.length * 2, 0)
}

// The record of an attempt says all of it; only rows of before all of that was kept leave something to be read from the message.
function attemptOf(content: Content, envelope: Envelope, then: Partial<Attempt>, trust: Policy['trust']): Attempt {
  const { client, envelopeSender, direction, authentication, defects } = then
  return authentication && defects && client !== undefined && envelopeSender !== undefined && direction
    ? { envelope, client, envelopeSender, direction, authentication, defects }
    : { ...readAttempt(content, envelope, trust), ...then }
}
