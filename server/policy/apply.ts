import { randomUUID } from 'node:crypto'
import { sql } from 'drizzle-orm'
import type { Owner, Policy } from '#core'
import { apply, changeWords, completed, differences, inverse, type PolicyChange } from '#core/change'
import { mustBeChangeable } from '../access/change-access'
import { mustFit, type Kept } from '../access/quota'
import type { Asker } from '../access/roles'
import { recordAct } from '../acts/record'
import { longDb, type Tx } from '../db/client'
import { versions } from '../db/schema'
import { Turns } from '../platform/turns'
import { withConcerned } from './concerned'
import { policyInForce, refreshPolicy } from './in-force'
import { refusal, type AskedAs } from './refusal'
import { asStored } from './rows'
import { mustBeFresh } from './since'
import { currentVersion, loadWithoutEntries, POLICY_CHANNEL } from './store'
import { writeChanges } from './write'

// One change of the policy at a time, on whatever process.
const LOCK = 0x50_be_01
// Those who wait for their turn hold no connection: many large changes at once would otherwise leave none for anybody's mail.
const turns = new Turns()

/** The policy as it stands inside the lock; its lists hold no entries. */
export interface Standing {
  tx: Tx
  policy: Policy
}

/** What changes came to. */
export interface Changed {
  /** The version in which they are in force; the one there was where they changed nothing. */
  version: number
  /** The act that can be taken back; null where nothing changed. */
  act: number | null
  /** With the ids of what was made. */
  changes: PolicyChange[]
}

/** What a change came to, for whoever asked for it. */
export type Done = Pick<Changed, 'act' | 'version'>

export interface HowToChange extends AskedAs {
  /** The version of the policy on which the changes were made: what they touch may not have been changed since. */
  base?: number
  /** What changed, in a sentence; the changes' own words unless said. Where it names what is there, of the policy inside the lock. */
  note?: string | ((before: Policy) => string)
  /** The act that the changes take back. */
  undoes?: number
  within?: Tx
  /** Told how many entries are written, of how many. */
  wrote?: (done: number, total: number) => void
  /** What else belongs to the act, in its transaction. */
  besides?: (tx: Tx, changed: Besides) => Promise<void>
}

/** What changes came to, for what else belongs to their act. */
export interface Besides {
  act: number
  version: number
  /** The differences that they make, and those that take them back. */
  net: PolicyChange[]
  back: PolicyChange[]
}

/**
 * Makes changes of the policy, all or none, and puts them in force as a new version, on record as an act. Whatever they depend
 * on is asked inside the lock: what was read before may have been changed by whoever was first.
 * @param asker null for the product itself, which may everything
 * @param make the changes, or what makes them of the policy as it stands inside the lock
 */
export async function changeClauses(
  asker: Asker | null,
  make: readonly PolicyChange[] | ((standing: Standing) => Promise<readonly PolicyChange[]>),
  how: HowToChange = {},
): Promise<Changed> {
  const run = (tx: Tx) => changeWithin(tx, asker, make, how)
  if (how.within) return run(how.within)
  const changed = await turns.take(asker?.id ?? '', () => longDb().transaction(run))
  if (changed.act !== null) await refreshPolicy()
  return changed
}

async function changeWithin(
  tx: Tx,
  asker: Asker | null,
  make: readonly PolicyChange[] | ((standing: Standing) => Promise<readonly PolicyChange[]>),
  how: HowToChange,
): Promise<Changed> {
  await tx.execute(sql`select pg_advisory_xact_lock(${LOCK})`)
  const { number } = await currentVersion(tx)
  const policy = await standingPolicy(tx, number, how.within !== undefined)
  const asked = typeof make === 'function' ? await make({ tx, policy }) : make
  const making = { id: randomUUID, now: new Date().toISOString(), by: asker?.name ?? null }
  const changes = completed(asked, making).map(asStored)
  if (asker) mustBeChangeable(asker, policy, changes, how.prefix)
  if (how.base !== undefined) await mustBeFresh(tx, asker, changes, { base: how.base, what: how.what })
  const before = await withConcerned(tx, policy, changes)
  const applied = apply(before, changes)
  if ('problems' in applied) throw refusal(applied.problems, changes, asker, how)
  const net = differences(before, applied.policy)
  if (!net.length) return { version: number, act: null, changes }
  const version = number + 1
  await writeChanges({ tx, version, wrote: how.wrote }, before, applied.policy, net)
  if (asker) for (const [owner, kept] of grown(before, changes)) await mustFit({ tx }, asker, owner, kept)
  const owner = ownerOf(before, changes)
  const words = (typeof how.note === 'function' ? how.note(before) : how.note) ?? wordsOf(before, changes)
  await tx.insert(versions).values({ number: version, owner, parent: number || null, note: words, by: asker?.id ?? null })
  const { undoes } = how
  const act = await recordAct(tx, {
    personId: asker?.id ?? null,
    kind: undoes === undefined ? 'changed' : 'taken back',
    detail: { version, owner, words, ...(undoes === undefined ? {} : { act: undoes, kind: 'changed' }) },
    undoes,
  })
  if (how.besides) await how.besides(tx, { act, version, net, back: inverse(before, applied.policy) })
  await tx.execute(sql`select pg_notify(${POLICY_CHANNEL}, ${String(version)})`)
  return { version, act, changes }
}

// What this process follows is the one that stands, mostly, and need not be read once more. Not where somebody else's
// transaction has made people and departments that nobody sees yet.
export async function standingPolicy(tx: Tx, version: number, unseen: boolean): Promise<Policy> {
  if (!unseen && version > 0) {
    const { policy } = await policyInForce()
    if (policy.version === version) return policy
  }
  return loadWithoutEntries(tx, version)
}

const MOST_WORDS = 2000

/** The words of changes, one after the other. */
export function wordsOf(policy: Policy, changes: readonly PolicyChange[]): string {
  const words: string[] = []
  let at: Policy | null = policy
  for (const change of changes) {
    if (words.length === 10) return `${words.join('. ')}. And ${changes.length - 10} more`.slice(0, MOST_WORDS)
    words.push(changeWords(at ?? policy, change))
    // A list that is made is named in what follows.
    const step: ReturnType<typeof apply<Policy>> = apply(at ?? policy, [change])
    at = 'policy' in step ? step.policy : null
  }
  return words.join('. ').slice(0, MOST_WORDS)
}

/** What of whom has become more. */
function grown(before: Policy, changes: readonly PolicyChange[]): [Owner, Kept][] {
  const out = new Map<string, [Owner, Kept]>()
  const note = (owner: Owner | undefined, kept: Kept) => {
    if (owner !== undefined) out.set(`${owner} ${kept}`, [owner, kept])
  }
  for (const change of changes) {
    if (!('put' in change)) continue
    if (change.put === 'entries') {
      const made = changes.find(c => 'put' in c && c.put === 'list' && c.list.id === change.list)
      const there = before.lists.find(l => l.id === change.list)?.owner
      note(there ?? (made && 'list' in made && typeof made.list === 'object' ? made.list.owner : undefined), 'entries')
    }
    if (change.put === 'list') note(change.list.owner, 'lists')
    if (change.put === 'use') note(change.use.owner, 'uses')
    if (change.put === 'rule') note(change.rule.owner, 'rules')
    if (change.put === 'phrase set') note(change['phrase set'].owner, 'sets')
  }
  return [...out.values()]
}

/** Whose change it is: of one owner theirs, else the organisation's. */
function ownerOf(before: Policy, changes: readonly PolicyChange[]): Owner {
  const owners = new Set(changes.map(change => changeOwner(before, changes, change)))
  return owners.size === 1 ? [...owners][0]! : 'organisation'
}

function changeOwner(before: Policy, changes: readonly PolicyChange[], change: PolicyChange): Owner {
  const of = (things: readonly { id: string, owner: Owner }[], id: string) => things.find(t => t.id === id)?.owner ?? 'organisation'
  if ('order' in change) return change.order
  if ('entries' in change) {
    const made = changes.flatMap(c => ('put' in c && c.put === 'list' && c.list.id === change.list ? [c.list.owner] : []))
    return made[0] ?? of(before.lists, change.list)
  }
  if ('put' in change) {
    if (change.put === 'list') return change.list.owner
    if (change.put === 'use') return change.use.owner
    if (change.put === 'rule') return change.rule.owner
    return change.put === 'phrase set' ? change['phrase set'].owner : 'organisation'
  }
  const things = { 'list': before.lists, 'use': before.bindings, 'rule': before.rules, 'phrase set': before.phraseSets }
  return change.remove in things ? of(things[change.remove as keyof typeof things], change.id) : 'organisation'
}
