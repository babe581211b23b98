import { mailDb } from './client'

type Table = 'messages' | 'attempts' | 'copies' | 'decisions'

const BLOCK = 500
const blocks = new Map<Table, number[]>()

/**
 * Ids for rows of a table, taken from its own sequence in blocks, so that rows that refer to each other can be written in
 * one statement. What a process does not use is left out; nobody counts on ids without gaps.
 */
export async function takeIds(table: Table, count: number): Promise<number[]> {
  const block = blocks.get(table) ?? []
  blocks.set(table, block)
  // Taken in one go: nobody else takes them between two steps of this.
  if (block.length >= count) return block.splice(0, count)
  const { rows } = await mailDb().$client.query<[string]>({
    text: `select nextval(pg_get_serial_sequence('${table}', 'id')) from generate_series(1, $1::int)`,
    values: [count + BLOCK],
    rowMode: 'array',
  })
  block.push(...rows.map(r => Number(r[0])))
  return block.splice(0, count)
}
