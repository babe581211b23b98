import { randomUUID } from 'node:crypto'
import type { Policy } from '#core'
import { apply, completed, differences, type PolicyChange } from '#core/change'
import { asIfActing } from '#core/rehearse'
import { mustBeChangeable } from '../access/change-access'
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
  /** Before and after them, with the entries that they are about. */
  before: Policy
  after: Policy
  net: PolicyChange[]
}

/** What changes would come to if what they only let watch were acting: what would refuse them refuses this, too. */
export function previewAsActing(asker: Asker, asked: readonly PolicyChange[]): Promise<Preview> {
  return preview(asker, asked, asIfActing)
}

/** The same for changes just as they are. */
export function previewChanges(asker: Asker, asked: readonly PolicyChange[]): Promise<Preview> {
  return preview(asker, asked, (_, changes) => [...changes])
}

async function preview(asker: Asker, asked: readonly PolicyChange[], as: typeof asIfActing): Promise<Preview> {
  return db().transaction(async (tx) => {
    const { number } = await currentVersion(tx)
    const policy = await standingPolicy(tx, number, false)
    const making = { id: randomUUID, now: new Date().toISOString(), by: asker.name }
    const changes = as(policy, completed(asked, making).map(asStored))
    mustBeChangeable(asker, policy, changes)
    const before = await withConcerned(tx, policy, changes)
    const applied = apply(before, changes)
    if ('problems' in applied) throw refusal(applied.problems, changes, asker, {})
    return { version: number, before, after: applied.policy, net: differences(before, applied.policy) }
  }, { isolationLevel: 'repeatable read' })
}
