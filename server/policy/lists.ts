import { randomUUID } from 'node:crypto'
import { and, asc, eq, gt, ilike, inArray, isNull, or, sql } from 'drizzle-orm'
import { LINE_OUTCOMES, ownerName, refersToList, type Entry, type List, type Owner } from '#core'
import type { Marks } from '#core/simulate'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { copies, entries, lists, decisionClaims } from '../db/schema'
import { ENTRY_PLACE, placeOf } from './entry-place'
import { assignmentFrom, assignmentsOf, type AssignmentForm, type AssignmentView } from './assignments'
import { countableBy } from '../access/copy-access'
import { findingsFor, withFixes, type FindingView } from './findings'
import { currentList } from '../access/list-access'
import { addedOf, readPasted, type Added, type PasteView } from './list-entries'
import { canChange, seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { entryOf } from './rows'
import { currentVersion } from './store'
import { activePolicy } from './active-policy'

export interface ListForm {
  name: string
  usualSide: 'allow' | 'block'
  enabled: boolean
}

/** A list to be made, with its first use and entries. */
export interface NewList extends ListForm {
  owner: Owner
  assignment: AssignmentForm | null
  /** One a line. */
  entries: string
  /** A domain means what lies below it too. */
  below: boolean
}

export interface ListView extends Omit<List, 'entries'> {
  ownerName: string
  size: number
  /** How it is put to use, as far as the actor sees. */
  assignments: AssignmentView[]
  /** Rules that refer to it. */
  rules: string[]
  /** How many people put it to a use of their own, which is theirs alone to read. */
  assignedByOthers: number
  hits: number
  lastHit: string | null
  /** Of what it caught. */
  marked: Pick<Marks, 'wanted' | 'unwanted'>
  /** What the checks find in it, the first of them. */
  findings: FindingView[]
  findingsInAll: number
  version: number
  canChange: boolean
}

/** The lists that somebody sees, with their size, use and hits. */
export async function listLists(actor: Actor): Promise<ListView[]> {
  const rows = (await db().select().from(lists).where(isNull(lists.toVersion)).orderBy(asc(lists.row))).filter(l =>
    seesClausesOf(actor, l.owner),
  )
  return cardsOf(actor, rows)
}

async function cardsOf(actor: Actor, rows: (typeof lists.$inferSelect)[]): Promise<ListView[]> {
  const ids = rows.map(l => l.id)
  if (!ids.length) return []
  const { policy, sizes } = await activePolicy()
  const bound = await assignmentsOf(actor, policy, ids)
  const hits = await db()
    .select({
      id: decisionClaims.listId,
      ...HITS,
    })
    .from(decisionClaims)
    .innerJoin(copies, eq(copies.id, decisionClaims.copyId))
    .where(and(inArray(decisionClaims.listId, ids), countableBy(actor)))
    .groupBy(decisionClaims.listId)
  const findings = (await findingsFor(actor)).filter(f => f.clause.kind === 'list')
  const unseen = [
    ...policy.assignments.map(b => ({ owner: b.owner, refers: (id: string) => b.list === id })),
    ...policy.rules.map(r => ({ owner: r.owner, refers: (id: string) => refersToList(r, id) })),
  ].filter(c => !seesClausesOf(actor, c.owner))
  return Promise.all(rows.map(async (l) => {
    const hit = hits.find(h => h.id === l.id)
    const found = findings.filter(f => f.clause.id === l.id)
    return {
      id: l.id,
      name: l.name,
      owner: l.owner,
      usualSide: l.usualSide,
      enabled: l.enabled,
      ownerName: ownerName(policy, l.owner),
      size: sizes.get(l.id) ?? 0,
      assignments: bound.filter(b => b.list === l.id),
      rules: policy.rules.filter(r => seesClausesOf(actor, r.owner) && refersToList(r, l.id)).map(r => r.name),
      assignedByOthers: new Set(unseen.filter(c => c.refers(l.id)).map(c => c.owner)).size,
      hits: hit?.hits ?? 0,
      lastHit: hit?.last ? new Date(hit.last).toISOString() : null,
      marked: { wanted: hit?.wanted ?? 0, unwanted: hit?.unwanted ?? 0 },
      findings: await withFixes(found.slice(0, MAX_FINDINGS)),
      findingsInAll: found.length,
      version: l.fromVersion,
      canChange: canChange(actor, l.owner),
    }
  }))
}

const MAX_FINDINGS = 20

const NO_LINES = Object.fromEntries(LINE_OUTCOMES.map(o => [o, 0])) as PasteView['counts']

const HITS = {
  hits: sql<number>`count(distinct ${decisionClaims.copyId})::int`,
  last: sql<Date>`max(${copies.receivedAt})`,
  wanted: sql<number>`(count(distinct ${decisionClaims.copyId}) filter (where ${copies.judgement} = 'wanted'))::int`,
  unwanted: sql<number>`(count(distinct ${decisionClaims.copyId}) filter (where ${copies.judgement} = 'unwanted'))::int`,
}

export interface EntryView extends Entry {
  hits: number
  lastHit: string | null
  /** Of what it caught. */
  marked: Pick<Marks, 'wanted' | 'unwanted'>
  expired: boolean
}

/** One list with a page of its entries, in the order in which they were added. */
export async function openList(
  actor: Actor,
  id: string,
  page: { words?: string, after?: number, limit: number },
): Promise<ListView & { entries: EntryView[], next: number | null, matching: number, seen: number }> {
  const row = await currentList(actor, id)
  // Before the rows are read: what comes in between is then seen too late rather than not at all.
  const { number: seen } = await currentVersion()
  const [card] = await cardsOf(actor, [row])
  const like = page.words ? `%${literally(page.words)}%` : null
  const matching = and(
    eq(entries.listId, id),
    isNull(entries.toVersion),
    like ? or(ilike(entries.value, like), ilike(entries.note, like)) : undefined,
  )
  const rows = await db()
    .select()
    .from(entries)
    .where(and(matching, page.after ? gt(ENTRY_PLACE, page.after) : undefined))
    .orderBy(asc(ENTRY_PLACE))
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
          id: decisionClaims.entryId,
          ...HITS,
        })
        .from(decisionClaims)
        .innerJoin(copies, eq(copies.id, decisionClaims.copyId))
        .where(
          and(
            inArray(
              decisionClaims.entryId,
              shown.map(e => e.id),
            ),
            countableBy(actor),
          ),
        )
        .groupBy(decisionClaims.entryId)
    : []
  return {
    ...card!,
    entries: shown.map((e) => {
      const hit = hits.find(h => h.id === e.id)
      return {
        ...entryOf(e),
        hits: hit?.hits ?? 0,
        lastHit: hit?.last ? new Date(hit.last).toISOString() : null,
        marked: { wanted: hit?.wanted ?? 0, unwanted: hit?.unwanted ?? 0 },
        expired: e.expires !== null && e.expires <= new Date(),
      }
    }),
    next: rows.length > page.limit ? placeOf(shown.at(-1)!) : null,
    matching: count!.n,
    seen,
  }
}

/** Makes a list, with its first use and entries if given. */
export async function makeList(actor: Actor, form: NewList): Promise<{ id: string } & Added & Done> {
  const id = randomUUID()
  const { name, owner, usualSide, enabled } = form
  const assignment = form.assignment && assignmentFrom(form.assignment, id, owner)
  const read = await readPasted(form.entries, form.below)
  const { eventId, version, changes } = await changeClauses(
    actor,
    [
      { type: 'put', kind: 'list', value: { id, name, owner, usualSide, enabled } },
      ...(read.good.length ? [{ type: 'put' as const, kind: 'entries' as const, list: id, entries: read.good }] : []),
      // Last: what it confirms is confirmed for the list as it is with them.
      ...(assignment ? [{ type: 'put' as const, kind: 'assignment' as const, value: assignment }] : []),
    ],
    { prefix: 'assignment.' },
  )
  const added = addedOf(changes)
  const report = {
    counts: { ...NO_LINES, 'new': added.addedCount, 'twice': read.twice.length, 'not understood': read.wrong.length },
    lines: [],
  }
  return { id, ...added, there: [], wrong: read.wrong, size: added.addedCount, report, eventId, version }
}

/** Changes a list's name, state and usual side. */
export async function changeList(actor: Actor, id: string, base: number, { name, usualSide, enabled }: ListForm): Promise<Done> {
  const { name: known, owner } = await currentList(actor, id)
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'list', value: { id, name, owner, usualSide, enabled } }], {
    base,
    what: `“${known}”`,
  })
  return { eventId, version }
}

/** Takes a list away with its entries and uses; not while a rule refers to it. */
export async function removeList(actor: Actor, id: string, base: number): Promise<Done> {
  const { name } = await currentList(actor, id)
  const { eventId, version } = await changeClauses(actor, [{ type: 'remove', kind: 'list', id }], { base, what: `“${name}”` })
  return { eventId, version }
}
