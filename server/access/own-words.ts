import { sql } from 'drizzle-orm'
import { isOthers, isPersonal, personOwner, type Owner } from '#core'
import { db } from '../db/client'
import { rules } from '../db/schema'
import { cleanText } from '../platform/clean-text'
import type { Actor } from './roles'

/** Tags and folders that only colleagues' own rules ever put: on a colleague's mail they are not shown, and not searched. */
export interface OthersWords {
  tags: ReadonlySet<string>
  folders: ReadonlySet<string>
}

const KEPT_FOR = 2000
let known: { until: number, rows: { owner: Owner, tag: string | null, folder: string | null }[] } | null = null

/** Those of everybody but the actor, by the rules that are there and those that were. */
export async function wordsOfOthers(actor: Actor): Promise<OthersWords> {
  if (!known || known.until < Date.now()) {
    const { rows } = await db().execute<{ owner: Owner, tag: string | null, folder: string | null }>(sql`
      select distinct owner, case when claim -> 'effect' ->> 'kind' = 'tag' then claim -> 'effect' ->> 'value' end as tag,
        claim -> 'place' ->> 'folder' as folder
      from ${rules}, jsonb_array_elements(claims) claim
      where claim -> 'effect' ->> 'kind' = 'tag' or claim -> 'place' ->> 'folder' is not null`)
    known = { until: Date.now() + KEPT_FOR, rows }
  }
  const own = personOwner(actor.id)
  const onlyOthers = (of: 'tag' | 'folder') => {
    const words = (isWanted: (owner: Owner) => boolean) =>
      known!.rows.flatMap(r => (r[of] !== null && isWanted(r.owner) ? [cleanText(r[of])] : []))
    const also = new Set(words(owner => !isPersonal(owner) || owner === own))
    return new Set(words(owner => isOthers(own, owner)).filter(word => !also.has(word)))
  }
  return { tags: onlyOthers('tag'), folders: onlyOthers('folder') }
}
