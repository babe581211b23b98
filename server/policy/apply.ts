import { sql } from 'drizzle-orm'
import type { Owner, Policy } from '#core'
import { applyingTo, changeWords, clauseOwners, differences, IndexedClauses, inverse, type PolicyChange } from '#core/change'
import { mustBeChangeable } from '../access/change-access'
import { administratorsWord } from '../access/clause-limits'
import { mustFit, type QuotaKind } from '../access/quota'
import type { Actor } from '../access/roles'
import { recordEvent } from '../audit/record'
import { longDb, type Tx } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { versions, type ChangeNote } from '../db/schema'
import { noSuchVersion } from '../platform/problem'
import { inSlices, othersFirst } from '../platform/slices'
import { Turns } from '../platform/turns'
import { withRelatedEntries } from './related-entries'
import { refreshPolicy } from './active-policy'
import { prepared } from './prepared'
import { askForProposalCheck } from './proposal-check'
import { refusal, type AskedAs } from './refusal'
import { mustBeFresh } from './conflicts'
import { currentPolicy } from './current-policy'
import { currentVersion, POLICY_CHANNEL } from './store'
import { WORDS_VERSION } from './words-version'
import { writeChanges } from './write'

// Those who wait for their turn hold no connection: many large changes at once would otherwise leave none for anybody's mail.
const turns = new Turns()

/** The policy as it stands inside the lock; its lists hold no entries. */
export interface CurrentPolicy {
  tx: Tx
  policy: Policy
}

/** What changes came to. */
export interface Changed {
  /** The version in which they are active; the one there was where they changed nothing. */
  version: number
  /** The act that can be undone; null where nothing changed. */
  eventId: number | null
  /** With the ids of what was made. */
  changes: PolicyChange[]
}

/** What a change came to, for whoever asked for it. */
export type Done = Pick<Changed, 'eventId' | 'version'>

export interface ChangeOptions extends AskedAs {
  /** The version of the policy on which the changes were made: what they touch may not have been changed since. */
  base?: number
  /** What is said of it besides what it changes. Where it names what is there, of the policy inside the lock. */
  note?: ChangeNote | ((before: Policy) => ChangeNote)
  /** The act that the changes undo. */
  undoes?: number
  within?: Tx
  /** Told how many entries are written, of how many. */
  wrote?: (done: number, total: number) => void
  /** What else belongs to the event, in its transaction. */
  inTransaction?: (tx: Tx, changed: ChangeResult) => Promise<void>
}

/** What changes came to, for what else belongs to their act. */
export interface ChangeResult {
  eventId: number
  version: number
  /** The differences that they make, and those that undo them. */
  net: PolicyChange[]
  back: PolicyChange[]
}

/**
 * Makes changes of the policy, all or none, and saves them as a new version, on record as an event. Whatever they depend
 * on is asked inside the lock: what was read before may have been changed by whoever was first.
 * @param actor null for the product itself, which can do everything
 * @param make the changes, or what makes them of the policy as it stands inside the lock
 */
export async function changeClauses(
  actor: Actor | null,
  make: readonly PolicyChange[] | ((standing: CurrentPolicy) => Promise<readonly PolicyChange[]>),
  how: ChangeOptions = {},
): Promise<Changed> {
  const run = (tx: Tx) => changeWithin(tx, actor, make, how)
  if (how.within) return run(how.within)
  const changed = await turns.take(actor?.id ?? '', () => longDb().transaction(run))
  if (changed.eventId !== null) {
    await refreshPolicy()
    await askForProposalCheck(changed.version)
  }
  return changed
}

async function changeWithin(
  tx: Tx,
  actor: Actor | null,
  make: readonly PolicyChange[] | ((standing: CurrentPolicy) => Promise<readonly PolicyChange[]>),
  how: ChangeOptions,
): Promise<Changed> {
  await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.policy})`)
  const { number } = await currentVersion(tx)
  const policy = await currentPolicy(tx, number, how.within !== undefined)
  const asked = typeof make === 'function' ? await make({ tx, policy }) : make
  const changes = await prepared(actor, asked)
  if (actor) mustBeChangeable(actor, policy, changes, how.prefix)
  // One that is still to come could never be found changed since.
  if (how.base !== undefined && how.base > number) throw noSuchVersion(how.base, number)
  if (how.base !== undefined) await mustBeFresh(tx, actor, changes, { base: how.base, what: how.what })
  const before = await withRelatedEntries(tx, policy, changes)
  const applied = await inSlices(applyingTo(before, changes))
  if ('problems' in applied) throw refusal(applied.problems, changes, actor, how)
  await othersFirst()
  const net = differences(before, applied.policy)
  if (!net.length) return { version: number, eventId: null, changes }
  const version = number + 1
  await writeChanges({ tx, version, wrote: how.wrote }, before, applied.policy, net)
  const owners = ownersWith(before, changes)
  if (actor) for (const [owner, kept] of grown(owners, changes)) await mustFit({ tx }, actor, owner, kept)
  const owner = ownerOf(owners, changes)
  const note = (typeof how.note === 'function' ? how.note(before) : how.note) ?? null
  const words = await wordsOf(before, changes)
  const by = actor?.id ?? null
  await tx.insert(versions).values({ number: version, owner, parent: number || null, note, words, wordsVersion: WORDS_VERSION, by })
  const { undoes } = how
  const eventId = await recordEvent(tx, {
    personId: actor?.id ?? null,
    kind: undoes === undefined ? 'changed' : 'undone',
    detail: {
      version,
      owner,
      ...(bringsBackAdministratorsWord(before, net) ? { administrators: true } : {}),
    },
    undoes,
  })
  if (how.inTransaction) await how.inTransaction(tx, { eventId, version, net, back: inverse(before, applied.policy) })
  await tx.execute(sql`select pg_notify(${POLICY_CHANNEL}, ${String(version)})`)
  return { version, eventId, changes }
}

/** Whether undoing differences brings back claims that only an administrator makes. */
function bringsBackAdministratorsWord(before: Policy, net: readonly PolicyChange[]): boolean {
  const rules = before.rules.filter(r => administratorsWord(r.owner, r.claims))
  const assignments = before.assignments.filter(b => b.stop && administratorsWord(b.owner, [{ stop: b.stop }]))
  // A list goes with its uses.
  const keys = new Set([...rules.map(r => `rule ${r.id}`), ...assignments.flatMap(u => [`assignment ${u.id}`, `list ${u.list}`])])
  return keys.size > 0 && net.some((change) => {
    if (change.type === 'remove') return change.kind !== 'entries' && keys.has(`${change.kind} ${change.id}`)
    if (change.type === 'order') return false
    return change.kind === 'rule'
      ? keys.has(`rule ${change.value.id}`)
      : change.kind === 'assignment' && keys.has(`assignment ${change.value.id}`)
  })
}

const MAX_WORDS = 2000

/** The words of changes, one after the other: of the first ten, and how many more there are. */
export async function wordsOf(policy: Policy, changes: readonly PolicyChange[]): Promise<string> {
  const words: string[] = []
  let clauses: IndexedClauses<Policy> | undefined
  for (const change of changes.slice(0, MAX_WORDED)) {
    // A list that is made is named in what follows; most often nothing follows.
    words.push(changeWords(clauses ? clauses.clauses() : policy, change))
    if (words.length === changes.length) break
    clauses ??= new IndexedClauses(policy)
    if (!('entries' in change)) clauses.apply(change)
    await othersFirst()
  }
  const more = changes.length - MAX_WORDED
  return `${words.join('. ')}${more > 0 ? `. And ${more} more` : ''}`.slice(0, MAX_WORDS)
}

const MAX_WORDED = 10

/** The owners of clauses before changes, and of the lists that these make; what is made comes first. */
function ownersWith(before: Policy, changes: readonly PolicyChange[]): ReadonlyMap<string, Owner> {
  const owners = clauseOwners(before)
  for (const c of changes) if (c.type === 'put' && c.kind === 'list') owners.set(`list ${c.value.id}`, c.value.owner)
  return owners
}

/** What of whom has become more. */
function grown(owners: ReadonlyMap<string, Owner>, changes: readonly PolicyChange[]): [Owner, QuotaKind][] {
  const out = new Map<string, [Owner, QuotaKind]>()
  const note = (owner: Owner | undefined, kept: QuotaKind) => {
    if (owner !== undefined) out.set(`${owner} ${kept}`, [owner, kept])
  }
  for (const change of changes) {
    if (change.type !== 'put') continue
    if (change.kind === 'entries') note(owners.get(`list ${change.list}`), 'entries')
    if (change.kind === 'list') note(change.value.owner, 'lists')
    if (change.kind === 'assignment') note(change.value.owner, 'assignments')
    if (change.kind === 'rule') note(change.value.owner, 'rules')
    if (change.kind === 'phraseSet') note(change.value.owner, 'sets')
  }
  return [...out.values()]
}

/** Whose change it is: of one owner theirs, else the organisation's. */
function ownerOf(owners: ReadonlyMap<string, Owner>, changes: readonly PolicyChange[]): Owner {
  const all = new Set(changes.map((change): Owner => {
    if (change.type === 'order') return change.owner
    if ('entries' in change) return owners.get(`list ${change.list}`) ?? 'organisation'
    if (change.type === 'put') {
      if (change.kind === 'list') return change.value.owner
      if (change.kind === 'assignment') return change.value.owner
      if (change.kind === 'rule') return change.value.owner
      return change.kind === 'phraseSet' ? change.value.owner : 'organisation'
    }
    return owners.get(`${change.kind} ${change.id}`) ?? 'organisation'
  }))
  return all.size === 1 ? [...all][0]! : 'organisation'
}
