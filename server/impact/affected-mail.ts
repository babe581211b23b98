import { inArray, or, sql, type SQL } from 'drizzle-orm'
import { isPersonal, makeAddress, tiersFor, type EntryText, type Policy } from '#core'
import type { LookupKeys } from '#core/simulate'
import { copies } from '../db/schema'
import { mayHold } from '../db/search'
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

/**
 * Copies in which one of these senders may be found, by From, Sender, envelope or List-Id, or one of these texts. It finds too much
 * rather than too little.
 */
export function withLookupKeys(lookupKeys: LookupKeys): SQL | undefined {
  if (!lookupKeys) return undefined
  const { senders, texts } = lookupKeys
  const keys = senders.flatMap(keyOf)
  const lists = senders.filter(e => e.kind === 'mailingList').map(e => e.value)
  const domains = [...new Set(senders.flatMap(domainOf))]
  const below = senders.filter(e => e.kind === 'domainAndSubdomains').map(e => e.value)
  const byMessage = or(
    keys.length ? sql`m.sender_keys && ${sql.param([...keys, MORE_SENDERS])}::text[]` : undefined,
    lists.length ? sql`m.list_id = any(${sql.param(lists)}::text[])` : undefined,
    texts.length ? mayHold(texts) : undefined,
  )
  const ids = [
    ...(byMessage ? [sql`select c.id from messages m join copies c on c.message_id = m.id where ${byMessage}`] : []),
    ...(domains.length || below.length
      ? [sql`select c.id from attempts a join copies c on c.attempt_id = a.id where ${envelopeAt(domains, below)}`]
      : []),
  ]
  return ids.length ? sql`${copies.id} in (${sql.join(ids, sql` union all `)})` : sql`false`
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
