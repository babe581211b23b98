import { isPersonal, type Claim, type Owner } from '#core'
import type { PolicyChange } from '#core/change'
import { isWhole, type Impact } from '#core/simulate'
import { counted, numberWords } from '#core/wording'
import { recordEvent } from '../audit/record'
import type { Actor } from '../access/roles'
import { db, type Tx } from '../db/client'
import type { ChangeNote } from '../db/schema'
import { addJob } from '../jobs/store'
import { invalid, Problem, PROBLEM_TYPES } from '../platform/problem'
import { changeClauses, wordsOf } from '../policy/apply'
import { wholeNumber } from '../platform/variables'
import { previewChanges, type Preview } from '../policy/preview'
import { WORDS_VERSION } from '../policy/words-version'
import { addExistingJob, type Existing } from './existing-job'
import { impactOfPreview, type ImpactView } from './simulation'

/** A change as it is saved. */
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

/** What else belongs to the event of a change, in its transaction. */
type Also = (tx: Tx, saved: SavedChanges & { eventId: number }) => Promise<void>

/**
 * Saves changes for mail to come, applies them to mail that is here, or both, as one event. What affects much, or would be gone
 * for good, wants to have been seen first: that is counted over all of the mail in scope, however long it takes.
 * @param also what else belongs to the event of a change that comes active, in its transaction
 */
export async function saveChanges(actor: Actor, form: Changing, also?: Also): Promise<SavedChanges> {
  const preview = await previewOf(actor, form)
  if (needsCounting(preview, form)) mustHaveSeen(await impactOfPreview(actor, preview, { toSave: true }), preview, form)
  return saveNow(actor, preview, form, also)
}

/** Milliseconds for which a caller waits until all mail is counted; then a job goes on. */
const COUNTED_WITHIN = 5000

/** The same for a caller who does not wait long: a job saves, or says what it needs, where counting takes longer. */
export async function saveOrCheck(actor: Actor, form: Changing): Promise<SavedChanges | { checking: number }> {
  const preview = await previewOf(actor, form)
  if (needsCounting(preview, form)) {
    const impact = await impactOfPreview(actor, preview, { signal: AbortSignal.timeout(countedWithin()), toSave: true })
    if (!isWhole(impact)) return { checking: await addJob(db(), { kind: SAVE_JOB, payload: { form }, personId: actor.id }) }
    mustHaveSeen(impact, preview, form)
  }
  return saveNow(actor, preview, form)
}

/** The kind of the job that counts all mail and saves. */
export const SAVE_JOB = 'save'

function countedWithin(): number {
  return wholeNumber('SOBER_GATE_COUNTED_WITHIN', COUNTED_WITHIN, { least: 0 })
}

/** What changes come to, as they are saved. @throws what would refuse them */
export function previewOf(actor: Actor, { changes, coming, existing }: Changing): Promise<Preview> {
  if (!coming && !existing)
    throw invalid(
      'Choose to which mail it applies: new mail, existing mail, or both.',
      { coming: 'Choose new mail, existing mail, or both.' },
    )
  return previewChanges(actor, changes)
}

/** Saves what was looked at. */
export async function saveNow(actor: Actor, preview: Preview, form: Changing, also: Also = async () => undefined): Promise<SavedChanges> {
  const { base, changes, note, coming, existing } = form
  if (!coming) {
    const words = await wordsOf(preview.before, preview.net)
    const detail = { ...(note ? { note } : {}), words, wordsVersion: WORDS_VERSION, count: 0 }
    return db().transaction(async (tx) => {
      const eventId = await recordEvent(tx, { personId: actor.id, kind: 'applied', detail })
      const job = await addExistingJob(tx, actor, eventId, { ...existing!, net: preview.net, is: 'after', version: 0 })
      const saved = { version: preview.version, eventId, job }
      await also(tx, saved)
      return saved
    })
  }
  let job: number | null = null
  const { version, eventId } = await changeClauses(actor, changes, {
    base,
    note,
    async inTransaction(tx, made) {
      if (existing)
        job = await addExistingJob(tx, actor, made.eventId, { ...existing, net: made.back, is: 'before', version: made.version })
      await also(tx, { version: made.version, eventId: made.eventId, job })
    },
  })
  return { version, eventId, job }
}

/** Whether its impact has to be known before it is saved. */
export function needsCounting(preview: Preview, { confirmed }: Changing): boolean {
  return !confirmed?.broad || goneForGood(preview).length > 0
}

/** @throws where something has to be seen first that was not. @param impact over all mail in scope */
export function mustHaveSeen(impact: Figures, preview: Preview, { confirmed = {} }: Changing): void {
  const forGood = goneForGood(preview)
  if (forGood.length && !hasSeenErased(forGood, impact, confirmed.erases))
    throw new Problem(422, 'Mail would be deleted permanently', erasedWords(forGood, impact), {
      type: PROBLEM_TYPES.erases,
      more: { impact },
    })
  if (impact.broad && !confirmed.broad)
    throw new Problem(422, 'This affects many messages', `${impact.broad} Check the examples, then confirm it.`, {
      type: PROBLEM_TYPES.broad,
      more: { impact },
    })
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

/** An impact, with its examples as whoever sees it is shown them, or by their ids. */
type Figures = Impact | ImpactView

// Of one's own a word is enough; of others' the number is said that was seen.
function hasSeenErased(owners: readonly Owner[], { erased }: Figures, said: number | undefined): boolean {
  return said !== undefined && (owners.every(isPersonal) || said >= erased)
}

function erasedWords(owners: readonly Owner[], { erased, looked }: Figures): string {
  const how = owners.every(isPersonal) ? 'Confirm it.' : `To confirm, type the number ${erased}.`
  return `Of ${counted(looked, 'message')} it would have deleted ${numberWords(erased)} permanently. `
    + `This cannot be undone. ${how}`
}
