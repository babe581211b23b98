import type { Impact } from '#core/simulate'
import type { Actor } from '../access/roles'
import type { JobView } from '../jobs/store'
import { viewFor } from './simulation'

/** A job that ended in what has to be seen first, with the examples as the actor may see them by now. */
export async function withImpactShown(actor: Actor, job: JobView): Promise<JobView> {
  const { result } = job
  if (!result || !('problem' in result) || !result.problem.more.impact) return job
  const { problem } = result
  const impact = await viewFor(actor, problem.more.impact as Impact)
  return { ...job, result: { problem: { ...problem, more: { ...problem.more, impact } } } }
}
