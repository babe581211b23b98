import { and, desc, inArray, lt, notInArray, sql, type SQL } from 'drizzle-orm'
import type { Content, Lane, Policy } from '#core'
import { copies } from '../db/schema'
import type { OpenArchive } from './archive-thread'

/** Mail against which examples are held. */
export interface OtherCopy {
  id: number
  lane: Lane
  judgement: 'wanted' | 'unwanted' | null
  content: Content
}

/** Which mail. */
interface Which {
  /** Ids of the examples, which are left out. */
  ids: readonly number[]
  where: SQL | undefined
  trust: Policy['trust']
  most: number
}

/** Of the mail that is sought, so much is from before the examples: a flood goes on after them. */
const EARLIER = 0.75

/** Newest mail besides examples, most of it from before the first of them. */
export async function otherMail(open: OpenArchive, { ids, where, trust, most }: Which): Promise<OtherCopy[]> {
  const [first] = await open.db
    .select({ at: sql<Date | null>`min(${copies.receivedAt})`.mapWith(copies.receivedAt) })
    .from(copies)
    .where(inArray(copies.id, [...ids]))
  const read = (limit: number, also?: SQL) => open.db
    .select({ id: copies.id, lane: copies.lane, judgement: copies.judgement })
    .from(copies)
    .where(and(where, notInArray(copies.id, [...ids]), also))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(limit)
  const earlier = first?.at ? await read(Math.ceil(most * EARLIER), lt(copies.receivedAt, first.at)) : []
  const newest = await read(most - earlier.length)
  const rows = new Map([...earlier, ...newest].map(row => [row.id, row]))
  const found = await open.archive.messages([...rows.keys()], trust)
  return found.flatMap(({ id, message }) => (message ? [{ ...rows.get(id)!, content: message.content }] : []))
}
