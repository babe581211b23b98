import type { MessagePort } from 'node:worker_threads'
import { and, desc, sql, type SQL } from 'drizzle-orm'
import type { DoorRuling, IndexedPolicy, Ruling } from '#core'
import type { PolicyChange } from '#core/change'
import {
  isNarrow,
  pairOf,
  reachOf,
  rehearseCopy,
  Tally,
  type Impact,
  type Needles,
  type Pair,
} from '#core/rehearse'
import * as schema from '../db/schema'
import { inScope, scopeOf, withNeedles, type ArchivedCopy } from '../mail/archive'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

// All that rehearsing threads do, in one bundle: they share what they keep of the mail.
export { redecide } from './redecide'
export { readExamples } from './examples'

/** What changes would do, to be found out. */
export interface ToRehearse extends WithEdition {
  /** Differences that each make another policy of the one in force, with all that is known of their entries. */
  alternatives: readonly { net: PolicyChange[] }[]
  /** ISO 8601 instant against which expiry is judged. */
  now: string
  /** All that is here, and not just the newest. */
  whole: boolean
  /** Told of what was found so far, where that is wanted. */
  port?: MessagePort
  /** Set to 1 when nobody waits any more. */
  stop: Int32Array
}

/** The newest so many copies answer first. */
const FIRST = 5000
const AT_ONCE = 500
const TELL_EVERY = 400

/** What each of the alternatives would do to the mail that is here, off the thread that serves people. */
export async function rehearse(asked: ToRehearse): Promise<Impact[] | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  return new Run(asked, indexed, await openArchive()).run()
}

class Run {
  private readonly pairs: Pair[]
  private readonly tallies: Tally[]
  private readonly scope: SQL | undefined
  private readonly needles: Needles
  private unknown = 0
  private looked = 0

  constructor(
    private readonly asked: ToRehearse,
    private readonly indexed: IndexedPolicy,
    private readonly mail: OpenArchive,
  ) {
    const { policy } = indexed.compiled
    const reaches = asked.alternatives.map(({ net }) => reachOf(policy, net))
    this.pairs = asked.alternatives.map(({ net }) => pairOf(indexed, net))
    this.tallies = asked.alternatives.map(({ net }) => new Tally(isNarrow(net)))
    const owners = new Set(reaches.flatMap(r => [...r.owners]))
    this.scope = inScope(scopeOf(policy, owners, reaches.some(r => r.outbound)))
    const needles = reaches.map(r => r.needles)
    this.needles = needles.includes(null) ? null : (needles as NonNullable<Needles>[]).flat()
  }

  async run(): Promise<Impact[]> {
    const { client, db } = this.mail
    const { asked } = this
    await client.query('begin isolation level repeatable read read only')
    try {
      const all = await this.count()
      const first = all.copies > FIRST ? await this.newest() : null
      const seen = { first: first ?? { ...all, last: null }, all }
      const from = withNeedles(this.needles)
      const order = [desc(schema.copies.receivedAt), desc(schema.copies.id)]
      const query = db.select({ id: schema.copies.id }).from(schema.copies).where(and(this.scope, from)).orderBy(...order).toSQL()
      await client.query(`declare mail no scroll cursor for ${query.sql}`, query.params)
      let told = 0
      let isFirst = seen.first.last !== null
      for (;;) {
        const { rows } = await client.query<{ id: string }>(`fetch ${AT_ONCE} from mail`)
        const found = await this.mail.archive.copies(rows.map(r => Number(r.id)), this.indexed.compiled.policy.trust)
        const passed = isFirst && (rows.length < AT_ONCE || found.some(c => isBefore(c, seen.first.last!)))
        await this.look(passed ? found.filter(c => !isBefore(c, seen.first.last!)) : found)
        if (passed) {
          isFirst = false
          this.tell(this.reports(seen.first, false))
          told = Date.now()
          if (!asked.whole) return this.reports(seen.first, false)
          await this.look(found.filter(c => isBefore(c, seen.first.last!)))
        }
        if (rows.length < AT_ONCE) break
        if (Atomics.load(asked.stop, 0)) return this.reports(this.soFar(seen.all), false)
        if (!isFirst && seen.first.last !== null && Date.now() - told > TELL_EVERY) {
          this.tell(this.reports(this.soFar(seen.all), false))
          told = Date.now()
        }
      }
      return this.reports(seen.all, true)
    }
    finally {
      await client.query('rollback')
    }
  }

  // Where mail was found by an index, how much lies between is not counted on the way.
  private soFar(all: Counted): Counted {
    if (this.needles) return all
    const looked = Math.max(this.looked, FIRST)
    return { copies: looked, delivered: Math.round(all.delivered * (looked / Math.max(1, all.copies))), last: null }
  }

  private reports({ copies: looked, delivered }: Counted, complete: boolean): Impact[] {
    return this.tallies.map(t => t.report({ looked, delivered, inScope: this.total, unknown: this.unknown, complete }))
  }

  private total = 0

  private tell(impacts: Impact[]): void {
    this.asked.port?.postMessage(impacts)
  }

  private async count(): Promise<Counted> {
    const [n] = await this.mail.db
      .select({ copies: sql<number>`count(*)::int`, delivered: DELIVERED })
      .from(schema.copies)
      .where(this.scope)
    this.total = n!.copies
    return { ...n!, last: null }
  }

  private async newest(): Promise<Counted> {
    const some = this.mail.db
      .select({ lane: schema.copies.lane, receivedAt: schema.copies.receivedAt, id: schema.copies.id })
      .from(schema.copies)
      .where(this.scope)
      .orderBy(desc(schema.copies.receivedAt), desc(schema.copies.id))
      .limit(FIRST)
      .as('some')
    const [n] = await this.mail.db
      .select({
        copies: sql<number>`count(*)::int`,
        delivered: sql<number>`(count(*) filter (where lane in ('inbox', 'slow lane')))::int`,
        at: sql<Date>`min(received_at)`.mapWith(schema.copies.receivedAt),
        id: sql<number>`(array_agg(id order by received_at, id))[1]::bigint`.mapWith(Number),
      })
      .from(some)
    return { copies: n!.copies, delivered: n!.delivered, last: { at: n!.at, id: n!.id } }
  }

  private async look(found: readonly ArchivedCopy[]): Promise<void> {
    this.looked += found.length
    const touched: { copy: ArchivedCopy, tally: Tally, before: DoorRuling, after: DoorRuling }[] = []
    for (const copy of found) {
      if (!copy.message) {
        this.unknown++
        continue
      }
      for (const [i, pair] of this.pairs.entries()) {
        const both = rehearseCopy(copy.message, copy.recipient, pair, this.asked.now)
        if (both) touched.push({ copy, tally: this.tallies[i]!, before: asKept(both.before), after: asKept(both.after) })
      }
    }
    const earlier = await this.earlierOf(touched.map(t => t.copy))
    for (const { copy: { known }, tally, before, after } of touched)
      tally.add({ ...known, ...(earlier.get(known.id) ?? { earlier: 0, earlierStopped: 0 }) }, before, after)
  }

  /** What came of the same senders before each of these. */
  private async earlierOf(found: readonly ArchivedCopy[]): Promise<Map<number, { earlier: number, earlierStopped: number }>> {
    if (!found.length) return new Map()
    const { rows } = await this.mail.client.query<{ id: string, earlier: number, stopped: number }>(
      `select t.id, e.earlier, e.stopped from unnest($1::bigint[], $2::text[], $3::timestamptz[]) t(id, sender, at),
        lateral (select count(*)::int as earlier, (count(*) filter (where lane not in ('inbox', 'slow lane', 'sent')))::int as stopped
          from (select lane from copies c where c.sender_address = t.sender and c.received_at < t.at order by c.received_at desc limit 20) s) e`,
      [found.map(c => c.known.id), found.map(c => c.known.sender), found.map(c => c.receivedAt.toISOString())],
    )
    return new Map(rows.map(r => [Number(r.id), { earlier: r.earlier, earlierStopped: r.stopped }]))
  }
}

/** How much was looked at, and with which copy it ended. */
interface Counted {
  copies: number
  delivered: number
  last: { at: Date, id: number } | null
}

const DELIVERED = sql<number>`(count(*) filter (where ${schema.copies.lane} in ('inbox', 'slow lane')))::int`

function isBefore({ known, receivedAt }: ArchivedCopy, { at, id }: { at: Date, id: number }): boolean {
  return receivedAt < at || (receivedAt.getTime() === at.getTime() && known.id < id)
}

// What is here was taken: a refusal by itself would have been told its sender, and counts as such.
function asKept(ruling: Ruling): DoorRuling {
  return { ...ruling, decidedLane: ruling.lane }
}
