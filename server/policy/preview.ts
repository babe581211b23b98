import type { Policy } from '#core'
import { applyingTo, differences, type PolicyChange } from '#core/change'
import { asIfEnabled } from '#core/simulate'
import { mustBeChangeable, mustBeProposable } from '../access/change-access'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { inSlices, othersFirst } from '../platform/slices'
import { withRelatedEntries } from './related-entries'
import { prepared } from './prepared'
import { refusal } from './refusal'
import { currentPolicy } from './current-policy'
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
interface PreviewOptions {
  /** What would only monitor is taken as enabled. */
  monitorToo?: boolean
  /** They are only proposed: that they are the actor's to make is not asked. */
  proposed?: boolean
}

/** What changes would come to: what would refuse them refuses this, too. */
export async function previewChanges(
  actor: Actor,
  asked: readonly PolicyChange[],
  { monitorToo = false, proposed = false }: PreviewOptions = {},
): Promise<Preview> {
  return db().transaction(async (tx) => {
    const { number } = await currentVersion(tx)
    const policy = await currentPolicy(tx, number, false)
    const whole = await prepared(actor, asked)
    const changes = monitorToo ? asIfEnabled(policy, whole) : whole
    if (proposed) mustBeProposable(actor, policy, changes)
    else mustBeChangeable(actor, policy, changes)
    const before = await withRelatedEntries(tx, policy, changes)
    const applied = await inSlices(applyingTo(before, changes))
    if ('problems' in applied) throw refusal(applied.problems, changes, actor, {})
    await othersFirst()
    return { version: number, changes, before, after: applied.policy, net: differences(before, applied.policy) }
  }, { isolationLevel: 'repeatable read' })
}
