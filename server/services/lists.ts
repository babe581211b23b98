import { and, asc, eq, gt, ilike, inArray, isNull, or, sql } from 'drizzle-orm'
import { bindingSchema, ownerName, readEntryLine, refersToList, type Binding, type Entry, type EntryKind, type Finding, type List, type Owner } from '#core'
import { bindingSentence } from '#core/words'
import { db } from '../db/client'
import { bindings as bindingTable, copies, entries, lists, rulingClaims } from '../db/schema'
import { cleanText } from './clean-text'
import { checked } from './checked'
import { findingsFor } from './findings'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from './ownership'
import type { Asker } from './people'
import { addBinding, addEntries, addList, bindingOf, changePolicy, endRows, entryOf, lapseConfirmations, newId, type Change } from './policy-store'
import { policyInForce, refreshPolicy } from './policy-in-force'
import { invalid, notFound, somebodyFaster } from './problem'

/** How a list is put to use, as a form sends it. */
export type BindingForm = Omit<Binding, 'id' | 'list' | 'owner'>

export interface ListForm {
  name: string
  owner: Owner
  usualSide: 'allow' | 'block'
  on: boolean
  binding: BindingForm | null
}

export interface ListCard extends Omit<List, 'entries'> {
  ownerName: string
  size: number
  bindings: (Binding & { sentence: string })[]
  /** Rules that refer to it. */
  rules: string[]
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
  const rows = (await db().select().from(lists).where(isNull(lists.toVersion)).orderBy(asc(lists.row))).filter(l => seesClausesOf(asker, l.owner))
  return cardsOf(asker, rows)
}

async function cardsOf(asker: Asker, rows: (typeof lists.$inferSelect)[]): Promise<ListCard[]> {
  const ids = rows.map(l => l.id)
  if (!ids.length) return []
  const { policy, sizes } = await policyInForce()
  const bound = await db().select().from(bindingTable).where(and(inArray(bindingTable.listId, ids), isNull(bindingTable.toVersion))).orderBy(asc(bindingTable.row))
  const hits = await db().select({ id: rulingClaims.listId, hits: sql<number>`count(distinct ${rulingClaims.copyId})::int`, last: sql<Date>`max(${copies.receivedAt})` })
    .from(rulingClaims).innerJoin(copies, eq(copies.id, rulingClaims.copyId)).where(inArray(rulingClaims.listId, ids)).groupBy(rulingClaims.listId)
  const findings = (await findingsFor(asker)).filter(f => f.clause.kind === 'list')
  return rows.map((l) => {
    const hit = hits.find(h => h.id === l.id)
    const found = findings.filter(f => f.clause.id === l.id)
    return {
      id: l.id, name: l.name, owner: l.owner, usualSide: l.usualSide, on: l.on, ownerName: ownerName(policy, l.owner),
      size: sizes.get(l.id) ?? 0,
      bindings: bound.filter(b => b.listId === l.id).map(b => ({ ...bindingOf(b), sentence: bindingSentence(bindingOf(b), policy, ownerName(policy, b.owner)) })),
      rules: policy.rules.filter(r => seesClausesOf(asker, r.owner) && refersToList(r, l.id)).map(r => r.name),
      hits: hit?.hits ?? 0, lastHit: hit?.last ? new Date(hit.last).toISOString() : null,
      findings: found.slice(0, MOST_FINDINGS), findingsInAll: found.length,
      version: l.fromVersion, mayChange: mayChange(asker, l.owner),
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
export async function openList(asker: Asker, id: string, page: { words?: string, after?: number, limit: number }): Promise<ListCard & { entries: EntryLine[], next: number | null, matching: number }> {
  const row = await currentList(asker, id)
  const [card] = await cardsOf(asker, [row])
  const like = page.words ? `%${cleanText(page.words).replace(/[\\%_]/g, '\\$&')}%` : null
  const matching = and(eq(entries.listId, id), isNull(entries.toVersion), like ? or(ilike(entries.value, like), ilike(entries.note, like)) : undefined)
  const rows = await db().select().from(entries).where(and(matching, page.after ? gt(entries.row, page.after) : undefined)).orderBy(asc(entries.row)).limit(page.limit + 1)
  // How many a list has is known; only a search has to count.
  const [count] = like ? await db().select({ n: sql<number>`count(*)::int` }).from(entries).where(matching) : [{ n: card!.size }]
  const shown = rows.slice(0, page.limit)
  const hits = shown.length
    ? await db().select({ id: rulingClaims.entryId, hits: sql<number>`count(distinct ${rulingClaims.copyId})::int`, last: sql<Date>`max(${copies.receivedAt})` })
        .from(rulingClaims).innerJoin(copies, eq(copies.id, rulingClaims.copyId)).where(inArray(rulingClaims.entryId, shown.map(e => e.id))).groupBy(rulingClaims.entryId)
    : []
  return {
    ...card!,
    entries: shown.map((e) => {
      const hit = hits.find(h => h.id === e.id)
      return { ...entryOf(e), hits: hit?.hits ?? 0, lastHit: hit?.last ? new Date(hit.last).toISOString() : null, expired: e.expires !== null && e.expires <= new Date() }
    }),
    next: rows.length > page.limit ? shown.at(-1)!.row : null,
    matching: count!.n,
  }
}

async function currentList(asker: Asker, id: string): Promise<typeof lists.$inferSelect> {
  const [row] = await db().select().from(lists).where(and(eq(lists.id, id), isNull(lists.toVersion)))
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('list of that name')
  return row
}

/** Makes a list, with its first use and entries if given. */
export async function makeList(asker: Asker, form: ListForm, lines: string, below: boolean): Promise<{ id: string } & Added> {
  const { policy } = await policyInForce()
  mustBeSomebody(policy, form.owner)
  mustBeAllowed(asker, form.owner)
  await nameIsFree(form, null)
  const id = newId()
  const binding = form.binding && bindingFrom(form.binding, id, form.owner)
  const read = readLines(lines, below)
  const added = await changePolicy(asker.id, form.owner, `List “${form.name}” made, ${count(read.good.length)}`, async (change) => {
    await addList(change, { id, name: form.name, owner: form.owner, usualSide: form.usualSide, on: form.on })
    if (binding) await addBinding(change, binding)
    return addRead(change, asker, id, read, {})
  })
  await refreshPolicy()
  return { id, ...added }
}

/** Changes a list's name, state and use. */
export async function changeList(asker: Asker, id: string, version: number, form: ListForm): Promise<void> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  if (form.owner !== row.owner) throw invalid('A list stays with its owner; make a new one for somebody else.', { owner: 'This cannot be changed.' })
  await nameIsFree(form, id)
  const binding = form.binding && bindingFrom(form.binding, id, row.owner)
  await changePolicy(asker.id, row.owner, `List “${form.name}” changed${form.on === row.on ? '' : form.on ? ': switched on' : ': switched off'}`, async (change) => {
    await stillAt(change, id, version, row.name)
    await endRows(change, lists, [id])
    await addList(change, { id, name: form.name, owner: row.owner, usualSide: form.usualSide, on: form.on })
    const bound = await change.tx.select({ id: bindingTable.id }).from(bindingTable).where(and(eq(bindingTable.listId, id), eq(bindingTable.owner, row.owner), isNull(bindingTable.toVersion)))
    await endRows(change, bindingTable, bound.map(b => b.id))
    if (binding) await addBinding(change, { ...binding, id: bound[0]?.id ?? binding.id })
  })
  await refreshPolicy()
}

/** Takes a list away with its entries and uses; not while a rule refers to it. */
export async function removeList(asker: Asker, id: string, version: number): Promise<void> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const { policy } = await policyInForce()
  const using = policy.rules.filter(r => refersToList(r, id))
  if (using.length) throw invalid(`“${row.name}” is used by ${using.map(r => r.name).join(', ')}. Take it out there first, or switch the list off.`)
  await changePolicy(asker.id, row.owner, `List “${row.name}” deleted`, async (change) => {
    await stillAt(change, id, version, row.name)
    await endRows(change, lists, [id])
    await change.tx.update(entries).set({ toVersion: change.version }).where(and(eq(entries.listId, id), isNull(entries.toVersion)))
    await change.tx.update(bindingTable).set({ toVersion: change.version }).where(and(eq(bindingTable.listId, id), isNull(bindingTable.toVersion)))
  })
  await refreshPolicy()
}

async function stillAt(change: Change, id: string, version: number, name: string): Promise<void> {
  const [now] = await change.tx.select({ fromVersion: lists.fromVersion }).from(lists).where(and(eq(lists.id, id), isNull(lists.toVersion)))
  if (now?.fromVersion !== version) throw somebodyFaster(`“${name}”`)
}

async function nameIsFree(form: ListForm, id: string | null): Promise<void> {
  const same = await db().select({ id: lists.id }).from(lists).where(and(eq(lists.owner, form.owner), sql`lower(${lists.name}) = lower(${form.name})`, isNull(lists.toVersion)))
  if (same.some(l => l.id !== id)) throw invalid(`There is a list “${form.name}” already.`, { name: 'This name is taken. Choose another, or add to that list.' })
}

function bindingFrom(form: BindingForm, list: string, owner: Owner): Binding {
  return checked<Binding>(bindingSchema, { ...form, id: newId(), list, owner }, 'binding.')
}

/** What became of lines that somebody typed or pasted. */
export interface Added {
  added: { id: string, kind: EntryKind, value: string }[]
  /** On the list already. */
  there: string[]
  /** Lines that say nothing that could be added, with what is wrong. */
  wrong: { line: number, text: string, error: string }[]
}

interface ReadLines { good: { kind: EntryKind, value: string }[], wrong: Added['wrong'] }

const MOST_LINES = 100_000

function readLines(text: string, below: boolean, as?: EntryKind): ReadLines {
  const lines = text.split(/\r?\n|(?<=\S)\s*[,;]\s+/)
  if (lines.length > MOST_LINES) throw invalid(`That is ${lines.length} lines; at most ${MOST_LINES} can be pasted at once. Paste them in parts.`, { text: 'Too many lines.' })
  const good = new Map<string, { kind: EntryKind, value: string }>()
  const wrong: Added['wrong'] = []
  lines.forEach((line, i) => {
    const bare = line.replace(/(?:^|\s)#.*$/, '').trim()
    if (!bare) return
    const read = readEntryLine(bare, below, as)
    if ('error' in read) wrong.push({ line: i + 1, text: line.trim().slice(0, 200), error: read.error })
    else good.set(`${read.kind} ${read.value}`, read)
  })
  return { good: [...good.values()], wrong }
}

/** Adds what was typed or pasted to a list; what cannot be read comes back, the rest is added. */
export async function addToList(asker: Asker, id: string, text: string, options: { below: boolean, as?: EntryKind, note?: string, expires?: string }): Promise<Added> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const read = readLines(text, options.below, options.as)
  if (!read.good.length) {
    if (read.wrong.length) return { added: [], there: [], wrong: read.wrong }
    throw invalid('There is nothing to add. Write one address or domain a line.', { text: 'Write one address or domain a line.' })
  }
  const added = await changePolicy(asker.id, row.owner, `List “${row.name}”: ${count(read.good.length)} added: ${read.good.slice(0, 3).map(g => g.value).join(', ')}${read.good.length > 3 ? ', …' : ''}`, async (change) => {
    const [still] = await change.tx.select({ id: lists.id }).from(lists).where(and(eq(lists.id, id), isNull(lists.toVersion)))
    if (!still) throw notFound('list of that name')
    await lapseConfirmations(change, id)
    return addRead(change, asker, id, read, options)
  })
  await refreshPolicy()
  return added
}

async function addRead(change: Change, asker: Asker, listId: string, read: ReadLines, options: { note?: string, expires?: string }): Promise<Added> {
  const there = new Set<string>()
  for (let i = 0; i < read.good.length; i += 5000) {
    const values = read.good.slice(i, i + 5000).map(g => g.value)
    const rows = await change.tx.select({ kind: entries.kind, value: entries.value }).from(entries).where(and(eq(entries.listId, listId), isNull(entries.toVersion), inArray(entries.value, values)))
    for (const row of rows) there.add(`${row.kind} ${row.value}`)
  }
  const fresh: Entry[] = read.good.filter(g => !there.has(`${g.kind} ${g.value}`)).map(g => ({
    id: newId(), ...g, addedAt: new Date().toISOString(), addedBy: asker.name, ...(options.note ? { note: cleanText(options.note) } : {}), ...(options.expires ? { expires: options.expires } : {}),
  }))
  await addEntries(change, listId, fresh)
  return {
    added: fresh.map(({ id, kind, value }) => ({ id, kind, value })),
    there: read.good.filter(g => there.has(`${g.kind} ${g.value}`)).map(g => g.value),
    wrong: read.wrong,
  }
}

/** Takes entries out of a list. */
export async function takeFromList(asker: Asker, id: string, entryIds: readonly string[]): Promise<{ removed: number }> {
  const row = await currentList(asker, id)
  mustBeAllowed(asker, row.owner)
  const there = await db().select({ id: entries.id, value: entries.value }).from(entries).where(and(eq(entries.listId, id), inArray(entries.id, [...entryIds]), isNull(entries.toVersion)))
  if (!there.length) throw notFound('entry of that number on this list')
  await changePolicy(asker.id, row.owner, `List “${row.name}”: ${count(there.length)} taken out: ${there.slice(0, 3).map(e => e.value).join(', ')}${there.length > 3 ? ', …' : ''}`, async (change) => {
    await endRows(change, entries, there.map(e => e.id))
  })
  await refreshPolicy()
  return { removed: there.length }
}

function count(n: number): string {
  return n === 1 ? '1 entry' : `${n} entries`
}
