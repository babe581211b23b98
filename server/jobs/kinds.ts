import type { Actor } from '../access/roles'
import type { Tx } from '../db/client'
import type { JobResult } from '../db/schema'

/** A job as it runs. */
export interface Running {
  id: number
  payload: Record<string, unknown>
  /** Where it goes on after it was interrupted; null at the beginning. */
  cursor: Record<string, unknown> | null
  personId: string | null
  /** The act that it is part of, or null. */
  eventId: number | null
  /**
   * Does one piece of the work, and writes down in the same transaction how far the job is: killed at any instant, it goes on
   * behind what is done, and does nothing twice. Of work that somebody asked for, the actor is that person with the rights that they
   * have in this very step, and cannot leave before it ends; null of work that nobody asked for.
   * @throws CannotBeDone where they have left
   */
  step(work: (tx: Tx, actor: Actor | null) => Promise<Progress>): Promise<void>
  /** Who asked for it, with their rights of now, for what is looked up between steps. @throws CannotBeDone where they have left */
  actor(): Promise<Actor>
  /** How much there is to do, as soon as that is known. */
  setTotal(total: number): Promise<void>
  /** Whether somebody asked it to stop, or this process ends: then it returns at once, and does no more. */
  isStopping(): Promise<boolean>
  /** The same of work that cannot be taken up in the middle: others do not have their turn before it ends. */
  isCancelled(): Promise<boolean>
}

/** What a step came to. */
export interface Progress {
  cursor: Record<string, unknown>
  /** How many things it dealt with, and how many of them it moved. */
  done: number
  moved?: number
}

/** Thrown by work that cannot be done, however often it is tried: the message says why, for whoever began it. */
export class PermanentJobError extends Error {}

/** Thrown by work that did nothing, since somebody has to see something first, or for a reason that its caller tells from others. */
export class JobRefused extends Error {
  constructor(readonly problem: Extract<JobResult, { problem: unknown }>['problem'], readonly state: 'needsConfirmation' | 'failed') {
    super(problem.detail)
  }
}

/** A kind of long work. It is done in steps, each of which can be the last one before the process is killed. */
export interface JobKind {
  run(job: Running): Promise<void>
}

const kinds = new Map<string, JobKind>()

/** Makes a kind of work known to this process. */
export function registerJob(kind: string, work: JobKind): void {
  kinds.set(kind, work)
}

export function jobKind(kind: string): JobKind | undefined {
  return kinds.get(kind)
}
