import { and, eq, gte, inArray, isNull, lt, or, sql, type SQL } from 'drizzle-orm'
import { makeAddress } from '#core'
import { searchTerms } from '#core/text'
import { ownCopies, visibleTo, type Copy } from '../access/copy-access'
import { seesClausesOf } from '../access/ownership'
import { wordsOfOthers } from '../access/own-words'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { hasText, typedQuery } from '../db/search'
import { auditEventItems, addresses, assignments, copies, lists, messages, decisionClaims, rules } from '../db/schema'
import { notFound } from '../platform/problem'

/** Which copies are meant. What is left out narrows nothing. */
export interface CopyFilter {
  words?: string
  lane?: Copy['lane'][]
  quarantine?: string
  sender?: string
  recipient?: string
  judgement?: 'wanted' | 'unwanted' | 'unmarked'
  /** Id of a rule or a list that touched the copy. */
  touchedBy?: string
  /** What this event moved or marked. */
  eventId?: number
  important?: boolean
  tag?: string
  folder?: string
  filed?: boolean
  after?: Date
  before?: Date
}

/** The copies that match a filter, among those that the actor may see. @throws where it names a clause that is not theirs to see */
export async function matching(actor: Actor, filter: CopyFilter): Promise<SQL> {
  await mustSeeClause(actor, filter.touchedBy)
  const others = filter.tag || filter.folder || filter.words ? await wordsOfOthers(actor) : null
  // By a tag or folder of a colleague's own one finds only what is one's own.
  const isTheirs = (filter.tag && others?.tags.has(filter.tag)) || (filter.folder && others?.folders.has(filter.folder))
  const all = and(
    visibleTo(actor),
    isTheirs ? ownCopies(actor) : undefined,
    filter.recipient ? await isFor(filter.recipient) : undefined,
    ...conditions(filter),
    filter.words ? await mentions(filter.words, others!.tags) : undefined,
  )
  return all ?? sql`true`
}

function conditions(filter: CopyFilter): (SQL | undefined)[] {
  return [
    filter.lane?.length ? inArray(copies.lane, filter.lane) : undefined,
    filter.quarantine ? eq(copies.quarantineId, filter.quarantine) : undefined,
    filter.sender ? senderIs(filter.sender) : undefined,
    filter.judgement === 'unmarked' ? isNull(copies.judgement) : filter.judgement ? eq(copies.judgement, filter.judgement) : undefined,
    filter.eventId === undefined
      ? undefined
      : inArray(
          copies.id,
          db().select({ id: auditEventItems.copyId }).from(auditEventItems).where(eq(auditEventItems.eventId, filter.eventId)),
        ),
    filter.important === undefined ? undefined : eq(copies.important, filter.important),
    // As the index has it.
    filter.tag ? sql`${copies.tags} @> array[${filter.tag}]::text[]` : undefined,
    filter.folder ? eq(copies.folder, filter.folder) : undefined,
    filter.filed === undefined ? undefined : eq(copies.filed, filter.filed),
    filter.after ? gte(copies.receivedAt, filter.after) : undefined,
    filter.before ? lt(copies.receivedAt, filter.before) : undefined,
    filter.touchedBy
      ? inArray(
          copies.id,
          db()
            .select({ id: decisionClaims.copyId })
            .from(decisionClaims)
            .where(or(eq(decisionClaims.clauseId, filter.touchedBy), eq(decisionClaims.listId, filter.touchedBy))),
        )
      : undefined,
  ]
}

// A person by their id, with what came to their addresses while others shared them; or one address.
async function isFor(recipient: string): Promise<SQL> {
  const own = await db().select({ address: addresses.address }).from(addresses).where(eq(addresses.personId, recipient))
  return or(
    eq(copies.recipient, makeAddress(recipient).key),
    eq(copies.personId, recipient),
    own.length
      ? inArray(
          copies.mailbox,
          own.map(a => makeAddress(a.address).keyWithoutTag),
        )
      : undefined,
  )!
}

function senderIs(sender: string): SQL | undefined {
  const address = makeAddress(sender)
  if (address.local && address.domain) return eq(copies.senderAddress, address.key)
  if (sender.startsWith('@')) return eq(copies.senderDomain, address.domain)
  const like = `%${literally(sender)}%`
  // As the index has it.
  return sql`(sender_address || ' ' || sender_name) ilike ${like}`
}

/** Copies with all of these words, or with a tag that has them. */
export async function withWords(actor: Actor, words: string): Promise<SQL> {
  return mentions(words, (await wordsOfOthers(actor)).tags)
}

// Every word, or the beginning of one, and every text in quotes, in subject, sender, attachment names or text; or a tag that has them all.
async function mentions(words: string, othersTags: ReadonlySet<string>): Promise<SQL> {
  const asked = searchTerms(words)
  const query = typedQuery(asked)
  if (query === null) return sql`false`
  const inText = inArray(
    copies.messageId,
    db()
      .select({ id: messages.id })
      .from(messages)
      .where(and(sql`${messages.search} @@ ${query}::tsquery`, ...asked.quoted.filter(text => /\s/.test(text)).map(hasText))),
  )
  const tags = await tagsWith(words, othersTags)
  // Most words are no tag; asking for one all the same would cost a look at every copy.
  return tags.length ? or(inText, sql`${copies.tags} && ${sql.param(tags)}::text[]`)! : inText
}

/** The tags by which a search for these words finds copies, besides what stands in these. */
export async function tagsFoundBy(actor: Actor, words: string): Promise<string[]> {
  return tagsWith(words, (await wordsOfOthers(actor)).tags)
}

/** Tags that have all these words, among those that any rule ever put: the copies are many more than the rules. */
async function tagsWith(words: string, othersTags: ReadonlySet<string>): Promise<string[]> {
  const terms = words.normalize('NFKC').toLowerCase().match(/[\p{L}\p{N}\p{M}]+/gu) ?? []
  const tag = sql<string>`claim -> 'effect' ->> 'value'`
  const { rows } = await db().execute<{ tag: string }>(sql`
    select distinct ${tag} as tag from ${rules}, jsonb_array_elements(claims) claim
    where claim -> 'effect' ->> 'kind' = 'tag'
      and not exists (select 1 from unnest(${sql.param([...terms])}::text[]) t where position(t in lower(normalize(${tag}, NFKC))) = 0)
    limit ${MAX_LABELS}`)
  return rows.map(r => r.tag).filter(tag => !othersTags.has(tag))
}

const MAX_LABELS = 500

/** The tags and folders that stand on copies which the actor sees. */
export async function labelsOf(actor: Actor): Promise<{ tags: string[], folders: string[] }> {
  const tagged = await db()
    .selectDistinct({ tag: sql<string>`unnest(${copies.tags})` })
    .from(copies)
    .where(and(sql`${copies.tags} <> '{}'`, visibleTo(actor)))
    .orderBy(sql`1`)
    .limit(MAX_LABELS)
  const foldered = await db()
    .selectDistinct({ folder: copies.folder })
    .from(copies)
    .where(and(sql`${copies.folder} is not null`, visibleTo(actor)))
    .orderBy(copies.folder)
    .limit(MAX_LABELS)
  const others = await wordsOfOthers(actor)
  return {
    tags: tagged.map(t => t.tag).filter(tag => !others.tags.has(tag)),
    folders: foldered.map(f => f.folder!).filter(folder => !others.folders.has(folder)),
  }
}

// By the number of a colleague's own rule one would learn what it does.
async function mustSeeClause(actor: Actor, clause: string | undefined): Promise<void> {
  if (clause === undefined) return
  for (const table of [rules, lists, assignments]) {
    const rows = await db().selectDistinct({ owner: table.owner }).from(table).where(eq(table.id, clause))
    if (rows.some(r => !seesClausesOf(actor, r.owner))) throw notFound('This rule or list')
  }
}
