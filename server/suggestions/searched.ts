import { sql } from 'drizzle-orm'
import { addTo, personOwner, type Condition, type Owner, type PhraseCondition, type PhrasePlace, type Policy } from '#core'
import { SEARCHED_PLACES } from '#core/simulate'
import { searchTerms, typedWords, viewOf, viewText } from '#core/text'
import { oneOf, quoted } from '#core/wording'
import type { Actor } from '../access/roles'
import { matching, tagsFoundBy, type CopyFilter } from '../copies/copy-conditions'
import { db } from '../db/client'
import { copies, messages } from '../db/schema'

/** A search of Mail, as conditions of a rule. */
export interface Searched {
  /** All of them. */
  conditions: Condition[]
  /** What they say: “all of “sextant” and “handover””. */
  words: string
  /** What of the search a rule cannot say. */
  unsaid: string[]
}

/** Where a search looks, as places of a rule. */
const SEARCHED: readonly PhrasePlace[] = [...SEARCHED_PLACES, 'header:from', 'header:reply-to']
/** The same for a rule that lets in: neither hidden nor quoted words, nor what anybody writes as a sender, let mail in. */
const SEARCHED_TO_ALLOW: readonly PhrasePlace[] = ['subject', 'own', 'attachment name']

/** Words that may begin as one typed word does. */
const MAX_VARIANTS = 40
/** Copies of which the words are looked through. */
const MAX_READ = 5000

/**
 * A search as conditions of a rule: every word and every text in quotes is a phrase of its own, and all have to be there. A typed word
 * stands for the words that begin so and that the messages found have, so that the rule catches what the search shows.
 * @returns null where it has no words
 */
export async function searchedOf(
  actor: Actor,
  filter: CopyFilter,
  { policy, owner, stops }: { policy: Policy, owner: Owner, stops: boolean },
): Promise<Searched | null> {
  const { words, quoted: texts } = searchTerms(filter.words ?? '')
  const typed = typedWords(words)
  if (!typed.length && !texts.length) return null
  const where = [...(stops ? SEARCHED : SEARCHED_TO_ALLOW)]
  const variants = await variantsOf(typed, await matching(actor, filter))
  const conditions = [
    ...typed.map((word, i) => wordCondition(word, variants[i]!, where)),
    ...texts.map((text): Condition => ({ phrases: [text], where })),
    ...recipientConditions(filter.recipient, owner, policy),
  ]
  const isTag = (await tagsFoundBy(actor, filter.words ?? '')).length > 0
  const said = [...typed, ...texts].map(quoted)
  return {
    conditions,
    words: said.length > 1 ? `all of ${oneOf(said, 'and', 6)}` : said[0]!,
    unsaid: [
      ...unsaidOf(filter),
      ...(isTag ? ['messages that have the words as a tag'] : []),
      ...(stops ? [] : ['words that only stand in hidden or quoted text, or in the sender']),
      ...(variants.some(v => v === null) ? ['that words only have to begin as they are typed'] : []),
    ],
  }
}

// Too many words begin so: then parts of words count, too.
function wordCondition(word: string, variants: readonly string[] | null, where: PhrasePlace[]): Condition {
  if (!variants) return { phrases: [word], where, whole: false, view: viewFor(word) }
  const byView = new Map<PhraseCondition['view'], string[]>()
  for (const one of variants) addTo(byView, viewFor(one), one)
  const each = [...byView].map(([view, phrases]): Condition => ({ phrases, where, ...(view === 'plain' ? {} : { view }) }))
  return each.length === 1 ? each[0]! : { any: each }
}

// A message is found by its words with and without accents.
function viewFor(word: string): 'plain' | 'bare' {
  return viewText(viewOf(word, 'bare')) === word ? 'bare' : 'plain'
}

// Null where too many words, or words of too many messages, begin so.
async function variantsOf(typed: readonly string[], found: Awaited<ReturnType<typeof matching>>): Promise<(string[] | null)[]> {
  const some = await db().select({ id: copies.id }).from(copies).where(found).limit(MAX_READ + 1)
  if (some.length > MAX_READ) return typed.map(() => null)
  return Promise.all(typed.map(async (word) => {
    const { rows } = await db().execute<{ word: string }>(sql`
      select distinct word from ${messages}, unnest(tsvector_to_array(${messages.search})) word
      where ${messages.id} in (select ${copies.messageId} from ${copies} where ${found}) and starts_with(word, ${word})
      order by word limit ${MAX_VARIANTS + 1}`)
    const variants = rows.map(r => r.word)
    if (variants.length > MAX_VARIANTS) return null
    return variants.length ? variants : [word]
  }))
}

function recipientConditions(recipient: string | undefined, owner: Owner, { people }: Policy): Condition[] {
  if (!recipient || owner === personOwner(recipient)) return []
  const addresses = people.find(p => p.id === recipient)?.addresses ?? [recipient]
  const each = addresses.map((value): Condition => ({ recipient: { kind: 'address', value } }))
  return each.length === 1 ? each : each.length ? [{ any: each }] : []
}

function unsaidOf(filter: CopyFilter): string[] {
  const { after, before } = filter
  const isLabelled = filter.tag || filter.folder || filter.important !== undefined
  return [
    ...(filter.lane?.length || filter.quarantine || filter.filed !== undefined ? ['the location'] : []),
    ...(filter.judgement ? ['how messages are marked'] : []),
    ...(isLabelled ? ['tags, folders and importance'] : []),
    ...(after || before ? ['the dates'] : []),
    ...(filter.touchedBy ? ['which list or rule matched'] : []),
    ...(filter.eventId === undefined ? [] : ['the event']),
    ...(filter.sender ? ['the sender'] : []),
  ]
}
