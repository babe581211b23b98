import { MessageChannel } from 'node:worker_threads'
import type { Lane, Rule, Decision } from '#core'
import type { PolicyChange } from '#core/change'
import type { Impact } from '#core/simulate'
import type { Actor } from '../access/roles'
import { hasThreads, runOn } from '../platform/threads'
import { Slots } from '../platform/slots'
import { activePolicy } from '../policy/active-policy'
import type { Preview } from '../policy/preview'
import type { WithEdition } from '../workers/archive-thread'
import type { Supposed, ToDecide, ToEnd } from '../workers/decide-under'
import type { CausesFound, CausesJob } from '../workers/causes'
import type { Examples, ToReadExamples } from '../workers/examples'
import type { Needs } from '../workers/mail'
import type { TakenApart, ToTakeApart } from '../workers/parts'
import type { Redecided, ToRedecide } from '../workers/redecide'
import * as here from '../workers/simulate'
import { linesOf, type CopyView } from '../copies/copies'

/** What a change would do to the mail that is here, as it is told. */
export interface ImpactView extends Omit<Impact, 'sample'> {
  /** The worst first, as far as the actor may see them. */
  sample: CopyView[]
}

/** How a simulation is followed. */
export interface Following {
  /** All that is here, and not just the newest; unless it ends before. */
  whole?: boolean
  /** Told of each figure on the way. */
  tell?: (impacts: Impact[]) => void
  /** Copies that are taken as marked so. */
  marked?: here.SimulationJob['marked']
  among?: here.SimulationJob['among']
  /** Ends it: what was found so far is the answer. */
  signal?: AbortSignal
}

// Two threads simulate for everybody; one person takes one of them at a time.
const simulating = new Slots(1)

/** Asks a simulating thread, which is given the policy where it has not got it yet. */
async function ask<Job extends object, Answer extends object>(
  job: Job,
  run: (job: Job & WithEdition) => Promise<Answer | Needs>,
): Promise<Answer> {
  const { edition } = await activePolicy()
  const answer = await run({ ...job, number: edition.number })
  const result = 'needs' in answer ? await run({ ...job, number: edition.number, edition }) : answer
  if ('needs' in result) throw new Error('a rehearsing thread would not take the policy')
  return result
}

/** What each of several changes would do, each by itself, to the mail that is here and that the actor may see. */
export async function simulateNets(
  actor: Actor,
  nets: readonly PolicyChange[][],
  { whole = false, marked, among, tell, signal }: Following = {},
): Promise<Impact[]> {
  return simulating.take(actor.id, async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4))
    const end = () => Atomics.store(stop, 0, 1)
    if (signal?.aborted) end()
    signal?.addEventListener('abort', end)
    try {
      const job = { alternatives: nets.map(net => ({ net })), now: new Date().toISOString(), whole, stop, actor, marked, among }
      return await ask<typeof job, Impact[]>(job, async (asked) => {
        const { port1, port2 } = new MessageChannel()
        port1.on('message', tell ?? (() => undefined))
        try {
          const withPort = { ...asked, port: port2 }
          return await (hasThreads() ? runOn('simulating', 'simulate', withPort, { transfer: [port2] }) : here.simulate(withPort))
        }
        finally {
          port1.close()
        }
      })
    }
    finally {
      signal?.removeEventListener('abort', end)
    }
  })
}

/**
 * What each of several changes would do. Senders are found by an index, words are not: each kind is asked apart, so that neither
 * waits for the other.
 * @param tell told what has been found after the first kind
 */
export async function simulateOnThreads(
  actor: Actor,
  nets: readonly PolicyChange[][],
  { tell, ...how }: Pick<Following, 'marked'> & { tell?: (impacts: readonly (Impact | undefined)[]) => void } = {},
): Promise<Impact[]> {
  const bySender = nets.map(net => net.every(c => c.type === 'put' && c.kind !== 'rule'))
  const out: Impact[] = []
  for (const kind of [true, false]) {
    const at = nets.flatMap((_, i) => (bySender[i] === kind ? [i] : []))
    if (!at.length) continue
    const impacts = await simulateNets(actor, at.map(i => nets[i]!), how)
    at.forEach((i, n) => (out[i] = impacts[n]!))
    tell?.(out)
  }
  return out
}

/** The causes of copies that went wrong, and what may put them right: see `causesOfCopies`. */
export function causesOf(actor: Actor, what: Omit<CausesJob, 'now' | keyof WithEdition>): Promise<CausesFound> {
  return simulating.take(actor.id, () =>
    ask<Omit<CausesJob, keyof WithEdition>, CausesFound>({ ...what, now: new Date().toISOString() }, job =>
      hasThreads() ? runOn('simulating', 'causesOfCopies', job) : here.causesOfCopies(job)))
}

/** Decides copies that are here anew: see `redecide`. */
export function redecideCopies(what: Omit<ToRedecide, 'now' | keyof WithEdition>): Promise<Redecided[]> {
  return ask<Omit<ToRedecide, keyof WithEdition>, Redecided[]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'redecide', job) : here.redecide(job))
}

/** What each part of a rule does to the newest mail that the actor may see: see `takeApart`. */
export function partsOfRule(actor: Actor, rule: Rule): Promise<TakenApart> {
  return simulating.take(actor.id, () =>
    ask<Omit<ToTakeApart, keyof WithEdition>, TakenApart>({ rule, actor, now: new Date().toISOString() }, job =>
      hasThreads() ? runOn('simulating', 'takeApart', job) : here.takeApart(job)))
}

/** Where a message would end under a policy that differs: see `decideUnderNet`. */
export function decideUnder(what: Omit<ToDecide, 'now' | keyof WithEdition>): Promise<Decision> {
  return ask<Omit<ToDecide, keyof WithEdition>, Decision>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'decideUnderNet', job) : here.decideUnderNet(job))
}

/** Where copies that are here would end under each of several policies that differ: see `endsUnderNets`. */
export function endsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Lane[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, Lane[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'endsUnderNets', job) : here.endsUnderNets(job))
}

/** The same, with which copies they are and why they would end there: see `decisionsUnderNets`. */
export function decisionsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Supposed[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, Supposed[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'decisionsUnderNets', job) : here.decisionsUnderNets(job))
}

/** What examples have in common: see `readExamples`. */
export function examplesOf(what: Omit<ToReadExamples, 'now' | keyof WithEdition>): Promise<Examples> {
  return ask<Omit<ToReadExamples, keyof WithEdition>, Examples>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'readExamples', job) : here.readExamples(job))
}

/** What changes that were looked at would do to the mail that is here. */
export async function impactOfPreview(
  actor: Actor,
  { net }: Pick<Preview, 'net'>,
  { tell, ...how }: Omit<Following, 'tell'> & { tell?: (impact: ImpactView) => void } = {},
): Promise<ImpactView> {
  const [impact] = await simulateNets(actor, [net], {
    ...how,
    ...(tell ? { tell: ([i]) => void viewFor(actor, i!).then(tell, () => undefined) } : {}),
  })
  return viewFor(actor, impact!)
}

export async function viewFor(actor: Actor, { sample, ...impact }: Impact): Promise<ImpactView> {
  return { ...impact, sample: await linesOf(actor, sample) }
}
