import { and, desc, inArray, notInArray } from 'drizzle-orm'
import { decide, type Decision } from '#core'
import { sharedPhrases, senderScopesOf, type SharedPhrase, type SenderScope } from '#core/suggest'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { copies } from '../db/schema'
import { inScope, type Scope } from '../impact/affected-mail'
import { indexedFor, openArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'

/** Copies from which something is to be suggested. */
export interface ToReadExamples extends WithEdition {
  ids: readonly number[]
  /** Whose other mail the examples are held against. */
  scope: Scope
  /** Who asks: other mail is only what they may see. */
  actor: Actor
  now: string
}

/** What examples have in common, and what the active policy says of each. */
export interface Examples {
  senderScopes: SenderScope[]
  phrases: SharedPhrase[]
  decisions: { id: number, decision: Decision }[]
  /** Of which only a record is left: they could not be read. */
  unread: number
}

/** Other mail against which examples are held. */
const OTHER_MAIL = 400

/** Reads examples, off the thread that serves people. */
export async function readExamples(asked: ToReadExamples): Promise<Examples | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { db, archive } = await openArchive()
  const { trust } = indexed.compiled.policy
  const found = await archive.messages(asked.ids, trust)
  const read = found.flatMap(f => (f.message ? [{ ...f, message: f.message }] : []))
  const rows = await db
    .select({ id: copies.id })
    .from(copies)
    .where(and(
      visibleTo(asked.actor),
      inScope(asked.scope),
      notInArray(copies.id, [...asked.ids]),
      inArray(copies.lane, ['inbox', 'lowPriority', 'spam', 'quarantine', 'bin']),
    ))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(OTHER_MAIL)
  const others = await archive.messages(rows.map(r => r.id), trust)
  const contents = read.map(r => r.message.content)
  return {
    senderScopes: senderScopesOf(contents),
    phrases: sharedPhrases(contents, others.flatMap(o => o.message?.content ?? [])),
    decisions: read.map(({ message, recipient, id }) => ({ id, decision: decide(message, recipient, indexed, { now: asked.now }) })),
    unread: found.length - read.length,
  }
}
