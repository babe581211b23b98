import type { MessagePort } from 'node:worker_threads'
import { and, desc, inArray, min, sql, type SQL } from 'drizzle-orm'
import type { IndexedPolicy } from '#core'
import type { PolicyChange } from '#core/change'
import {
  isNarrow,
  pairOf,
  affectedScope,
  simulateEach,
  ImpactCounter,
  type Impact,
  type LookupKeys,
  type Pair,
  type Simulated,
} from '#core/simulate'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { DELIVERED } from '../db/lanes'
import * as schema from '../db/schema'
import { inScope, scopeOf, withLookupKeys } from '../impact/archive'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

// All that simulating threads do, in one bundle: they share what they keep of the mail.
export { redecide } from './redecide'
export { readExamples } from './examples'
export { takeApart } from './parts'
export { causesOfCopies } from './causes'
export { decideUnderNet, endsUnderNets, decisionsUnderNets } from './decide-under'

/** What changes would do, to be found out. */
export interface SimulationJob extends WithEdition {
  /** Differences that each make another policy of the one active, with all that is known of their entries. */
  alternatives: readonly { net: PolicyChange[] }[]
  /** ISO 8601 instant against which expiry is decided. */
  now: string
  /** Among the mail that this one may see. */
  actor: Actor
  /** Copies that are taken as marked so, whatever was said of them. */
  marked?: { ids: readonly number[], value: 'wanted' | 'unwanted' }
  /** All that is here, and not just the newest. */
  whole: boolean
  /** Only the newest so many of what one of these clauses spoke of, by the decisions that stand: a first answer. */
  among?: { clauses: readonly string[], newest: number }
  /** Told of what was found so far, where that is wanted. */
  port?: MessagePort
  /** Set to 1 when nobody waits any more. */
  stop: Int32Array
}

/** The newest so many copies answer first. */
const FIRST = 5000
const BATCH_SIZE = 500
const TELL_EVERY = 400

/** What each of the alternatives would do to the mail that is here, off the thread that serves people. */
export async function simulate(asked: SimulationJob): Promise<Impact[] | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const mail = await openArchive()
  return new Run(asked, indexed, mail, asked.among ? await spokenOf(mail, asked.among) : null).run()
}

class Run {
  private readonly pairs: Pair[]
  private readonly counters: ImpactCounter[]
  private readonly scope: SQL | undefined
  private readonly lookupKeys: LookupKeys
  private readonly marked: ReadonlySet<number>
  private unknown = 0
  private looked = 0

  constructor(
    private readonly asked: SimulationJob,
    private readonly indexed: IndexedPolicy,
    private readonly mail: OpenArchive,
    among: readonly number[] | null,
  ) {
    this.marked = new Set(asked.marked?.ids)
    const { policy } = indexed.compiled
    const reaches = asked.alternatives.map(({ net }) => affectedScope(policy, net))
    this.pairs = asked.alternatives.map(({ net }) => pairOf(indexed, net))
    this.counters = asked.alternatives.map(({ net }) => new ImpactCounter(isNarrow(net)))
    const owners = new Set(reaches.flatMap(r => [...r.owners]))
    const over = inScope(scopeOf(policy, owners, reaches.some(r => r.outbound)))
    this.scope = and(over, visibleTo(asked.actor), among ? inArray(schema.copies.id, [...among]) : undefined)
    const lookupKeys = reaches.map(r => r.lookupKeys)
    this.lookupKeys = lookupKeys.includes(null) ? null : (lookupKeys as NonNullable<LookupKeys>[]).flat()
  }

  async run(): Promise<Impact[]> {
    const { client, db } = this.mail
    const { asked } = this
    await client.query('begin isolation level repeatable read read only')
    try {
      const all = await this.count()
      const first = all.copies > FIRST ? await this.newest() : null
      const from = withLookupKeys(this.lookupKeys)
      const query = db
        .select({ id: schema.copies.id, at: sql`extract(epoch from ${schema.copies.receivedAt})` })
        .from(schema.copies)
        .where(and(this.scope, from))
        .orderBy(desc(schema.copies.receivedAt), desc(schema.copies.id))
        .toSQL()
      await client.query(`declare mail no scroll cursor for ${query.sql}`, query.params)
      let lastSent = 0
      let beyond = first === null
      for (let more = true; more;) {
        const { rows } = await client.query<[id: string, at: string]>({ text: `fetch ${BATCH_SIZE} from mail`, rowMode: 'array' })
        more = rows.length === BATCH_SIZE
        const page = rows.map(([id, at]) => ({ id: Number(id), at: Number(at) }))
        const newest = beyond ? page : page.filter(c => !isBefore(c, first!.last!))
        await this.look(newest.map(c => c.id))
        if (!beyond && (!more || newest.length < page.length)) {
          beyond = true
          if (!asked.whole) return this.reports(first!, false)
          this.tell(this.reports(first!, false))
          lastSent = Date.now()
          await this.look(page.slice(newest.length).map(c => c.id))
        }
        if (Atomics.load(asked.stop, 0)) return this.reports(this.soFar(all), false)
        if (lastSent && Date.now() - lastSent > TELL_EVERY) {
          this.tell(this.reports(this.soFar(all), false))
          lastSent = Date.now()
        }
      }
      return this.reports(all, true)
    }
    finally {
      await client.query('rollback')
    }
  }

  // An estimate while the simulation runs. With lookup keys only matching copies are read, so their number says nothing of how far
  // it has come, and the whole is returned.
  private soFar(all: Counted): Counted {
    if (this.lookupKeys) return all
    const looked = Math.max(this.looked, FIRST)
    return { copies: looked, delivered: Math.round(all.delivered * (looked / Math.max(1, all.copies))), last: null }
  }

  private reports({ copies: looked, delivered }: Counted, complete: boolean): Impact[] {
    return this.counters.map(t => t.report({ looked, delivered, inScope: this.total, unknown: this.unknown, complete }))
  }

  private total = 0

  private tell(impacts: Impact[]): void {
    this.asked.port?.postMessage(impacts)
  }

  private async count(): Promise<Counted> {
    const [n] = await this.mail.db
      .select({ copies: sql<number>`count(*)::int`, delivered: DELIVERED_COUNT })
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
        delivered: sql<number>`(count(*) filter (where lane in (${DELIVERED})))::int`,
        at: sql<number>`extract(epoch from min(received_at))`.mapWith(Number),
        id: sql<number>`(array_agg(id order by received_at, id))[1]::bigint`.mapWith(Number),
      })
      .from(some)
    return { copies: n!.copies, delivered: n!.delivered, last: { at: n!.at, id: n!.id } }
  }

  private async look(ids: readonly number[]): Promise<void> {
    this.looked += ids.length
    const touched: ({ id: number, counter: ImpactCounter } & Simulated)[] = []
    for (const { id, message, recipient } of await this.mail.archive.messages(ids, this.indexed.compiled.policy.trust)) {
      if (!message) {
        this.unknown++
        continue
      }
      for (const [i, both] of simulateEach(message, recipient, this.pairs, this.asked.now).entries())
        if (both) touched.push({ id, counter: this.counters[i]!, ...both })
    }
    const known = await this.mail.archive.known([...new Set(touched.map(t => t.id))])
    const senders = await this.sendersOf([...known.values()].map(k => k.sender))
    for (const { id, counter, before, after } of touched) {
      const { receivedAt, ...copy } = known.get(id)!
      const sender = senders.get(copy.sender)
      const isFirst = !sender || receivedAt <= sender.first
      const judgement = this.marked.has(id) ? this.asked.marked!.value : copy.judgement
      const seen = { earlier: isFirst ? 0 : sender.copies - 1, earlierStopped: isFirst ? 0 : sender.stopped }
      counter.add({ ...copy, judgement, ...seen }, before, after)
    }
  }

  private readonly senders = new Map<string, Sender>()

  /** What came of these senders, each asked for once. */
  private async sendersOf(addresses: readonly string[]): Promise<ReadonlyMap<string, Sender>> {
    const missing = [...new Set(addresses)].filter(a => !this.senders.has(a))
    if (missing.length) {
      const { copies } = schema
      // Of the same mail: what others get, and from whom, is nobody else's to know.
      const rows = await this.mail.db
        .select({
          sender: copies.senderAddress,
          first: min(copies.receivedAt),
          copies: sql<number>`count(*)::int`,
          stopped: sql<number>`(count(*) filter (where ${copies.lane} not in (${DELIVERED})))::int`,
        })
        .from(copies)
        .where(and(this.scope, inArray(copies.senderAddress, missing)))
        .groupBy(copies.senderAddress)
      for (const { sender, first, ...seen } of rows) this.senders.set(sender, { ...seen, first: first! })
    }
    return this.senders
  }
}

// Found once, clause by clause by their index: what is counted and gone through is just these.
async function spokenOf({ client }: OpenArchive, { clauses, newest }: NonNullable<SimulationJob['among']>): Promise<number[]> {
  const { rows } = await client.query<{ id: string }>(
    `select distinct t.copy_id id from unnest($1::text[]) clause,
      lateral (select copy_id from decision_claims where clause_id = clause order by copy_id desc limit $2) t
      order by 1 desc limit $2`,
    [[...new Set(clauses)], newest],
  )
  return rows.map(r => Number(r.id))
}

/** What is here of one sender. */
interface Sender {
  first: Date
  copies: number
  /** Of those, kept away from their recipients. */
  stopped: number
}

/** How much was looked at, and with which copy it ended. */
interface Counted {
  copies: number
  delivered: number
  last: { at: number, id: number } | null
}

const DELIVERED_COUNT = sql<number>`(count(*) filter (where ${schema.copies.lane} in (${DELIVERED})))::int`

// Seconds with their fractions: instants of JavaScript end at the millisecond.
function isBefore(copy: { id: number, at: number }, last: { id: number, at: number }): boolean {
  return copy.at < last.at || (copy.at === last.at && copy.id < last.id)
}
