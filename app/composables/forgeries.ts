import { ApiProblem, type PossibleForgery } from '~/api/client'

/** What is asked before mail is let in that may be forged. */
export interface ForgeryQuestion {
  forgeries: readonly PossibleForgery[]
  /** Messages besides, that are let in without a question; 0 where there are none, or nobody knows. */
  others: number
  /** What is done to them: Release, or Move. */
  verb: string
  /** Lets all of them in, as they were shown. */
  anyway(): void
  /** Lets only the others in. */
  without(): void
}

/** What may be forged of mail that was to be let in, where the server asks about that; null for any other problem. */
export function forgeriesIn(problem: unknown): PossibleForgery[] | null {
  return problem instanceof ApiProblem && problem.is('forged') ? (problem.kind.more.forgeries as PossibleForgery[]) : null
}
