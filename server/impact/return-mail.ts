import { and, desc, gte, inArray, lt, sql } from 'drizzle-orm'
import { KEPT_LANES, ruleStops, type KeptLane, type Lane, type Owner, type Policy } from '#core'
import type { PolicyChange } from '#core/change'
import { landing, type Looked } from '#core/simulate'
import { recordEvent } from '../audit/record'
import { mustBeAllowed, seesClausesOf } from '../access/ownership'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { copies, type ChangeNote } from '../db/schema'
import { invalid, notFound } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'
import { WORDS_VERSION } from '../policy/words-version'
import { saveChanges, type SavedChanges } from './save-changes'
import { linesOf, type CopyView } from '../copies/copies'
import { addExistingJob, takenBy, type Took } from './existing-job'
import { decisionsUnder } from './simulation'

/** A clause that turned out wrong, and from when to when. */
export interface ReturnMail {
  clause: Took
  after?: Date
  before?: Date
}

/** What returning mail a clause would do. */
export interface ReturnPreview extends Looked {
  /** The version of the policy on which it was looked at. */
  base: number
  words: string
  /** Copies that it took in that time and that lie here; of those, what stays and why. */
  took: number
  markedUnwanted: number
  byHand: number
  /** Where the others would go. */
  goes: { lane: KeptLane, quarantine: string | null, copies: number }[]
  sample: CopyView[]
  /** What cannot be brought back, since nothing of it was kept: by sender, the most first. */
  gone: { sender: string, copies: number }[]
}

const BATCH_SIZE = 1000
const MAX_SHOWN = 12
const MAX_SENDERS = 100

/** What a clause took in a time, and where it would go without it, under the policy of now. Nothing is changed. */
export async function previewReturn(actor: Actor, giving: ReturnMail): Promise<ReturnPreview> {
  const { policy } = await activePolicy()
  const { words, changes } = switchedOff(actor, policy, giving.clause)
  const { net, version } = await previewChanges(actor, changes)
  const taken = and(visibleTo(actor), takenIn(giving))
  const here = and(taken, inArray(copies.lane, [...KEPT_LANES]))
  const isUnwanted = sql`${copies.judgement} = 'unwanted'`
  const [count] = await db()
    .select({
      took: sql<number>`count(*)::int`,
      markedUnwanted: sql<number>`(count(*) filter (where ${isUnwanted}))::int`,
      byHand: sql<number>`(count(*) filter (where ${copies.movedBy} is not null and ${copies.judgement} is distinct from 'unwanted'))::int`,
    })
    .from(copies)
    .where(here)
  const rows = await db()
    .select({ id: copies.id, lane: copies.lane, quarantine: copies.quarantineId })
    .from(copies)
    .where(and(here, sql`${copies.movedBy} is null`, sql`${copies.judgement} is distinct from 'unwanted'`))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
  const { goes, leaving } = await whereTo(rows, net)
  const gone = await db()
    .select({ sender: copies.senderAddress, copies: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(taken, inArray(copies.lane, ['refused', 'discarded'])))
    .groupBy(copies.senderAddress)
    .orderBy(sql`count(*) desc`, copies.senderAddress)
    .limit(MAX_SENDERS)
  return {
    base: version,
    words,
    ...count!,
    goes,
    looked: rows.length,
    inScope: rows.length,
    sample: await linesOf(actor, leaving.slice(0, MAX_SHOWN)),
    gone,
  }
}

interface Lying {
  id: number
  lane: Lane
  quarantine: string | null
}

/** Where copies would go by a change, the most copies first, and the ids of those that would leave where they lie. */
async function whereTo(rows: readonly Lying[], net: PolicyChange[]): Promise<Pick<ReturnPreview, 'goes'> & { leaving: number[] }> {
  const goes = new Map<string, ReturnPreview['goes'][number]>()
  const leaving: number[] = []
  for (let at = 0; at < rows.length; at += BATCH_SIZE) {
    const some = new Map(rows.slice(at, at + BATCH_SIZE).map(r => [r.id, r]))
    const [ended = []] = await decisionsUnder({ nets: [net], ids: [...some.keys()] })
    for (const { id, decision } of ended) {
      const { lane, quarantine } = landing(decision)
      const was = some.get(id)!
      if (was.lane === lane && was.quarantine === quarantine) continue
      leaving.push(id)
      const key = `${lane} ${quarantine}`
      const one = goes.get(key) ?? { lane, quarantine, copies: 0 }
      one.copies++
      goes.set(key, one)
    }
  }
  return { goes: [...goes.values()].sort((a, b) => b.copies - a.copies), leaving }
}

/**
 * Returns what a clause took: it is switched off, and as a job each copy goes where it would have gone without it. What a person
 * moved by hand stays, and so does what was marked unwanted.
 */
export async function returnMail(actor: Actor, giving: ReturnMail): Promise<SavedChanges> {
  const { policy } = await activePolicy()
  const { name, changes } = switchedOff(actor, policy, giving.clause)
  const existing = { lanes: [...KEPT_LANES], after: giving.after, before: giving.before, took: giving.clause }
  const note: ChangeNote = { kind: 'returnedMail', clause: giving.clause.kind as 'rule' | 'list', name }
  const { net, version } = await previewChanges(actor, changes)
  // What it takes away it takes from nobody; that it was looked at is asked of whoever calls.
  if (net.length) return saveChanges(actor, { base: version, changes, note, coming: true, existing, confirmed: { broad: true } })
  // It is off already.
  return db().transaction(async (tx) => {
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind: 'applied',
      detail: { note, words: '', wordsVersion: WORDS_VERSION, count: 0 },
    })
    return { version, eventId, job: await addExistingJob(tx, actor, eventId, { ...existing, net: [], is: 'before', version: 0 }) }
  })
}

function takenIn({ clause, after, before }: ReturnMail) {
  return and(
    takenBy(clause),
    after ? gte(copies.receivedAt, after) : undefined,
    before ? lt(copies.receivedAt, before) : undefined,
  )
}

function switchedOff(actor: Actor, policy: Policy, { kind, id }: Took): { name: string, words: string, changes: PolicyChange[] } {
  if (kind === 'rule') {
    const rule = policy.rules.find(r => r.id === id)
    if (!rule) throw notFound('This rule')
    mustBeOnesOwn(actor, rule.owner, 'This rule')
    if (!ruleStops(rule)) throw invalid('This rule blocks no mail, so there is nothing to return.')
    return {
      name: rule.name,
      words: `rule “${rule.name}”`,
      changes: [{ type: 'put', kind: 'rule', value: { ...rule, state: 'disabled' } }],
    }
  }
  const assignment = policy.assignments.find(b => b.id === id)
  if (kind !== 'list' || !assignment) throw notFound('This assignment')
  mustBeOnesOwn(actor, assignment.owner, 'This assignment')
  if (assignment.side !== 'block') throw invalid('This list blocks no mail, so there is nothing to return.')
  const name = policy.lists.find(l => l.id === assignment.list)?.name ?? 'a list'
  return { name, words: `list “${name}”`, changes: [{ type: 'put', kind: 'assignment', value: { ...assignment, state: 'disabled' } }] }
}

function mustBeOnesOwn(actor: Actor, owner: Owner, what: string): void {
  if (!seesClausesOf(actor, owner)) throw notFound(what)
  mustBeAllowed(actor, owner)
}
