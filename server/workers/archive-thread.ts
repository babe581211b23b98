import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import type { IndexedPolicy } from '#core'
import { separateClient, type Db } from '../db/client'
import { ERASED } from '../db/erased'
import * as schema from '../db/schema'
import { Archive } from '../impact/archive'
import { Editions, type Edition } from './editions'

/** What every job on these threads comes with. */
export interface WithEdition {
  number: number
  edition?: Edition
}

/** Mail that is here, over a connection of this thread. */
export interface OpenArchive {
  client: pg.Client
  db: Db
  archive: Archive
}

const editions = new Editions(2)

/** The policy that a job is about; null where this thread has to be given it first. */
export function indexedFor({ number, edition }: WithEdition): IndexedPolicy | null {
  return editions.take(number, edition)
}

let archive: OpenArchive | null = null
let idle: ReturnType<typeof setTimeout> | undefined

/** Milliseconds after which what was read is given back: whoever types asks again before. */
const KEPT_FOR = 60_000

/** One connection a thread, opened anew where it was lost. What is erased is forgotten by all of them as soon as it is. */
export async function openArchive(): Promise<OpenArchive> {
  clearTimeout(idle)
  idle = setTimeout(() => archive?.archive.forget(), KEPT_FOR).unref()
  if (archive) {
    archive.archive.begin()
    return archive
  }
  const client = separateClient('rehearsal')
  const lost = () => {
    if (archive?.client === client) archive = null
  }
  client.on('error', lost)
  client.on('end', lost)
  await client.connect()
  const db = drizzle(client, { schema, casing: 'snake_case' })
  const opened = { client, db, archive: new Archive(db, client) }
  client.on('notification', ({ payload }) => opened.archive.forget((payload ?? '').split(',').map(Number)))
  // Compiling a query takes longer than what is saved by it: somebody waits for the first rows.
  await client.query('set jit = off')
  await client.query(`listen ${ERASED}`)
  return (archive = opened)
}
