import { and, asc, eq, gt, ilike, inArray, isNull, or, sql } from 'drizzle-orm'
import { ownerName, refersToList, type Entry, type Finding, type List, type Owner } from '#core'
import { db } from '../db/client'
import { bindings as bindingTable, copies, entries, lists, rules, rulingClaims } from '../db/schema'
import { bind, bindingFrom, bindingsOf, type BindingForm, type BindingLine } from './uses'
import { countableBy } from '../access/copy-access'
import { findingsFor } from './findings'
import { currentList } from '../access/list-access'
import { addRead, countWords, readPasted, type Added } from './list-entries'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import {
  addList,
  changePolicy,
  currentVersion,
  endRows,
  entryOf,
  lapseConfirmations,
  mustStandAt,
  newId,
  ruleOf,
  standing,
  type Change,
} from './store'
import { policyInForce, refreshPolicy } from './in-force'
import { invalid } from '../platform/problem'
import { mustFit } from '../access/quota'

export interface ListForm {
  name: string
  usualSide: 'allow' | 'block'
  on: boolean
}

/** A list to be made, with its first use and entries. */
export interface NewList extends ListForm {
  owner: Owner
  binding: BindingForm | null
  /** One a line. */
  entries: string
  /** A domain means what lies below it too. */
  below: boolean
}

export interface ListCard extends Omit<List, 'entries'> {
  ownerName: string
  size: number
  /** How it is put to use, as far as the asker sees. */
  bindings: BindingLine[]
  /** Rules that refer to it. */
  rules: string[]
  /** How many people put it to a use of their own, which is theirs alone to read. */
  usedByOthers: number
  hits: number
  lastHit: string | null
  /** What the checks find in it, the first of them. */
  findings: Finding[]
  findingsInAll: number
  version: number
  mayChange: boolean
}

/** The lists that somebody sees, with their size, use and hits. */
export async function listLists(asker: Asker): Promise<ListCard[]> {
  const rows = (await db().select().from(lists).where(isNull(lists.toVersion)).orderBy(asc(lists.row))).filter(l =>
    seesClausesOf(asker, l.owner),
  )
  return cardsOf(asker, rows)
}

async function cardsOf(asker: Asker, rows: (typeof lists.$inferSelect)[]): Promise<ListCard[]> {
  const ids = rows.map(l => l.id)
  if (!ids.length) return []
  const { policy, sizes } = await policyInForce()
  const bound = await bindingsOf(asker, policy, ids)
  const hits = await db()
    .select({
      id: rulingClaims.listId,
      hits: sql<number>`count(distinct ${rulingClaims.copyId})::int`,
      last: sql<Date>`max(${copies.receivedAt})`,
    })
    .from(rulingClaims)
    .innerJoin(copies, eq(copies.id, rulingClaims.copyId))
    .where(and(inArray(rulingClaims.listId, ids), countableBy(asker)))
    .groupBy(rulingClaims.listId)
  const findings = (await findingsFor(asker)).filter(f => f.clause.kind === 'list')
  const unseen = [
    ...policy.bindings.map(b => ({ owner: b.owner, refers: (id: string) => b.list === id })),
    ...policy.rules.map(r => ({ owner: r.owner, refers: (id: string) => refersToList(r, id) })),
  ].filter(c => !seesClausesOf(asker, c.owner))
  return rows.map((l) => {
    const hit = hits.find(h => h.id === l.id)
    const found = findings.filter(f => f.clause.id === l.id)
    return {
      id: l.id,
      name: l.name,
      owner: l.owner,
      usualSide: l.usualSide,
      on: l.on,
      ownerName: ownerName(policy, l.owner),
      size: sizes.get(l.id) ?? 0,
      bindings: bound.filter(b => b.list === l.id),
      rules: policy.rules.filter(r => seesClausesOf(asker, r.owner) && refersToList(r, l.id)).map(r => r.name),
      usedByOthers: new Set(unseen.filter(c => c.refers(l.id)).map(c => c.owner)).size,
      hits: hit?.hits ?? 0,
      lastHit: hit?.last ? new Date(hit.last).toISOString() : null,
      findings: found.slice(0, MOST_FINDINGS),
      findingsInAll: found.length,
      version: l.fromVersion,
      mayChange: mayChange(asker, l.owner),
    }
  })
}

const MOST_FINDINGS = 20

export interface EntryLine extends Entry {
  hits: number
  lastHit: string | null
  expired: boolean
}

/** One list with a page of its entries, in the order in which they were added. */
export async function openList(
  asker: Asker,
  id: string,
  page: { words?: string, after?: number, limit: number },
): Promise<ListCard & { entries: EntryLine[], next: number | null, matching: number, seen: number }> {
  const row = await currentList(asker, id)
  // Before the rows are read: what comes in between is then seen too late rather than not at all.
  const { number: seen } = await currentVersion()
  const [card] = await cardsOf(asker, [row])
  const like = page.words ? `%${page.words.replace(/[\\%_]/g, '\\$&')}%` : null
  const matching = and(
    eq(entries.listId, id),
    isNull(entries.toVersion),
    like ? or(ilike(entries.value, like), ilike(entries.note, like)) : undefined,
  )
  const rows = await db()
    .select()
    .from(entries)
    .where(and(matching, page.after ? gt(entries.row, page.after) : undefined))
    .orderBy(asc(entries.row))
    .limit(page.limit + 1)
  // How many a list has is known; only a search has to count.
  const [count] = like
    ? await db()
        .select({ n: sql<number>`count(*)::int` })
        .from(entries)
        .where(matching)
    : [{ n: card!.size }]
  const shown = rows.slice(0, page.limit)
  const hits = shown.length
    ? await db()
        .select({
          id: rulingClaims.entryId,
          hits: sql<number>`count(distinct ${rulingClaims.copyId})::int`,
          last: sql<Date>`max(${copies.receivedAt})`,
        })
        .from(rulingClaims)
        .innerJoin(copies, eq(copies.id, rulingClaims.copyId))
        .where(
          and(
            inArray(
              rulingClaims.entryId,
              shown.map(e => e.id),
            ),
            countableBy(asker),
          ),
        )
        .groupBy(rulingClaims.entryId)
    : []
  return {
    ...card!,
    entries: shown.map((e) => {
      const hit = hits.find(h => h.id === e.id)
      return {
        ...entryOf(e),
        hits: hit?.hits ?? 0,
        lastHit: hit?.last ? new Date(hit.last).toISOString() : null,
        expired: e.expires !== null && e.expires <= new Date(),
      }
    }),
    next: rows.length > page.limit ? shown.at(-1)!.row : null,
    matching: count!.n,
    seen,
  }
}

/** Makes a list, with its first use and entries if given. */
export async function makeList(asker: Asker, form: NewList): Promise<{ id: string } & Added> {
  const { policy } = await policyInForce()
  mustBeSomebody(policy, form.owner)
  mustBeAllowed(asker, form.owner)
  const id = newId()
  const binding = form.binding && bindingFrom(asker, form.binding, id, form.owner)
  const read = await readPasted(form.entries, form.below)
  const added = await changePolicy(asker.id, form.owner, `List “${form.name}” made, ${countWords(read.good.length)}`, async (change) => {
    await nameIsFree(change, form.name, form.owner, id)
    await addList(change, { id, name: form.name, owner: form.owner, usualSide: form.usualSide, on: form.on })
    if (binding) await bind(change, asker, binding)
    await mustFit(change, asker, form.owner, 'lists')
    return addRead(change, asker, { id, owner: form.owner }, read, {})
  })
  await refreshPolicy()
  return { id, ...added }
}

/** Changes a list's name, state and usual side. */
export async function changeList(asker: Asker, id: string, version: number, form: ListForm): Promise<void> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  await changePolicy(
    asker.id,
    row.owner,
    `List “${form.name}” changed${form.on === row.on ? '' : form.on ? ': switched on' : ': switched off'}`,
    async (change) => {
      await mustStandAt(change, lists, id, version, `“${row.name}”`)
      await nameIsFree(change, form.name, row.owner, id)
      if (form.on && !(await standing(change, lists, id))!.on) await lapseConfirmations(change, { list: id })
      await endRows(change, lists, [id])
      await addList(change, { id, name: form.name, owner: row.owner, usualSide: form.usualSide, on: form.on })
    },
  )
  await refreshPolicy()
}

/** Takes a list away with its entries and uses; not while a rule refers to it. */
export async function removeList(asker: Asker, id: string, version: number): Promise<void> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  await changePolicy(asker.id, row.owner, `List “${row.name}” deleted`, async (change) => {
    await mustStandAt(change, lists, id, version, `“${row.name}”`)
    await nobodyRefers(change, asker, row)
    await endRows(change, lists, [id])
    await change.tx
      .update(entries)
      .set({ toVersion: change.version })
      .where(and(eq(entries.listId, id), isNull(entries.toVersion)))
    await change.tx
      .update(bindingTable)
      .set({ toVersion: change.version })
      .where(and(eq(bindingTable.listId, id), isNull(bindingTable.toVersion)))
  })
  await refreshPolicy()
}

async function nobodyRefers(change: Change, asker: Asker, list: { id: string, name: string }): Promise<void> {
  const using = (await change.tx.select().from(rules).where(isNull(rules.toVersion))).map(ruleOf).filter(r => refersToList(r, list.id))
  const known = using.filter(r => seesClausesOf(asker, r.owner)).map(r => r.name)
  const others = using.length - known.length
  const named = [...known, ...(others ? [others === 1 ? 'a rule of somebody’s own' : `${others} rules of people’s own`] : [])]
  if (named.length) throw invalid(`“${list.name}” is used by ${named.join(', ')}. Take it out there first, or switch the list off.`)
}

async function nameIsFree({ tx }: Change, name: string, owner: Owner, id: string): Promise<void> {
  const same = await tx
    .select({ id: lists.id })
    .from(lists)
    .where(and(eq(lists.owner, owner), sql`lower(${lists.name}) = lower(${name})`, isNull(lists.toVersion)))
  if (same.some(l => l.id !== id))
    throw invalid(`There is a list “${name}” already.`, { name: 'This name is taken. Choose another, or add to that list.' })
}
