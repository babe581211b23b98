import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import type { IndexedPolicy } from '#core'
import { separateClient, type Db } from '../db/client'
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

/** One connection a thread, opened anew where it was lost. */
export async function openArchive(): Promise<OpenArchive> {
  if (archive) return archive
  const client = separateClient('rehearsal')
  const lost = () => {
    if (archive?.client === client) archive = null
  }
  client.on('error', lost)
  client.on('end', lost)
  await client.connect()
  const db = drizzle(client, { schema, casing: 'snake_case' })
  archive = { client, db, archive: new Archive(db) }
  return archive
}
