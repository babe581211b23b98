import { randomUUID } from 'node:crypto'
import { and, asc, eq, gt, ilike, inArray, isNull, or, sql } from 'drizzle-orm'
import { ownerName, refersToList, type Entry, type List, type Owner } from '#core'
import type { Judged } from '#core/simulate'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { copies, entries, lists, rulingClaims } from '../db/schema'
import { bindingFrom, bindingsOf, type BindingForm, type BindingLine } from './assignments'
import { countableBy } from '../access/copy-access'
import { findingsFor, withMends, type FindingTold } from './findings'
import { currentList } from '../access/list-access'
import { addedOf, readPasted, type Added } from './list-entries'
import { mayChange, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { entryOf } from './rows'
import { currentVersion } from './store'
import { policyInForce } from './active-policy'

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
  /** Of what it caught. */
  judged: Pick<Judged, 'wanted' | 'unwanted'>
  /** What the checks find in it, the first of them. */
  findings: FindingTold[]
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
      ...HITS,
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
  return Promise.all(rows.map(async (l) => {
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
      judged: { wanted: hit?.wanted ?? 0, unwanted: hit?.unwanted ?? 0 },
      findings: await withMends(found.slice(0, MOST_FINDINGS)),
      findingsInAll: found.length,
      version: l.fromVersion,
      mayChange: mayChange(asker, l.owner),
    }
  }))
}

const MOST_FINDINGS = 20

const NO_LINES = { 'new': 0, 'there': 0, 'twice': 0, 'covered': 0, 'contrary': 0, 'not understood': 0 }

const HITS = {
  hits: sql<number>`count(distinct ${rulingClaims.copyId})::int`,
  last: sql<Date>`max(${copies.receivedAt})`,
  wanted: sql<number>`(count(distinct ${rulingClaims.copyId}) filter (where ${copies.judgement} = 'wanted'))::int`,
  unwanted: sql<number>`(count(distinct ${rulingClaims.copyId}) filter (where ${copies.judgement} = 'unwanted'))::int`,
}

export interface EntryLine extends Entry {
  hits: number
  lastHit: string | null
  /** Of what it caught. */
  judged: Pick<Judged, 'wanted' | 'unwanted'>
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
  const like = page.words ? `%${literally(page.words)}%` : null
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
          ...HITS,
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
        judged: { wanted: hit?.wanted ?? 0, unwanted: hit?.unwanted ?? 0 },
        expired: e.expires !== null && e.expires <= new Date(),
      }
    }),
    next: rows.length > page.limit ? shown.at(-1)!.row : null,
    matching: count!.n,
    seen,
  }
}

/** Makes a list, with its first use and entries if given. */
export async function makeList(asker: Asker, form: NewList): Promise<{ id: string } & Added & Done> {
  const id = randomUUID()
  const { name, owner, usualSide, on } = form
  const use = form.binding && bindingFrom(form.binding, id, owner)
  const read = await readPasted(form.entries, form.below)
  const { act, version, changes } = await changeClauses(
    asker,
    [
      { put: 'list', list: { id, name, owner, usualSide, on } },
      ...(read.good.length ? [{ put: 'entries' as const, list: id, entries: read.good }] : []),
      // Last: what it confirms is confirmed for the list as it is with them.
      ...(use ? [{ put: 'use' as const, use }] : []),
    ],
    { prefix: 'binding.' },
  )
  const added = addedOf(changes)
  const report = {
    counts: { ...NO_LINES, 'new': added.addedCount, 'twice': read.twice.length, 'not understood': read.wrong.length },
    lines: [],
  }
  return { id, ...added, there: [], wrong: read.wrong, size: added.addedCount, report, act, version }
}

/** Changes a list's name, state and usual side. */
export async function changeList(asker: Asker, id: string, base: number, { name, usualSide, on }: ListForm): Promise<Done> {
  const { name: known, owner } = await currentList(asker, id)
  const { act, version } = await changeClauses(asker, [{ put: 'list', list: { id, name, owner, usualSide, on } }], {
    base,
    what: `“${known}”`,
  })
  return { act, version }
}

/** Takes a list away with its entries and uses; not while a rule refers to it. */
export async function removeList(asker: Asker, id: string, base: number): Promise<Done> {
  const { name } = await currentList(asker, id)
  const { act, version } = await changeClauses(asker, [{ remove: 'list', id }], { base, what: `“${name}”` })
  return { act, version }
}
