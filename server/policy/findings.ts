import { setTimeout as sleep } from 'node:timers/promises'
import { desc, lt } from 'drizzle-orm'
import { fixOf, personOwner, type Finding } from '#core'
import type { PolicyChange } from '#core/change'
import { seesClausesOf } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db, jobsDb } from '../db/client'
import { findings } from '../db/schema'
import type { JobKind } from '../jobs/kinds'
import { addJob } from '../jobs/store'
import { wordsOf } from './apply'
import { checkOnThread } from './on-threads'
import { activePolicy, refreshPolicy } from './active-policy'
import { acceptedDirections } from './accepted-directions'
import { whatMailHasShown } from './mail-shown'

/** Hits change by the second; what they mean over 180 days is good for a while. */
const GOOD_FOR = 5 * 60 * 1000
/**
 * How long a page waits for those of a version that has just come. Older ones are shown meanwhile; an ordinary policy is
 * checked in milliseconds.
 */
const PATIENCE = 1500
const LOOK_AGAIN = 100
const VERSIONS_KEPT = 3

const KIND = 'findings'
/** Checks the active policy, and once more if it was changed meanwhile. */
export const findingsJob: JobKind = {
  async run({ step, isStopping }) {
    for (let checked = -1; !(await isStopping());) {
      const { policy, edition } = await refreshPolicy()
      if (policy.version === checked) return
      const context = { ...(await whatMailHasShown(policy)), accepts: acceptedDirections(policy) }
      const found = await checkOnThread({ policy, table: edition.table, context })
      const row = { version: policy.version, at: new Date(), found }
      await step(async (tx) => {
        await tx.insert(findings).values(row).onConflictDoUpdate({ target: findings.version, set: row })
        await tx.delete(findings).where(lt(findings.version, policy.version - VERSIONS_KEPT))
        return { cursor: { version: policy.version }, done: 1 }
      })
      checked = policy.version
    }
  },
}

/** Asks for the findings of the active policy to be made; while they are being made, for nothing more. */
export async function askForFindings(): Promise<void> {
  await addJob(jobsDb(), { kind: KIND, key: 'policy' })
}

let kept: { version: number, at: number, found: Finding[] } = { version: -1, at: 0, found: [] }

/** The findings that were made last, by whatever process. */
async function newest(): Promise<typeof kept> {
  const [row] = await db().select({ version: findings.version, at: findings.at }).from(findings).orderBy(desc(findings.version)).limit(1)
  if (row && (row.version !== kept.version || row.at.getTime() !== kept.at)) {
    const [whole] = await db().select().from(findings).orderBy(desc(findings.version)).limit(1)
    if (whole) kept = { version: whole.version, at: whole.at.getTime(), found: whole.found }
  }
  return kept
}

async function findingsNow(): Promise<Finding[]> {
  const { policy } = await activePolicy()
  const begun = Date.now()
  for (;;) {
    const { version, at, found } = await newest()
    const isCurrent = version >= policy.version
    if (!isCurrent || Date.now() - at > GOOD_FOR) await askForFindings()
    if (isCurrent || Date.now() - begun > PATIENCE) return found
    await sleep(LOOK_AGAIN)
  }
}

/** What of it somebody may read: what other people's mail has shown is not theirs to count, nor how they use a list. */
export async function findingsFor(actor: Actor): Promise<Finding[]> {
  const { policy } = await activePolicy()
  const owners = new Map([...policy.rules, ...policy.lists].map(c => [c.id, c.owner]))
  const canRead = ({ kind, clause: { id, user } }: Finding) =>
    (user === undefined || seesClausesOf(actor, user)) &&
    (can(actor, 'view counts of all mail') || !FROM_MAIL.has(kind) || owners.get(id) === personOwner(actor.id))
  return (await findingsNow()).filter(canRead)
}

/** A finding with the changes that fix it; null where only a person can say what is meant. */
export interface FindingView extends Finding {
  change: PolicyChange[] | null
  /** What they change, in a sentence. */
  words: string
}

/** These findings with their fixes, as the policy stands now. */
export async function withFixes(found: readonly Finding[]): Promise<FindingView[]> {
  const { policy } = await activePolicy()
  const now = new Date().toISOString()
  const out: FindingView[] = []
  for (const f of found) {
    const change = fixOf(policy, f, now)
    out.push({ ...f, change, words: change ? await wordsOf(policy, change) : '' })
  }
  return out
}

const FROM_MAIL: ReadonlySet<Finding['kind']> = new Set(['phrase matches wanted mail', 'unused'])
