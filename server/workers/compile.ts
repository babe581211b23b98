import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import { EntryTable, EntryTableBuilder, type Entry, type EntryTableData, type Policy } from '#core'
import { separateClient } from '../db/client'
import * as schema from '../db/schema'
import { loadWithoutEntries } from '../policy/store'

type EntryRow = [row: string, id: string, listId: string, kind: Entry['kind'], value: string, expires: Date | null]

const BATCH_SIZE = 50_000

/**
 * What deciding needs of the active entries, in the order in which they were added; plain rows, since there may be a million.
 * @param after only those that came with a later version
 */
async function* entryRows(client: pg.Client, after: number): AsyncGenerator<EntryRow[]> {
  for (let last = '0'; ;) {
    const { rows } = await client.query<EntryRow>({
      text: `select row, id, list_id, kind, value, expires from entries where to_version is null and from_version > $2 and row > $1 `
        + `order by row limit ${BATCH_SIZE}`,
      values: [last, after],
      rowMode: 'array',
    })
    if (rows.length) yield rows
    if (rows.length < BATCH_SIZE) return
    last = rows.at(-1)![0]
  }
}

/** An earlier version's table. */
export interface Earlier {
  version: number
  table: EntryTableData
  /** The ids of the lists in the order in which the table numbers them. */
  lists: readonly string[]
}

/** The active policy, its entries in flat shared arrays. */
export interface CompiledOnThread {
  policy: Policy
  table: EntryTableData
  /** Entries by list. */
  sizes: Map<string, number>
}

/**
 * Loads the active policy and builds its table of entries, off the thread that serves people and takes mail: a million
 * entries come page by page and are never objects all at once.
 * @param earlier of which what did not change is taken over
 */
export default async function compile({ earlier }: { earlier: Earlier | null }): Promise<CompiledOnThread> {
  const client = separateClient('compile')
  client.on('error', () => undefined) // the query that runs then fails, and says so
  await client.connect()
  try {
    return await drizzle(client, { schema, casing: 'snake_case' }).transaction(
      async (tx) => {
        const policy = await loadWithoutEntries(tx)
        const builder = earlier && (await begunFrom(earlier, policy, client))
        const table = await filled(builder ?? new EntryTableBuilder(), policy, client, builder ? earlier!.version : 0)
        return { policy, table: table.data, sizes: sizesOf(policy, table) }
      },
      { isolationLevel: 'repeatable read' },
    )
  }
  finally {
    await client.end()
  }
}

async function filled(builder: EntryTableBuilder, policy: Policy, client: pg.Client, after: number): Promise<EntryTable> {
  const numbers = new Map(policy.lists.map((l, i) => [l.id, i]))
  for await (const rows of entryRows(client, after)) {
    for (const [, id, listId, kind, value, expires] of rows) {
      const list = numbers.get(listId)
      if (list !== undefined) builder.add(list, { id, kind, value, ...(expires ? { expires: new Date(expires).toISOString() } : {}) })
    }
  }
  return new EntryTable(builder.finish())
}

// Null where the earlier table does not have what it should have, or much was taken out: then all is read anew. Lists that are
// gone take their entries along.
async function begunFrom(earlier: Earlier, policy: Policy, client: pg.Client): Promise<EntryTableBuilder | null> {
  const table = new EntryTable(earlier.table)
  const { rows } = await client.query<EntryRow>({
    text: `select row, id, list_id, kind, value, expires from entries where from_version <= $1 and to_version > $1 and list_id = any($2) `
      + `limit ${BATCH_SIZE + 1}`,
    values: [earlier.version, policy.lists.map(l => l.id)],
    rowMode: 'array',
  })
  if (rows.length > BATCH_SIZE) return null
  const before = new Map(earlier.lists.map((id, i) => [id, i]))
  const gone = new Set(rows.map(([, id, listId, kind, value]) => table.indexOf(before.get(listId) ?? -1, { id, kind, value })))
  if (gone.has(-1)) return null
  const now = new Map(policy.lists.map((l, i) => [l.id, i]))
  const builder = new EntryTableBuilder()
  builder.takeOver(
    earlier.table,
    gone,
    earlier.lists.map(id => now.get(id) ?? -1),
  )
  return builder
}

function sizesOf(policy: Policy, { data }: EntryTable): Map<string, number> {
  const counts = policy.lists.map(() => 0)
  for (let i = 0; i < data.count; i++) counts[data.lists[i]!]!++
  return new Map(policy.lists.map((l, i) => [l.id, counts[i]!]))
}
