import { and, eq, inArray, sql } from 'drizzle-orm'
import { addTo, makeAddress, personOwner } from '#core'
import { handOver, type PolicyChange } from '#core/change'
import { UNDO_MINUTES } from '#core/limits'
import { recordEvent } from '../audit/record'
import { lockUsers } from '../access/rights-lock'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import { db, longDb, type Tx } from '../db/client'
import {
  addresses, type auditEvents, copies, lists, people, phraseSets, quarantineReviewers, releaseRequests, rules, transferredCopies,
} from '../db/schema'
import { conflict, invalid } from '../platform/problem'
import { changedSince } from '../policy/conflicts'
import { changesBack } from '../policy/undo-version'
import { activePolicy, refreshPeople, refreshPolicy } from '../policy/active-policy'
import { changeClauses } from '../policy/apply'
import { loadAt } from '../policy/store'
import { mustBeHere, mustNotBeLast, standingMember } from './member-changes'
import { openMember, type Member } from './members'

/** What somebody has, before they are deactivated. Numbers of messages are of copies that are here. */
export interface AtStake {
  addresses: { address: string, shared: boolean, messages: number, lastMonth: number }[]
  lists: number
  rules: number
  phraseSets: number
  messages: number
  /** Of those the ones in a quarantine. */
  held: number
  /** Releases that they asked for, not answered. */
  requests: number
  /** Quarantines that nobody else is a reviewer of: all reviewers see them from then on. */
  quarantines: string[]
}

export interface DeactivationForm {
  /** Gets the lists, rules and mail, and each address that is not named; null for nobody. */
  successor: string | null
  /** For single addresses somebody else, or nobody: mail to them is refused from then on. */
  addresses: { address: string, successor: string | null }[]
  version: number
}

/** What becomes of one address, as an event keeps it. */
interface AddressMove {
  address: string
  shown: string
  to: string | null
  /** Whose it was besides. */
  others: string[]
}

interface DeactivationDetail {
  person: string
  name: string
  /** The name of the successor. */
  successor?: string
  addresses: AddressMove[]
  /** The version in which lists and rules went over; null where there were none. */
  version: number | null
  /** The version of the user that it left. */
  left: number
}

const isHere = sql`not ${copies.erased} and ${copies.lane} not in ('refused', 'discarded')`
// A +tag belongs to the address without it (RFC 5233).
const toAddress = sql<string>`regexp_replace(${copies.recipient}, '\\+[^@]*@', '@')`

/** What is at stake where a user is deactivated. */
export async function atStake(id: string): Promise<AtStake> {
  const member = await openMember(id)
  const owner = personOwner(id)
  const own = async (table: typeof lists | typeof rules | typeof phraseSets) => {
    const [row] = await db()
      .select({ n: sql<number>`count(*)::int` })
      .from(table)
      .where(sql`${table.owner} = ${owner} and ${table.toVersion} is null`)
    return row!.n
  }
  const byAddress = await db()
    .select({
      address: toAddress,
      messages: sql<number>`count(*)::int`,
      lastMonth: sql<number>`(count(*) filter (where ${copies.receivedAt} > now() - interval '30 days'))::int`,
      held: sql<number>`(count(*) filter (where ${copies.lane} = 'quarantine'))::int`,
    })
    .from(copies)
    .where(and(eq(copies.personId, id), isHere))
    .groupBy(sql`1`)
  const [requests] = await db()
    .select({ n: sql<number>`count(*)::int` })
    .from(releaseRequests)
    .where(and(eq(releaseRequests.personId, id), eq(releaseRequests.state, 'open')))
  const reviewed = await db()
    .select({ id: quarantineReviewers.quarantineId })
    .from(quarantineReviewers)
    .innerJoin(people, and(eq(people.id, quarantineReviewers.personId), sql`${people.deactivatedAt} is null`))
    .groupBy(quarantineReviewers.quarantineId)
    .having(sql`bool_and(${quarantineReviewers.personId} = ${id})`)
  const { policy } = await activePolicy()
  const sum = (of: 'messages' | 'held') => byAddress.reduce((n, a) => n + a[of], 0)
  const counts = new Map(byAddress.map(a => [a.address, a]))
  return {
    addresses: member.addresses.map((address) => {
      const of = counts.get(makeAddress(address).key)
      return { address, shared: member.shared.includes(address), messages: of?.messages ?? 0, lastMonth: of?.lastMonth ?? 0 }
    }),
    lists: await own(lists),
    rules: await own(rules),
    phraseSets: await own(phraseSets),
    messages: sum('messages'),
    held: sum('held'),
    requests: requests!.n,
    quarantines: policy.quarantines.filter(q => reviewed.some(r => r.id === q.id)).map(q => q.name),
  }
}

/**
 * Signs a user out for good. Their lists, rules and mail go to the successor, and each address, with the mail to it, to its own; mail
 * to an address without one is refused from then on. Can be undone for an hour.
 * @throws 409 where the user was changed after that version, 422 where a successor is not active
 */
export async function deactivate(actor: Actor, id: string, form: DeactivationForm): Promise<Member & { eventId: number }> {
  const person = await openMember(id)
  if (person.deactivatedAt !== null) throw invalid(`User “${person.name}” is already deactivated.`)
  if (id === actor.id) throw invalid('You cannot deactivate yourself. Ask another administrator.')
  const eventId = await longDb().transaction(async (tx) => {
    await lockUsers(tx)
    const now = await standingMember(tx, id, form.version)
    const moves = await addressMoves(tx, now, form)
    const successor = form.successor === null ? null : await mustTakeOver(tx, now, form.successor)
    for (const to of new Set(moves.map(m => m.to))) if (to !== null) await mustTakeOver(tx, now, to)
    if (now.role === 'administrator') await mustNotBeLast(tx, id)
    const changed = successor && await transferClauses(tx, now, successor)
    const detail: DeactivationDetail = {
      person: id,
      name: person.name,
      ...(successor ? { successor: successor.name } : {}),
      addresses: moves,
      version: changed?.eventId == null ? null : changed.version,
      left: now.version + 1,
    }
    const event = await recordEvent(tx, { personId: actor.id, kind: 'deactivatedUser', detail: { ...detail } })
    await tx.delete(addresses).where(eq(addresses.personId, id))
    for (const { address, shown, to, others } of moves)
      if (to !== null && !others.includes(to)) await tx.insert(addresses).values({ address, shown, personId: to })
    await transferCopies(tx, event, { id, moves, successor: form.successor })
    await tx
      .update(people)
      .set({
        deactivatedAt: new Date(),
        successorId: form.successor,
        sessionEpoch: sql`${people.sessionEpoch} + 1`,
        version: sql`${people.version} + 1`,
      })
      .where(eq(people.id, id))
    return event
  })
  await refreshPolicy()
  await refreshPeople()
  return { ...(await openMember(id)), eventId }
}

async function mustTakeOver(tx: Tx, { id }: Member, successor: string): Promise<Member> {
  if (successor === id) throw invalid('Choose another user as successor.', { successor: 'Choose another user.' })
  return mustBeHere(tx, successor)
}

async function addressMoves(tx: Tx, { id, name, addresses: own }: Member, form: DeactivationForm): Promise<AddressMove[]> {
  const wanted = new Map(form.addresses.map(a => [makeAddress(a.address).key, a.successor]))
  const keys = own.map(shown => makeAddress(shown).key)
  const strange = form.addresses.find(a => !keys.includes(makeAddress(a.address).key))
  if (strange) throw invalid(`${strange.address} is not an address of ${name}.`, { addresses: 'Reload the user.' })
  const others = new Map<string, string[]>()
  for (const { address, personId } of await tx.select().from(addresses).where(inArray(addresses.address, keys)))
    if (personId !== id) addTo(others, address, personId)
  return own.map((shown, i) => {
    const address = keys[i]!
    return { address, shown, to: wanted.has(address) ? wanted.get(address)! : form.successor, others: others.get(address) ?? [] }
  })
}

function transferClauses(tx: Tx, from: Member, to: Member) {
  return changeClauses(
    null,
    async ({ tx: at, policy }) => {
      const whole = await loadAt(at, policy.version)
      return handOver(whole, { owner: personOwner(from.id), name: from.name }, personOwner(to.id))
    },
    { within: tx, note: { kind: 'handedOver', from: from.name, to: to.name } },
  )
}

// Which ones went is kept as long as it can be undone.
async function transferCopies(
  tx: Tx,
  eventId: number,
  { id, moves, successor }: { id: string, moves: readonly AddressMove[], successor: string | null },
): Promise<void> {
  const take = async (to: string, which: ReturnType<typeof sql>) => {
    await tx.execute(sql`
      with gone as (
        update ${copies} set person_id = ${to}, version = version + 1 where person_id = ${id} and ${which} returning id)
      insert into ${transferredCopies} (event_id, copy_id, to_id) select ${eventId}, id, ${to} from gone`)
  }
  for (const { address, to } of moves) if (to !== null && to !== successor) await take(to, sql`${toAddress} = ${address}`)
  if (successor !== null) await take(successor, sql`true`)
}

/** Whether a deactivation can still be undone. */
export function isUndoableDeactivation({ at, detail }: Pick<typeof auditEvents.$inferSelect, 'at' | 'detail'>): boolean {
  // One of an older version of the product does not say what it did.
  return 'left' in detail && Date.now() - at.getTime() < UNDO_MINUTES * 60_000
}

/**
 * Undoes a deactivation within its hour: the user signs in with the password of before, and has addresses, lists, rules and mail again.
 * Mail that came meanwhile stays with whom it came to.
 * @throws 409 where something of it was changed since
 */
export async function undoDeactivation(actor: Actor, event: typeof auditEvents.$inferSelect): Promise<number> {
  if (!isUndoableDeactivation(event)) throw invalid('A deactivation can be undone for an hour. Add the user again in Settings.')
  const { person: id, name, addresses: moves, version, left } = event.detail as unknown as DeactivationDetail
  const undone = await longDb().transaction(async (tx) => {
    await lockUsers(tx)
    const [there] = await tx.select().from(people).where(eq(people.id, id)).for('update')
    if (!there || there.deactivatedAt === null || there.version !== left) throw conflict(`User “${name}”`)
    if (version !== null)
      await changeClauses(null, ({ tx: at }) => clausesBack(at, version, name), { within: tx, note: { kind: 'handedBack', to: name } })
    await bringAddressesBack(tx, id, moves)
    await tx.execute(sql`
      update ${copies} c set person_id = ${id}, version = c.version + 1
      from ${transferredCopies} t where t.event_id = ${event.id} and t.copy_id = c.id and c.person_id = t.to_id`)
    await tx.delete(transferredCopies).where(eq(transferredCopies.eventId, event.id))
    await tx
      .update(people)
      .set({ deactivatedAt: null, successorId: null, version: sql`${people.version} + 1` })
      .where(eq(people.id, id))
    return recordEvent(tx, { personId: actor.id, kind: 'undone', detail: {}, undoes: event.id })
  })
  await refreshPolicy()
  await refreshPeople()
  return undone
}

// Without who changed what since: that is the successor's own.
async function clausesBack(tx: Tx, version: number, name: string): Promise<PolicyChange[]> {
  const back = await changesBack(tx, version)
  if ((await changedSince(tx, null, back, version)).length) throw conflict(`What was transferred from ${name}`)
  return back
}

async function bringAddressesBack(tx: Tx, id: string, moves: readonly AddressMove[]): Promise<void> {
  const now = new Map<string, string[]>()
  const rows = await tx.select().from(addresses).where(isAnyOf(addresses.address, moves.map(m => m.address)))
  for (const { address, personId } of rows) addTo(now, address, personId)
  for (const { address, shown, to, others } of moves) {
    const left = new Set([...others, ...(to === null ? [] : [to])])
    const holders = now.get(address) ?? []
    // Somebody else has it now, or somebody who shared it has it no more.
    if (holders.length !== left.size || holders.some(h => !left.has(h))) throw conflict(`The address ${shown}`)
    if (to !== null && !others.includes(to))
      await tx.delete(addresses).where(and(eq(addresses.address, address), eq(addresses.personId, to)))
    await tx.insert(addresses).values({ address, shown, personId: id })
  }
}

/** Forgets what was kept for undoing deactivations, once that is over: passwords, and whose mail was whose. */
export async function endDeactivations(): Promise<void> {
  await db().transaction(async (tx) => {
    // Under the same lock as undoing: it must not find half of it gone.
    await lockUsers(tx)
    const over = sql`now() - make_interval(mins => ${UNDO_MINUTES})`
    await tx.update(people).set({ passwordHash: null }).where(sql`${people.deactivatedAt} < ${over} and ${people.passwordHash} is not null`)
    await tx.execute(sql`delete from ${transferredCopies} t using audit_events e where e.id = t.event_id and e.at < ${over}`)
  })
}
