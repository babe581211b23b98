import { and, asc, eq, ilike, inArray, isNull, or, sql } from 'drizzle-orm'
import { entryKindOf, ownerName, readEntryLine, type EntryKind, type EntryText } from '#core'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { literally } from '../db/asking'
import { entries, lists, versions } from '../db/schema'
import { activePolicy } from './active-policy'

/** An entry on some list: who is on which list, since when, by whom. */
export interface FoundEntry {
  id: string
  kind: EntryKind
  value: string
  note: string | null
  expires: string | null
  since: string | null
  by: string | null
  list: { id: string, name: string, owner: string, enabled: boolean }
  /** It catches what was looked for, though it is written otherwise. */
  wider: boolean
}

const MAX = 200

/** Entries on any list that the actor sees: those in which the words stand, and those that catch the address or domain that they are. */
export async function findEntries(actor: Actor, words: string): Promise<{ items: FoundEntry[], more: boolean }> {
  const { policy } = await activePolicy()
  const seen = policy.lists.filter(l => seesClausesOf(actor, l.owner)).map(l => l.id)
  if (!seen.length) return { items: [], more: false }
  const like = `%${literally(words)}%`
  const catching = catchers(words)
  const rows = await db()
    .select({ entry: entries, list: lists, since: versions.at })
    .from(entries)
    .innerJoin(lists, and(eq(lists.id, entries.listId), isNull(lists.toVersion)))
    .leftJoin(versions, eq(versions.number, entries.fromVersion))
    .where(
      and(
        isNull(entries.toVersion),
        inArray(entries.listId, seen),
        or(
          ilike(entries.value, like),
          ilike(entries.note, like),
          ...catching.map(({ kind, value }) => and(eq(entries.kind, kind), eq(entries.value, value))),
        ),
      ),
    )
    .orderBy(sql`${entries.value} <> ${words}`, asc(lists.name), asc(entries.row))
    .limit(MAX + 1)
  const items = rows.slice(0, MAX).map(({ entry, list, since }) => ({
    id: entry.id,
    kind: entry.kind,
    value: entry.value,
    note: entry.note,
    expires: entry.expires?.toISOString() ?? null,
    since: (entry.addedAt ?? since)?.toISOString() ?? null,
    by: entry.addedBy,
    list: { id: list.id, name: list.name, owner: ownerName(policy, list.owner), enabled: list.enabled },
    wider: !entry.value.includes(words.toLowerCase()) && !(entry.note ?? '').toLowerCase().includes(words.toLowerCase()),
  }))
  return { items, more: rows.length > MAX }
}

function catchers(words: string): EntryText[] {
  const read = readEntryLine(words.trim())
  if ('error' in read) return []
  return [read, ...(entryKindOf(read.kind).wider(read.value) as EntryText[])]
}
