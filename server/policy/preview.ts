import { randomUUID } from 'node:crypto'
import type { Policy } from '#core'
import { apply, completed, differences, type PolicyChange } from '#core/change'
import { asIfActing } from '#core/rehearse'
import { mustBeChangeable, mustBeProposable } from '../access/change-access'
import type { Asker } from '../access/roles'
import { db } from '../db/client'
import { standingPolicy } from './apply'
import { withConcerned } from './concerned'
import { refusal } from './refusal'
import { asStored } from './rows'
import { currentVersion } from './store'

/** What changes would come to. */
export interface Preview {
  /** The version on which they were looked at. */
  version: number
  /** With the ids of what would be made. */
  changes: PolicyChange[]
  /** Before and after them, with the entries that they are about. */
  before: Policy
  after: Policy
  net: PolicyChange[]
}

/** How changes are looked at. */
interface How {
  /** What they only let watch is taken as acting. */
  acting?: boolean
  /** They are only proposed: that they are the asker's to make is not asked. */
  proposed?: boolean
}

/** What changes would come to: what would refuse them refuses this, too. */
export async function previewChanges(
  asker: Asker,
  asked: readonly PolicyChange[],
  { acting = false, proposed = false }: How = {},
): Promise<Preview> {
  return db().transaction(async (tx) => {
    const { number } = await currentVersion(tx)
    const policy = await standingPolicy(tx, number, false)
    const making = { id: randomUUID, now: new Date().toISOString(), by: asker.name }
    const whole = completed(asked, making).map(asStored)
    const changes = acting ? asIfActing(policy, whole) : whole
    if (proposed) mustBeProposable(asker, policy, changes)
    else mustBeChangeable(asker, policy, changes)
    const before = await withConcerned(tx, policy, changes)
    const applied = apply(before, changes)
    if ('problems' in applied) throw refusal(applied.problems, changes, asker, {})
    return { version: number, changes, before, after: applied.policy, net: differences(before, applied.policy) }
  }, { isolationLevel: 'repeatable read' })
}

/** Why changes that somebody made before cannot be put in force as the policy stands now; null where they can. */
export async function hindranceTo(asker: Asker, changes: readonly PolicyChange[]): Promise<string | null> {
  return db().transaction(async (tx) => {
    const { number } = await currentVersion(tx)
    const before = await withConcerned(tx, await standingPolicy(tx, number, false), changes)
    const applied = apply(before, changes)
    return 'problems' in applied ? refusal(applied.problems, changes, asker, {}).detail : null
  }, { isolationLevel: 'repeatable read' })
}
