import { isPersonal, type Claim, type Owner } from '#core'
import type { PolicyChange } from '#core/change'
import { counted, numberWords } from '#core/wording'
import { recordEvent } from '../audit/record'
import type { Actor } from '../access/roles'
import { db, type Tx } from '../db/client'
import type { ChangeNote } from '../db/schema'
import { invalid, Problem, PROBLEM_TYPES } from '../platform/problem'
import { changeClauses, wordsOf } from '../policy/apply'
import { previewChanges, type Preview } from '../policy/preview'
import { WORDS_VERSION } from '../policy/words-version'
import { addExistingJob, type Existing } from './existing-job'
import { impactOfPreview, type ImpactView } from './simulation'

/** A change as it is save . */
export interface Changing {
  /** The version of the policy on which it was made. */
  base: number
  changes: PolicyChange[]
  note?: ChangeNote
  /** For mail that comes. Without, it is only applied to what is here, once. */
  coming: boolean
  existing?: Existing
  confirmed?: {
    /** Its impact was seen, though it is broad. */
    broad?: boolean
    /** So many copies were seen that would be gone for good. */
    erases?: number
  }
}

/** What was begun. */
export interface SavedChanges {
  version: number
  /** Null where nothing changed. */
  eventId: number | null
  /** Which moves what is here; null where that was not asked for. */
  job: number | null
}

/**
 * Saves changes for mail to come, applies them to mail that is here, or both, as one event. What is broad, or would be gone
 * for good, wants to have been seen first.
 * @param also what else belongs to the event of a change that comes active, in its transaction
 */
export async function saveChanges(
  actor: Actor,
  form: Changing,
  also: (tx: Tx, eventId: number) => Promise<void> = async () => undefined,
): Promise<SavedChanges> {
  const { base, changes, note, coming, existing } = form
  if (!coming && !existing)
    throw invalid(
      'Choose to which mail it applies: new mail, existing mail, or both.',
      { coming: 'Choose new mail, existing mail, or both.' },
    )
  const preview = await previewChanges(actor, changes)
  await mustHaveSeen(actor, preview, form)
  if (!coming) {
    const words = await wordsOf(preview.before, preview.net)
    const detail = { ...(note ? { note } : {}), words, wordsVersion: WORDS_VERSION, count: 0 }
    return db().transaction(async (tx) => {
      const eventId = await recordEvent(tx, { personId: actor.id, kind: 'applied', detail })
      const job = await addExistingJob(tx, actor, eventId, { ...existing!, net: preview.net, is: 'after', version: 0 })
      return { version: preview.version, eventId, job }
    })
  }
  let job: number | null = null
  const { version, eventId } = await changeClauses(actor, changes, {
    base,
    note,
    async inTransaction(tx, made) {
      await also(tx, made.eventId)
      if (existing)
        job = await addExistingJob(tx, actor, made.eventId, { ...existing, net: made.back, is: 'before', version: made.version })
    },
  })
  return { version, eventId, job }
}

async function mustHaveSeen(actor: Actor, preview: Preview, { confirmed = {} }: Changing): Promise<void> {
  const forGood = goneForGood(preview)
  if (confirmed.broad && !forGood.length) return
  const impact = await impactOfPreview(actor, preview)
  if (forGood.length && !hasSeenErased(forGood, impact, confirmed.erases))
    throw new Problem(422, 'Mail would be deleted permanently', erasedWords(forGood, impact), {
      type: PROBLEM_TYPES.erases,
      more: { impact },
    })
  if (impact.broad && !confirmed.broad)
    throw new Problem(
      422,
      'This affects many messages',
      `${impact.broad} Check the examples, set it to “monitor only” first, or confirm it.`,
      { type: PROBLEM_TYPES.broad, more: { impact } },
    )
}

/** Owners of clauses that have mail erased or discarded, and did not before. */
function goneForGood({ before, net }: Preview): Owner[] {
  return net.flatMap((change): Owner[] => {
    if (change.type !== 'put') return []
    if (change.kind === 'rule') {
      const was = before.rules.find(r => r.id === change.value.id)
      return change.value.state === 'enabled' && ends(change.value.claims) && !(was?.state === 'enabled' && ends(was.claims))
        ? [change.value.owner]
        : []
    }
    if (change.kind !== 'assignment' || !change.value.stop) return []
    const was = before.assignments.find(b => b.id === change.value.id)
    const now = change.value.state === 'enabled' && ends([{ stop: change.value.stop }])
    return now && !(was?.state === 'enabled' && was.stop && ends([{ stop: was.stop }])) ? [change.value.owner] : []
  })
}

function ends(claims: readonly Claim[]): boolean {
  return claims.some(c => 'stop' in c && (c.stop.to === 'erase' || c.stop.to === 'discard') && c.stop.confirmed === true)
}

// Of one's own a word is enough; of others' the number is said that was seen.
function hasSeenErased(owners: readonly Owner[], { erased }: ImpactView, said: number | undefined): boolean {
  return said !== undefined && (owners.every(isPersonal) || said >= erased)
}

function erasedWords(owners: readonly Owner[], { erased, looked }: ImpactView): string {
  const how = owners.every(isPersonal) ? 'Confirm it.' : `To confirm, type the number ${erased}.`
  return `Of the newest ${counted(looked, 'message')} it would have deleted ${numberWords(erased)} permanently. `
    + `This cannot be undone. ${how}`
}
