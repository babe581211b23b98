import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { EntryTableBuilder, type Entry, type EntryTableData, type Policy } from '#core'
import * as schema from '../db/schema'
import { loadWithoutEntries } from '../services/policy-store'

type EntryRow = [row: string, id: string, listId: string, kind: Entry['kind'], value: string, expires: Date | null]

const AT_ONCE = 50_000

/** What deciding needs of the entries in force, in the order in which they were added; plain rows, since there may be a million. */
async function* entryRows(client: pg.Client): AsyncGenerator<EntryRow[]> {
  for (let after = '0'; ;) {
    const { rows } = await client.query<EntryRow>({ text: `select row, id, list_id, kind, value, expires from entries where to_version is null and row > $1 order by row limit ${AT_ONCE}`, values: [after], rowMode: 'array' })
    if (rows.length) yield rows
    if (rows.length < AT_ONCE) return
    after = rows.at(-1)![0]
  }
}

/** How many entries of each list are kept as they are, for the checks; all of them are in the table. */
const SAMPLE = 2000

/** The policy in force, its entries in flat shared arrays. */
export interface CompiledElsewhere {
  policy: Policy
  table: EntryTableData
  /** Entries by list. */
  sizes: Map<string, number>
}

/**
 * Loads the policy in force and builds its table of entries, off the thread that serves people and takes mail: a million
 * entries come page by page and are never objects all at once.
 */
export default async function compile(): Promise<CompiledElsewhere> {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL, application_name: 'sober-gate compile' })
  client.on('error', () => undefined) // the query that runs then fails, and says so
  await client.connect()
  try {
    return await drizzle(client, { schema, casing: 'snake_case' }).transaction(async (tx) => {
      const policy = await loadWithoutEntries(tx)
      const numbers = new Map(policy.lists.map((l, i) => [l.id, i]))
      const sizes = new Map(policy.lists.map(l => [l.id, 0]))
      const builder = new EntryTableBuilder()
      for await (const rows of entryRows(client)) {
        for (const [, id, listId, kind, value, expires] of rows) {
          const list = numbers.get(listId)
          if (list === undefined) continue
          const entry: Entry = { id, kind, value, ...(expires ? { expires: new Date(expires).toISOString() } : {}) }
          builder.add(list, entry)
          const size = sizes.get(listId)! + 1
          sizes.set(listId, size)
          if (size <= SAMPLE) policy.lists[list]!.entries.push(entry)
        }
      }
      return { policy, table: builder.finish(), sizes }
    }, { isolationLevel: 'repeatable read' })
  }
  finally {
    await client.end()
  }
}
