import { and, desc, gte, inArray, lt, sql } from 'drizzle-orm'
import { KEPT_LANES, ruleStops, type KeptLane, type Owner, type Policy } from '#core'
import type { PolicyChange } from '#core/change'
import { landing } from '#core/simulate'
import { recordAct } from '../audit/record'
import { mustBeAllowed, seesClausesOf } from '../access/ownership'
import { visibleTo } from '../access/copy-access'
import type { Asker } from '../access/roles'
import { db } from '../db/client'
import { copies } from '../db/schema'
import { invalid, notFound } from '../platform/problem'
import { policyInForce } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'
import { putInForce, type PutInForce } from './save-changes'
import { linesOf, type CopyLine } from '../copies/copies'
import { addExistingJob, takenBy, type Took } from './existing-job'
import { rulingsUnder } from './simulation'

/** A clause that turned out wrong, and from when to when. */
export interface GivingBack {
  clause: Took
  after?: Date
  before?: Date
}

/** What giving back a clause would do. */
export interface GivenBack {
  /** The version of the policy on which it was looked at. */
  base: number
  words: string
  /** Copies that it took in that time and that lie here; of those, what stays and why. */
  took: number
  judgedUnwanted: number
  byHand: number
  /** Where the others would go; among the newest `looked` of them. */
  goes: { lane: KeptLane, quarantine: string | null, copies: number }[]
  looked: number
  sample: CopyLine[]
  /** What cannot be brought back, since nothing of it was kept: by sender, the most first. */
  gone: { sender: string, copies: number }[]
}

const MOST_LOOKED = 2000
const MOST_SHOWN = 12
const MOST_SENDERS = 100

/** What a clause took in a time, and where it would go without it, under the policy of now. Nothing is changed. */
export async function lookAtGivingBack(asker: Asker, giving: GivingBack): Promise<GivenBack> {
  const { policy } = await policyInForce()
  const { words, changes } = switchedOff(asker, policy, giving.clause)
  const { net, version } = await previewChanges(asker, changes)
  const taken = and(visibleTo(asker), takenIn(giving))
  const here = and(taken, inArray(copies.lane, [...KEPT_LANES]))
  const isUnwanted = sql`${copies.judgement} = 'unwanted'`
  const [count] = await db()
    .select({
      took: sql<number>`count(*)::int`,
      judgedUnwanted: sql<number>`(count(*) filter (where ${isUnwanted}))::int`,
      byHand: sql<number>`(count(*) filter (where ${copies.movedBy} is not null and ${copies.judgement} is distinct from 'unwanted'))::int`,
    })
    .from(copies)
    .where(here)
  const rows = await db()
    .select({ id: copies.id, lane: copies.lane, quarantine: copies.quarantineId })
    .from(copies)
    .where(and(here, sql`${copies.movedBy} is null`, sql`${copies.judgement} is distinct from 'unwanted'`))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(MOST_LOOKED)
  const ids = rows.map(r => r.id)
  const goes = new Map<string, GivenBack['goes'][number]>()
  const leaving: number[] = []
  const [ended = []] = ids.length ? await rulingsUnder({ nets: [net], ids }) : []
  for (const { id, ruling } of ended) {
    const { lane, quarantine } = landing(ruling)
    const was = rows.find(r => r.id === id)!
    if (was.lane === lane && was.quarantine === quarantine) continue
    leaving.push(id)
    const key = `${lane} ${quarantine}`
    const one = goes.get(key) ?? { lane, quarantine, copies: 0 }
    one.copies++
    goes.set(key, one)
  }
  const gone = await db()
    .select({ sender: copies.senderAddress, copies: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(taken, inArray(copies.lane, ['refused', 'dropped'])))
    .groupBy(copies.senderAddress)
    .orderBy(sql`count(*) desc`, copies.senderAddress)
    .limit(MOST_SENDERS)
  return {
    base: version,
    words,
    ...count!,
    goes: [...goes.values()].sort((a, b) => b.copies - a.copies),
    looked: rows.length,
    sample: await linesOf(asker, leaving.slice(0, MOST_SHOWN)),
    gone,
  }
}

/**
 * Gives back what a clause took: it is switched off, and as a job each copy goes where it would have gone without it. What a person
 * moved by hand stays, and so does what was judged unwanted.
 */
export async function giveBack(asker: Asker, giving: GivingBack): Promise<PutInForce> {
  const { policy } = await policyInForce()
  const { words, changes } = switchedOff(asker, policy, giving.clause)
  const existing = { lanes: [...KEPT_LANES], after: giving.after, before: giving.before, took: giving.clause }
  const note = `gave back what ${words} took`
  const { net, version } = await previewChanges(asker, changes)
  // What it takes away it takes from nobody; that it was looked at is asked of whoever calls.
  if (net.length) return putInForce(asker, { base: version, changes, note, coming: true, existing, confirmed: { broad: true } })
  // It is off already.
  return db().transaction(async (tx) => {
    const act = await recordAct(tx, { personId: asker.id, kind: 'applied', detail: { words: note, count: 0 } })
    return { version, act, job: await addExistingJob(tx, asker, act, { ...existing, net: [], is: 'before', version: 0 }) }
  })
}

function takenIn({ clause, after, before }: GivingBack) {
  return and(
    takenBy(clause),
    after ? gte(copies.receivedAt, after) : undefined,
    before ? lt(copies.receivedAt, before) : undefined,
  )
}

function switchedOff(asker: Asker, policy: Policy, { kind, id }: Took): { words: string, changes: PolicyChange[] } {
  if (kind === 'rule') {
    const rule = policy.rules.find(r => r.id === id)
    if (!rule) throw notFound('rule of that name')
    mustBeOnesOwn(asker, rule.owner, 'rule of that name')
    if (!ruleStops(rule)) throw invalid('This rule keeps nothing from anybody: there is nothing to give back.')
    return { words: `the rule “${rule.name}”`, changes: [{ put: 'rule', rule: { ...rule, state: 'off' } }] }
  }
  const use = policy.bindings.find(b => b.id === id)
  if (kind !== 'list' || !use) throw notFound('use of a list with that number')
  mustBeOnesOwn(asker, use.owner, 'use of a list with that number')
  if (use.side !== 'block') throw invalid('This list keeps nothing from anybody: there is nothing to give back.')
  const name = policy.lists.find(l => l.id === use.list)?.name ?? 'a list'
  return { words: `the list “${name}”`, changes: [{ put: 'use', use: { ...use, state: 'off' } }] }
}

function mustBeOnesOwn(asker: Asker, owner: Owner, what: string): void {
  if (!seesClausesOf(asker, owner)) throw notFound(what)
  mustBeAllowed(asker, owner)
}
