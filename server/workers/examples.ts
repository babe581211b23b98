import { and, inArray, type SQL } from 'drizzle-orm'
import { decide, isDelivered, signersOf, type Content, type Decision, type Policy } from '#core'
import {
  coveringPhrases,
  rareWords,
  senderScopesOf,
  sharedPhrases,
  type OtherMail,
  type SenderScope,
  type SharedPhrase,
} from '#core/suggest'
import { neededWords } from '#core/text'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { copies } from '../db/schema'
import { inScope, withLookupKeys, type Scope } from '../impact/affected-mail'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'
import { otherMail, type OtherCopy } from './other-mail'

/** Copies from which something is to be suggested. */
export interface ToReadExamples extends WithEdition {
  ids: readonly number[]
  /** Whose other mail the examples are held against. */
  scope: Scope
  /** Who asks: other mail is only what they may see. */
  actor: Actor
  /** What is suggested is to stop mail, else to let it in. */
  stops: boolean
  now: string
}

/** What examples have in common, and what the active policy says of each. */
export interface Examples {
  senderScopes: SenderScope[]
  phrases: SharedPhrase[]
  /** So much other mail they were held against. */
  others: number
  decisions: { id: number, decision: Decision }[]
  /** Of which only a record is left: they could not be read. */
  unread: number
}

/** Other mail against which examples are held: the newest, and of what may say the same. */
const OTHER_MAIL = 400
const RELATED = 200
const RELATED_WORDS = 60

/** Reads examples, off the thread that serves people. */
export async function readExamples(asked: ToReadExamples): Promise<Examples | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const open = await openArchive()
  const found = await open.archive.messages(asked.ids, indexed.compiled.policy.trust)
  const read = found.flatMap(f => (f.message ? [{ ...f, message: f.message }] : []))
  const contents = read.map(r => r.message.content)
  return {
    senderScopes: senderScopesOf(read.map(({ message }) => ({ ...message.content, signers: signersOf(message.attempt.authentication) }))),
    ...(await phrasesOf(asked, contents, open, indexed.compiled.policy.trust)),
    decisions: read.map(({ message, recipient, id }) => ({ id, decision: decide(message, recipient, indexed, { now: asked.now }) })),
    unread: found.length - read.length,
  }
}

async function phrasesOf(
  asked: ToReadExamples,
  contents: readonly Content[],
  open: OpenArchive,
  trust: Policy['trust'],
): Promise<Pick<Examples, 'phrases' | 'others'>> {
  const newest = await heldAgainst(asked, open, { trust, most: OTHER_MAIL })
  const texts = rareWords(contents, newest, RELATED_WORDS).flatMap(word => neededWords(word, 'plain', true) ?? [])
  const related = texts.length
    ? await heldAgainst(asked, open, { trust, most: RELATED, also: withLookupKeys({ senders: [], texts }) })
    : { against: [], rest: [] }
  // What is related is more alike than the mail at large: it only says whether a phrase is found elsewhere.
  const rest = [...newest.rest, ...related.against, ...related.rest]
  const phrases = sharedPhrases(contents, { against: newest.against, rest })
  return {
    // Where nearly all share none, there may be several kinds of messages, each with its own.
    phrases: phrases.length ? phrases : coveringPhrases(contents, newest, 3),
    others: newest.against.length + newest.rest.length,
  }
}

async function heldAgainst(
  { actor, scope, ids, stops }: ToReadExamples,
  open: OpenArchive,
  { trust, most, also }: { trust: Policy['trust'], most: number, also?: SQL },
): Promise<Required<OtherMail>> {
  const where = and(visibleTo(actor), inScope(scope), inArray(copies.lane, ['inbox', 'lowPriority', 'spam', 'quarantine', 'bin']), also)
  const mail = await otherMail(open, { ids, where, trust, most })
  const isAgainst = ({ lane, judgement }: OtherCopy) =>
    (judgement ? judgement === (stops ? 'wanted' : 'unwanted') : isDelivered(lane) === stops)
  return {
    against: mail.filter(isAgainst).map(m => m.content),
    rest: mail.filter(m => !isAgainst(m)).map(m => m.content),
  }
}
