import { and, eq, isNull, ne, or } from 'drizzle-orm'
import { applyingTo, type ChangeProblem, type PolicyChange } from '#core/change'
import { db, jobsDb, type Db, type Tx } from '../db/client'
import { proposals } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { inSlices } from '../platform/slices'
import { withRelatedEntries } from './related-entries'
import { refreshPolicy } from './active-policy'
import { isStale } from './conflicts'
import { currentPolicy } from './current-policy'
import { currentVersion } from './store'

const KIND = 'proposals'
/** So many reasons are kept of why one cannot be made. */
const MAX_PROBLEMS = 20

/** What is kept of whether proposed changes can still be made. */
export type Checked = Pick<typeof proposals.$inferSelect, 'checkedVersion' | 'stale' | 'problems'>

/**
 * Sees of each open proposal whether its changes can still be made, after the policy was changed. Listing them reads what is kept:
 * thousands of changes take longer to apply than anybody should wait who only looks.
 */
export const proposalsJob: JobKind = {
  async run({ step, isStopping }) {
    while (!(await isStopping())) {
      const { policy } = await refreshPolicy()
      const [row] = await jobsDb().select().from(proposals).where(and(eq(proposals.state, 'open'), unchecked(policy.version))).limit(1)
      if (!row) return
      const checked = await checkChanges(jobsDb(), row.changes, row.base)
      await step(async (tx) => {
        await tx.update(proposals).set(checked).where(eq(proposals.id, row.id))
        return { cursor: { proposal: row.id, version: checked.checkedVersion }, done: 1 }
      })
    }
  },
}

/** Whether some open proposals were last looked at under another version. */
export async function hasUncheckedProposals(version: number): Promise<boolean> {
  const [one] = await db()
    .select({ id: proposals.id })
    .from(proposals)
    .where(and(eq(proposals.state, 'open'), unchecked(version)))
    .limit(1)
  return one !== undefined
}

/**
 * Asks for open proposals to be looked at, where some were last looked at under another version.
 * @returns whether there were any
 */
export async function askForProposalCheck(version: number): Promise<boolean> {
  const there = await hasUncheckedProposals(version)
  if (there) await addJob(jobsDb(), { kind: KIND, key: 'open' })
  return there
}

function unchecked(version: number) {
  return or(isNull(proposals.checkedVersion), ne(proposals.checkedVersion, version))
}

/** Whether changes can be made of the policy as it stands now, and whether what they touch was changed after a version. */
export async function checkChanges(at: Db | Tx, changes: readonly PolicyChange[], base: number): Promise<Checked> {
  return at.transaction(async (tx) => {
    const { number } = await currentVersion(tx)
    const before = await withRelatedEntries(tx, await currentPolicy(tx, number, false), changes)
    const applied = await inSlices(applyingTo(before, changes))
    const problems: ChangeProblem[] | null = 'problems' in applied ? applied.problems.slice(0, MAX_PROBLEMS) : null
    return { checkedVersion: number, stale: await isStale(tx, changes, base), problems }
  }, { isolationLevel: 'repeatable read' })
}
