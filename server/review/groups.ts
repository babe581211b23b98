import { and, count, desc, inArray, sql, type SQL } from 'drizzle-orm'
import { canVerifySenders, isOthers, personOwner, VERDICTS, type Policy } from '#core'
import { counted, numberWords, quoted } from '#core/wording'
import { isDoubted, LIKELY_FROM, whyWords, type Why } from '#core/review'
import { listName } from '#core/words'
import { countableBy, reviews } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { copies } from '../db/schema'
import { activePolicy } from '../policy/active-policy'
import { groupKeys } from './group-keys'
import { ASKED, BY_HAND, rankSome, clauseStats } from './rank'
import { GROUPED_BY, IN_ORDER, sought, waitingAt, type Grouping, type ReviewPlace } from './review-place'

/** Copies that are gone through together. */
export interface ReviewGroup {
  key: string
  /** What they have in common. */
  words: string
  copies: number
  recipients: number
  /** Since when the one has waited that waits longest. */
  oldest: string
  likelyWanted: number
  /** Copies whose sender cannot be trusted to be the sender: not selected with the whole group unless they are asked for. */
  doubted: number
  /** The address, where a group is of one sender; and whether it was verified. */
  sender: string | null
  verified: boolean
  /** What is known of the group: what was marked of its clause, or why the likeliest is likely. */
  why: string
  /** The clause, where one put them there. */
  clause: { kind: string, id: string } | null
}

export interface ReviewGroups {
  groups: ReviewGroup[]
  /** Copies that wait there, in all groups. */
  total: number
  /** Groups besides those that are told. */
  more: number
}

const MAX_GROUPS = 200
const RANK_BATCH_SIZE = 200

/** What waits at a place, in groups: what is asked for first, then those with the most likely mistakes. */
export async function groupsAt(actor: Actor, place: ReviewPlace & { by: Grouping }): Promise<ReviewGroups> {
  await db().transaction(tx => rankSome(tx, RANK_BATCH_SIZE))
  const column = GROUPED_BY[place.by]
  const where = and(waitingAt(actor, place), await sought(actor, place))
  const { policy } = await activePolicy()
  const doubted = VERDICTS.filter(v => isDoubted(v, canVerifySenders(policy)))
  const key = sql<string>`coalesce(${column}, '')`
  const recipientKey = sql`coalesce(${copies.personId}, ${copies.recipient})`
  // Grouped by recipient first: count(distinct recipient) over whole groups would make PostgreSQL sort every copy of the group.
  const each = db()
    .select({
      key: key.as('key'),
      copies: count().as('copies'),
      oldest: sql<string>`min(${copies.laneSince})`.as('oldest'),
      likely: sql<number>`count(*) filter (where ${copies.likely} >= ${LIKELY_FROM})`.as('likely'),
      doubted: sql<number>`count(*) filter (where ${inArray(copies.verdict, doubted)})`.as('doubted'),
      likeliest: sql<number>`max(${copies.likely})`.as('likeliest'),
    })
    .from(copies)
    .where(where)
    .groupBy(key, recipientKey)
    .as('each')
  const sum = (column: typeof each.likely | typeof each.copies | typeof each.doubted) => sql<number>`sum(${column})::int`
  const rows = await db()
    .select({
      key: each.key,
      copies: sum(each.copies),
      recipients: sql<number>`count(*)::int`,
      oldest: sql<string>`min(${each.oldest})`,
      likely: sum(each.likely),
      doubted: sum(each.doubted),
      groups: sql<number>`(count(*) over ())::int`,
      total: sql<number>`(sum(sum(${each.copies})) over ())::int`,
    })
    .from(each)
    .groupBy(each.key)
    .orderBy(
      sql`${each.key} = ${ASKED} desc`,
      sql`max(${each.likeliest}) = 1000 desc`,
      desc(sum(each.likely)),
      desc(sum(each.copies)),
      each.key,
    )
    .limit(MAX_GROUPS)
  if (!rows.length) return { groups: [], total: 0, more: 0 }
  const withReasons = areReasonsShown(actor, place)
  const clauses = place.by === 'clause' && withReasons ? rows.map(r => r.key).filter(k => /^(rule|list) /.test(k)) : []
  const all = place.lane === 'quarantine' && reviews(actor, place.quarantine ?? 'general')
  const records = await clauseStats(db(), clauses, all ? undefined : countableBy(actor))
  // The likeliest is looked for only where its clause has no record that says more.
  const known = new Map(rows.map(r => [r.key, statsWords(records.get(r.key))]))
  const likeliest = withReasons
    ? await likeliestOf(place.by, where, rows.map(r => r.key).filter(key => !known.get(key)))
    : new Map<string, Why[]>()
  const whyOf = (key: string) => (withReasons ? known.get(key) ?? (likeliest.get(key) ?? []).slice(0, 1).map(whyWords).join('') : '')
  const shown = place.by === 'clause' ? groupKeys(actor, policy).shown : (key: string) => key
  return {
    groups: rows.map(r => ({
      key: shown(r.key),
      words: groupWords(actor, policy, place.by, r.key),
      copies: r.copies,
      recipients: r.recipients,
      oldest: new Date(r.oldest).toISOString(),
      likelyWanted: withReasons ? r.likely : 0,
      doubted: r.doubted,
      sender: place.by === 'sender' ? senderIn(r.key) : null,
      verified: place.by === 'sender' && r.key.startsWith(VERIFIED),
      why: whyOf(r.key),
      clause: place.by === 'clause' ? clauseIn(shown(r.key)) : null,
    })),
    total: rows[0]!.total,
    more: rows[0]!.groups - rows.length,
  }
}

const VERIFIED = 'verified '

/** The address that the key of a sender's group names: behind the word that says whether it was verified. */
function senderIn(key: string): string {
  return key.slice(key.indexOf(' ') + 1)
}

function groupWords(actor: Actor, policy: Policy, by: Grouping, key: string): string {
  if (by === 'clause') return clauseGroupWords(actor, policy, key)
  return by === 'sender' ? senderWords(key) : key || 'no subject'
}

function senderWords(key: string): string {
  if (key === '') return 'no sender'
  return key.startsWith(VERIFIED) ? senderIn(key) : `${senderIn(key)}, not verified`
}

/** The clause that a key names, as it is shown: of a colleague's own there is none. */
function clauseIn(key: string): ReviewGroup['clause'] {
  return /^(rule|list) /.test(key) ? { kind: key.slice(0, 4), id: key.slice(5) } : null
}

function statsWords(record: { marked: number, right: number } | undefined): string | null {
  return record?.marked ? `correct for ${numberWords(record.right)} of ${counted(record.marked, 'marked message')}` : null
}

/** Whether the actor is told why copies stand where they stand: of held mail that speaks of everybody's mail, to who reviews it. */
export function areReasonsShown(actor: Actor, { lane, quarantine }: ReviewPlace): boolean {
  return lane !== 'quarantine' || reviews(actor, quarantine ?? 'general')
}

/** Why the likeliest mistake of each group is likely: one look into the index a group, in one question for all of them. */
async function likeliestOf(by: Grouping, where: SQL | undefined, keys: readonly string[]): Promise<Map<string, Why[]>> {
  const first = (group: SQL) => sql`(
    select ${copies.likelyWhy} why from ${copies} where ${and(where, group)} order by ${IN_ORDER} limit 1)`
  const named = keys.filter(key => key !== '')
  const { rows } = await db().execute<{ key: string, why: Why[] | null }>(sql`
    select key, why from unnest(${sql.param(named)}::text[]) key, lateral ${first(sql`${GROUPED_BY[by]} = key`)} of_group
    ${named.length < keys.length ? sql`union all select '' as key, why from ${first(inGroup(by, ''))} of_none` : sql``}`)
  return new Map(rows.map(r => [r.key, r.why ?? []]))
}

/** The copies of one group. */
export function inGroup(by: Grouping, key: string) {
  const column = GROUPED_BY[by]
  return key === '' ? sql`coalesce(${column}, '') = ''` : inArray(column, [key])
}

function clauseGroupWords(actor: Actor, policy: Policy, key: string): string {
  const [kind, id] = [key.slice(0, key.indexOf(' ')), key.slice(key.indexOf(' ') + 1)]
  if (key === ASKED) return 'release requested by the recipient'
  if (key === BY_HAND) return 'moved by hand'
  if (key === '') return 'no list or rule'
  const hidden = (owner: string) => isOthers(personOwner(actor.id), owner)
  if (kind === 'rule') {
    const rule = policy.rules.find(r => r.id === id)
    if (!rule) return 'a deleted rule'
    return hidden(rule.owner) ? 'a colleague’s rule' : `rule ${quoted(rule.name)}`
  }
  if (kind === 'list') {
    const assignment = policy.assignments.find(b => b.id === id)
    if (!assignment) return 'a list without its former assignment'
    return hidden(assignment.owner) ? 'a colleague’s list' : `list ${listName(policy, assignment.list)}`
  }
  return kind === 'score' ? `the score (${id})` : 'learned Low priority'
}
