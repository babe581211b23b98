import { and, eq, inArray, sql, type SQL } from 'drizzle-orm'
import { isUsualTime } from '#core'
import { LIKELY_FROM, mostInformative, whyWords, type Why } from '#core/review'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { copies, people, releaseRequests } from '../db/schema'
import { daysIn, leavesAfter } from '../retention/leaves'
import { HERE_SINCE } from '../retention/erase'
import { linesOf, type CopyView } from '../copies/copies'
import { readCursor, writtenCursor } from '../platform/cursor'
import { activePolicy } from '../policy/active-policy'
import { groupKeys } from './group-keys'
import { areReasonsShown, inGroup } from './groups'
import { leavesSoon } from './review-places'
import { IN_ORDER, lyingAt, sought, waitingAt, type Grouping, type ReviewPlace } from './review-place'

/** Which copies of a place are gone through. */
export interface ItemsAsked extends ReviewPlace {
  by: Grouping
  /** Which group; all of the place unless said. */
  key?: string
  /** Only what leaves within a week, what leaves first first. */
  soon: boolean
  /** Only those whose judgement would say most about what put them there. */
  informative: boolean
  cursor?: string
  limit: number
}

/** A copy in its review. */
export interface ReviewItemView extends CopyView {
  likely: boolean
  /** Why it stands where it stands, the weightiest first. */
  why: string[]
  /** Since when it lies there, and when it leaves by itself; null is never. */
  since: string
  leaves: string | null
  /** Who asks for it, and with what words. */
  asked: { id: number, by: string, note: string, mine: boolean } | null
}

const MAX_INFORMATIVE = 2000
// An instant of JavaScript ends there: by the whole of it a page could begin with its own end.
const IN_MILLISECONDS = sql`date_trunc('milliseconds', ${copies.laneSince})`

async function ofGroup(actor: Actor, { by, key }: ItemsAsked): Promise<SQL | undefined> {
  if (key === undefined || by !== 'clause') return key === undefined ? undefined : inGroup(by, key)
  const real = groupKeys(actor, (await activePolicy()).policy).real(key)
  return real === null ? sql`false` : inGroup(by, real)
}

/** What waits at a place, in its order. */
export async function itemsAt(
  actor: Actor,
  asked: ItemsAsked,
  retention: { bin: number | null, spam: number | null },
): Promise<{ items: ReviewItemView[], next: string | null }> {
  const days = await daysIn(asked.lane, asked.quarantine, retention)
  // What was marked leaves too, and is counted with what leaves.
  const here = asked.soon ? lyingAt(actor, asked) : waitingAt(actor, asked)
  const where = and(here, await ofGroup(actor, asked), await sought(actor, asked))
  const chosen = asked.informative
    ? inArray(copies.id, await informativeAmong(actor, where))
    : asked.soon
      ? days === null ? sql`false` : leavesSoon(days)
      : undefined
  const rows = await db()
    .select({ copy: copies, here: sql<string>`${HERE_SINCE}` })
    .from(copies)
    .where(and(where, chosen, after(asked)))
    .orderBy(asked.soon ? sql`${IN_MILLISECONDS}, id` : IN_ORDER)
    .limit(asked.limit + 1)
  const page = rows.slice(0, asked.limit)
  const ids = page.map(r => r.copy.id)
  const lines = new Map((await linesOf(actor, ids)).map(l => [l.id, l]))
  const wishes = ids.length
    ? await db()
        .select({
          id: releaseRequests.id,
          copyId: releaseRequests.copyId,
          by: people.name,
          note: releaseRequests.note,
          personId: releaseRequests.personId,
        })
        .from(releaseRequests)
        .leftJoin(people, eq(people.id, releaseRequests.personId))
        .where(and(inArray(releaseRequests.copyId, ids), eq(releaseRequests.state, 'open')))
    : []
  const shown = areReasonsShown(actor, asked)
  const items = page.flatMap(({ copy, here }): ReviewItemView[] => {
    const line = lines.get(copy.id)
    const wish = wishes.find(w => w.copyId === copy.id)
    return line
      ? [{
          ...line,
          likely: shown && copy.likely >= LIKELY_FROM,
          why: shown ? ((copy.likelyWhy ?? []) as Why[]).map(whyWords) : [],
          since: copy.laneSince.toISOString(),
          leaves: days === null ? null : leavesAfter(here, days),
          asked: wish ? { id: wish.id, by: wish.by ?? 'a deactivated user', note: wish.note, mine: wish.personId === actor.id } : null,
        }]
      : []
  })
  const last = rows.length > asked.limit ? page.at(-1)!.copy : null
  return { items, next: last && writtenCursor([asked.soon ? last.laneSince.getTime() : last.likely, last.id]) }
}

async function informativeAmong(actor: Actor, where: ReturnType<typeof waitingAt>): Promise<number[]> {
  const rows = await db()
    .select({ id: copies.id, sender: copies.reviewSender, judgement: copies.judgement })
    .from(copies)
    .where(where)
    .orderBy(sql`id desc`)
    .limit(MAX_INFORMATIVE)
  return mostInformative(rows.map(({ judgement, ...r }) => ({ ...r, marked: judgement !== null })))
}

function after({ cursor, soon }: ItemsAsked) {
  if (!cursor) return undefined
  const [at, id] = readCursor(cursor, soon ? isUsualTime : undefined)
  return soon
    ? sql`(${IN_MILLISECONDS}, ${copies.id}) > (${new Date(at)}, ${id})`
    : sql`(${copies.likely}, ${copies.id}) < (${at}::bigint, ${id}::bigint)`
}
