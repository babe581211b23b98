import { randomUUID } from 'node:crypto'
import { and, eq, inArray, isNull } from 'drizzle-orm'
import {
  entryKey,
  LINE_OUTCOMES,
  MAX_LINES,
  type EntryKind,
  type EntryText,
  type LineOutcome,
  type LineReport,
  type Owner,
  type Policy,
  type PolicyAround,
  type ReadLines,
  type WrongLine,
} from '#core'
import type { EntryPut, PolicyChange } from '#core/change'
import { numberWords } from '#core/wording'
import { isAnyOf } from '../db/asking'
import type { Tx } from '../db/client'
import { entries } from '../db/schema'
import { currentList } from '../access/list-access'
import { mustBeAllowed } from '../access/ownership'
import type { Actor } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { activePolicy } from './active-policy'
import { entryOf } from './rows'
import { currentVersion } from './store'
import { invalid, notFound, conflict } from '../platform/problem'
import type { ReadEntries } from '../workers/lines'
import { eachInSlices } from '../platform/slices'
import { readLinesOnThread, reportOnThread } from './on-threads'

/** What became of lines that somebody typed or pasted. */
export interface Added {
  /** The first of those that were added. */
  added: { id: string, kind: EntryKind, value: string }[]
  addedCount: number
  /** The first of those that were on the list already. */
  there: string[]
  wrong: WrongLine[]
  /** Entries on the list after it. */
  size: number
  report: PasteView
}

/** Line by line what becomes of a paste: how many of each, and of those that are not simply new the first. */
export interface PasteView {
  counts: Record<LineOutcome, number>
  lines: LineReport[]
}

/** How far a long paste is. */
export interface PasteProgress {
  stage: 'reading' | 'looking' | 'writing'
  done: number
  total: number
}

const MAX_SHOWN = 2000

/** Reads what was typed or pasted. @throws where it is more than is read at once */
export async function readPasted(text: string, below: boolean, as?: EntryKind): Promise<ReadLines> {
  const read = await readLinesOnThread({ text, below, as })
  if (read.count > MAX_LINES)
    throw invalid(
      `That is ${numberWords(read.count)} lines; at most ${numberWords(MAX_LINES)} can be pasted at once. Paste them in parts.`,
      { text: 'Too many lines.' },
    )
  return read
}

/** What would become of lines that are pasted, without pasting them. */
export async function reportOf(actor: Actor, id: string, text: string, options: { below: boolean, as?: EntryKind }): Promise<PasteView> {
  const { id: list } = await currentList(actor, id)
  return result(await pasted(list, await readPasted(text, options.below, options.as)))
}

async function pasted(list: string, read: ReadEntries): Promise<LineReport[]> {
  const { policy, edition } = await activePolicy()
  const number = policy.lists.findIndex(l => l.id === list)
  if (number < 0) return []
  return reportOnThread({ policy: aroundOf(policy), table: edition.table, list: number, read })
}

function aroundOf({ lists, assignments, trust: { publicProviders, ownDomains } }: Policy): PolicyAround {
  return { lists, assignments, trust: { publicProviders, ownDomains } }
}

/** What would become of lines that are pasted into a list that is not made yet. */
export async function reportOfNew(actor: Actor, { owner, side, text, below }: NewListPaste): Promise<PasteView> {
  mustBeAllowed(actor, owner)
  const { policy, edition } = await activePolicy()
  const around = aroundOf(policy)
  const id = randomUUID()
  const list = { id, name: 'this list', owner, usualSide: side, enabled: true, entries: [] }
  const read = await readPasted(text, below)
  const lists = [...around.lists, list]
  return result(await reportOnThread({ policy: { ...around, lists }, table: edition.table, list: lists.length - 1, read }))
}

export interface NewListPaste {
  owner: Owner
  side: 'allow' | 'block'
  text: string
  below: boolean
}

function result(lines: readonly LineReport[]): PasteView {
  const counts = Object.fromEntries(LINE_OUTCOMES.map(o => [o, 0])) as PasteView['counts']
  for (const { outcome } of lines) counts[outcome]++
  return { counts, lines: lines.filter(l => l.outcome !== 'new').slice(0, MAX_SHOWN) }
}

export interface AddOptions {
  below: boolean
  as?: EntryKind
  note?: string
  expires?: string
  /** Told how far it is. */
  tell?: (progress: PasteProgress) => void
}

/** Refuses somebody who may not add to a list. */
export async function mustBeAddable(actor: Actor, id: string): Promise<void> {
  mustBeAllowed(actor, (await currentList(actor, id)).owner)
}

/** Adds what was typed or pasted to a list; what cannot be read comes back, the rest is added. */
export async function addToList(actor: Actor, id: string, text: string, { below, as, ...how }: AddOptions): Promise<Added & Done> {
  await mustBeAddable(actor, id)
  how.tell?.({ stage: 'reading', done: 0, total: 0 })
  return addRead(actor, id, await readPasted(text, below, as), how)
}

/**
 * Adds entries that were read to a list.
 * @param read its entries may each bear a note and an expiry of their own
 */
export async function addRead(
  actor: Actor,
  id: string,
  read: ReadEntries,
  { note, expires, tell }: Pick<AddOptions, 'note' | 'expires' | 'tell'>,
): Promise<Added & Done> {
  const { owner, name } = await currentList(actor, id)
  mustBeAllowed(actor, owner)
  const { good, wrong } = read
  tell?.({ stage: 'looking', done: 0, total: good.length })
  const report = result(await pasted(id, read))
  if (!good.length) {
    if (!wrong.length)
      throw invalid('There is nothing to add. Enter one address or domain per line.', { text: 'Enter one address or domain per line.' })
    return {
      added: [], addedCount: 0, there: [], wrong, size: await sizeOf(id), report, eventId: null, version: (await currentVersion()).number,
    }
  }
  /** Values of what is on the list already, by their keys. */
  const there = new Map<string, string>()
  const { eventId, version, changes } = await changeClauses(
    actor,
    async ({ tx, policy }) => {
      if (!policy.lists.some(l => l.id === id)) throw notFound('This list')
      // What is there stays as it is, note and expiry too.
      for (const e of await standingEntries(tx, id, good)) there.set(entryKey(e), e.value)
      const fresh: EntryPut[] = []
      await eachInSlices(good, (g) => {
        if (!there.has(entryKey(g))) fresh.push({ note, expires, ...g })
      })
      return fresh.length ? [{ type: 'put', kind: 'entries', list: id, entries: fresh }] : []
    },
    { what: `“${name}”`, wrote: (done, total) => tell?.({ stage: 'writing', done, total }) },
  )
  return {
    ...addedOf(changes),
    there: [...there.values()].slice(0, MAX_SHOWN),
    wrong,
    size: await sizeOf(id),
    report,
    eventId,
    version,
  }
}

async function sizeOf(list: string): Promise<number> {
  return (await activePolicy()).sizes.get(list) ?? 0
}

/** What changes added to a list: how many, and the first of them, since an answer with all of a long paste keeps others waiting. */
export function addedOf(changes: readonly PolicyChange[]): Pick<Added, 'added' | 'addedCount'> {
  const puts = changes.flatMap(c => (c.type === 'put' && c.kind === 'entries' ? [c.entries] : []))
  return {
    added: puts.flatMap(p => p.slice(0, MAX_SHOWN)).slice(0, MAX_SHOWN).map(({ id, kind, value }) => ({ id: id!, kind, value })),
    addedCount: puts.reduce((sum, p) => sum + p.length, 0),
  }
}

const VALUE_BATCH_SIZE = 5000

async function standingEntries(tx: Tx, list: string, wanted: readonly EntryText[]): Promise<EntryText[]> {
  const out: EntryText[] = []
  for (let i = 0; i < wanted.length; i += VALUE_BATCH_SIZE) {
    const some = isAnyOf(entries.value, wanted.slice(i, i + VALUE_BATCH_SIZE).map(g => g.value))
    const rows = await tx
      .select({ kind: entries.kind, value: entries.value })
      .from(entries)
      .where(and(eq(entries.listId, list), isNull(entries.toVersion), some))
    out.push(...rows)
  }
  return out
}

/** Takes entries out of a list. What somebody else has taken out meanwhile is gone, and no second act. */
export async function takeFromList(actor: Actor, id: string, entryIds: readonly string[]): Promise<{ removed: number } & Done> {
  const { owner, name } = await currentList(actor, id)
  mustBeAllowed(actor, owner)
  let removed = 0
  const { eventId, version } = await changeClauses(
    actor,
    async ({ tx }) => {
      const those = and(eq(entries.listId, id), inArray(entries.id, [...entryIds]))
      const there = await tx
        .select({ kind: entries.kind, value: entries.value })
        .from(entries)
        .where(and(those, isNull(entries.toVersion)))
      removed = there.length
      if (there.length) return [{ type: 'remove', kind: 'entries', list: id, entries: there }]
      const [once] = await tx.select({ id: entries.id }).from(entries).where(those).limit(1)
      if (!once) throw notFound('This entry')
      return []
    },
    { what: `“${name}”` },
  )
  return { removed, eventId, version }
}

/**
 * Changes the note or the expiry of entries. What is left out stays; null takes it away.
 * `base` is the version of the policy when they were seen: of two who change one entry the second is told
 */
export async function changeEntries(
  actor: Actor,
  id: string,
  entryIds: readonly string[],
  { base, note, expires }: { base: number, note?: string | null, expires?: string | null },
): Promise<{ changed: number } & Done> {
  const { owner, name } = await currentList(actor, id)
  mustBeAllowed(actor, owner)
  if (note === undefined && expires === undefined) throw invalid('Enter what to change: the note, the expiry date, or both.')
  const { eventId, version } = await changeClauses(
    actor,
    async ({ tx }) => {
      const there = await tx
        .select()
        .from(entries)
        .where(and(eq(entries.listId, id), inArray(entries.id, [...entryIds]), isNull(entries.toVersion)))
      if (there.length !== entryIds.length) throw conflict(`List “${name}”`)
      const changed = there.map(entryOf).map(e => ({
        ...e,
        note: note === undefined ? e.note : (note ?? undefined),
        expires: expires === undefined ? e.expires : (expires ?? undefined),
      }))
      return [{ type: 'put', kind: 'entries', list: id, entries: changed }]
    },
    { base, what: `“${name}”` },
  )
  return { changed: entryIds.length, eventId, version }
}
