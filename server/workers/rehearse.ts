import type { MessagePort } from 'node:worker_threads'
import { and, desc, sql, type SQL } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import { decide, isDelivered, isKeptAway, isKeptHere, type DoorRuling, type IndexedPolicy, type Ruling } from '#core'
import type { PolicyChange } from '#core/change'
import {
  isElsewhere,
  isNarrow,
  pairOf,
  reachOf,
  rehearseCopy,
  Tally,
  type Impact,
  type Needles,
  type Pair,
} from '#core/rehearse'
import { separateClient, type Db } from '../db/client'
import * as schema from '../db/schema'
import { Archive, inScope, scopeOf, withNeedles, type ArchivedCopy } from '../mail/archive'
import { claimsOf, rulingRow, stateByRuling } from '../mail/copy-ruling'
import { Editions, type Edition } from './editions'
import type { Needs } from './mail'

/** What changes would do, to be found out. */
export interface ToRehearse {
  number: number
  edition?: Edition
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

/** Copies that are decided anew after a change. */
export interface ToRedecide {
  number: number
  edition?: Edition
  /** Differences that make another policy of the one in force; the one before the change, or the one that it would be. */
  net: PolicyChange[]
  is: 'before' | 'after'
  ids: readonly number[]
  /** Of these it is told in any case. */
  always: readonly number[]
  now: string
}

/** A copy decided anew. Its rows are ready to be kept. */
export interface Redecided {
  id: number
  /** It ends elsewhere than before the change. */
  elsewhere: boolean
  /** A protection of the change came too late: somebody else's stop stands. */
  tooLate: boolean
  ruling: DoorRuling
  state: ReturnType<typeof stateByRuling>
  row: ReturnType<typeof rulingRow>
  claims: ReturnType<typeof claimsOf>
}

/** The newest so many copies answer first. */
const FIRST = 5000
const AT_ONCE = 250
const TELL_EVERY = 400

const editions = new Editions(2)
let archive: { client: pg.Client, db: Db, archive: Archive } | null = null

// One connection a thread, opened anew where it was lost.
async function openArchive(): Promise<NonNullable<typeof archive>> {
  if (archive) return archive
  const client = separateClient('rehearsal')
  const lost = () => {
    if (archive?.client === client) archive = null
  }
  client.on('error', lost)
  client.on('end', lost)
  await client.connect()
  const db = drizzle(client, { schema, casing: 'snake_case' })
  archive = { client, db, archive: new Archive(db) }
  return archive
}

/** Gives the connection back. Threads keep theirs; whoever calls without threads ends it. */
export async function closeArchive(): Promise<void> {
  const ending = archive
  archive = null
  await ending?.client.end()
}

/** What each of the alternatives would do to the mail that is here, off the thread that serves people. */
export async function rehearse(asked: ToRehearse): Promise<Impact[] | Needs> {
  const indexed = editions.take(asked.number, asked.edition)
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
    private readonly mail: NonNullable<typeof archive>,
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

/**
 * Decides copies that are here anew, by a policy and by the one before a change of it. Those come back that end elsewhere, or
 * that the change would protect and does not. What would not have been taken goes to the bin.
 */
export async function redecide(asked: ToRedecide): Promise<Redecided[] | Needs> {
  const indexed = editions.take(asked.number, asked.edition)
  if (!indexed) return { needs: asked.number }
  const { archive: mail } = await openArchive()
  const pair = pairOf(indexed, asked.net, asked.is === 'before')
  const always = new Set(asked.always)
  const out: Redecided[] = []
  for (const { message, recipient, known } of await mail.copies(asked.ids, indexed.compiled.policy.trust)) {
    if (!message) continue
    const both = rehearseCopy(message, recipient, pair, asked.now)
    if (!both && !always.has(known.id)) continue
    const after = both?.after ?? decide(message, recipient, pair.after, { now: asked.now })
    const elsewhere = both !== null && isElsewhere(both.before, after)
    const tooLate = both !== null && isKeptAway(after.lane) && after.reasons.some(r => r.fate.kind === 'protection too late')
    if (!elsewhere && !tooLate && !always.has(known.id)) continue
    const kept = isDelivered(after.lane) || isKeptHere(after.lane)
    const ruling: DoorRuling = { ...after, decidedLane: after.lane, lane: kept ? after.lane : 'bin' }
    out.push({
      id: known.id,
      elsewhere,
      tooLate,
      ruling,
      state: stateByRuling(ruling, message.content),
      row: rulingRow(ruling, asked.now),
      claims: claimsOf(ruling),
    })
  }
  return out
}
