import { MessageChannel, type MessagePort } from 'node:worker_threads'
import type { Rule, Decision } from '#core'
import type { PolicyChange } from '#core/change'
import type { Impact } from '#core/simulate'
import type { Actor } from '../access/roles'
import { faultText, log } from '../platform/log'
import { hasThreads, runOn } from '../platform/threads'
import { Slots } from '../platform/slots'
import { activePolicy } from '../policy/active-policy'
import type { Preview } from '../policy/preview'
import type { WithEdition } from '../workers/archive-thread'
import type { CopyEnd, Hits, Supposed, ToDecide, ToEnd } from '../workers/decide-under'
import type { CausesFound, CausesJob } from '../workers/causes'
import type { Examples, ToReadExamples } from '../workers/examples'
import type { Needs } from '../workers/mail'
import type { TakenApart } from '../workers/parts'
import type { Redecided, ToRedecide } from '../workers/redecide'
import { newShared } from '../workers/sharing'
import * as here from '../workers/simulate'
import { linesOf, type CopyView } from '../copies/copies'

/** What a change would do to the mail that is here, as it is told. */
export interface ImpactView extends Omit<Impact, 'sample'> {
  /** The worst first, as far as the actor may see them. */
  sample: CopyView[]
}

/** How a simulation is followed. */
export interface Following {
  /** Told of each figure on the way: so far. */
  tell?: (impacts: Impact[]) => void
  /** Copies that are taken as marked so. */
  marked?: here.SimulationJob['marked']
  /** Each impact comes with what goes the wrong way, copy by copy. */
  crossings?: boolean
  /** Ends it: what was found so far is the answer. */
  signal?: AbortSignal
  /** Somebody waits to save: it does not wait for what the same person looks at. */
  toSave?: boolean
  steps?: here.Steps
}

// Two threads simulate for everybody; one person takes one of them at a time.
const simulating = new Slots(1)
const saving = new Slots(1)

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

/** Work on a thread that tells of itself on the way, and can be ended. */
async function followed<Job extends object, Answer extends object>(
  actor: Actor,
  { job, tell, signal, toSave }: { job: Job, tell?: (so: Answer) => void } & Pick<Following, 'signal' | 'toSave'>,
  run: (job: Job & WithEdition & { port?: MessagePort, stop: Int32Array }, transfer: MessagePort[]) => Promise<Answer | Needs>,
): Promise<Answer> {
  return (toSave ? saving : simulating).take(actor.id, async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4))
    const end = () => Atomics.store(stop, 0, 1)
    if (signal?.aborted) end()
    signal?.addEventListener('abort', end)
    try {
      return await ask<Job & { stop: Int32Array }, Answer>({ ...job, stop }, async (asked) => {
        if (!tell) return run(asked, [])
        const { port1, port2 } = new MessageChannel()
        port1.on('message', tell)
        try {
          return await run({ ...asked, port: port2 }, [port2])
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

/** What each of several changes would do, each by itself, to all of the mail that is here and that the actor may see. */
export function simulateNets(
  actor: Actor,
  nets: readonly PolicyChange[][],
  { marked, crossings, steps, ...how }: Following = {},
): Promise<here.SimulatedImpact[]> {
  const job = { alternatives: nets.map(net => ({ net })), now: new Date().toISOString(), actor, marked, crossings, steps }
  return followed<typeof job, here.SimulatedImpact[]>(actor, { ...how, job }, (asked, transfer) =>
    hasThreads() ? onTwoThreads(asked, transfer) : here.simulate(asked))
}

/** Milliseconds after which a second thread joins in: most questions are answered by then, and of the others a first figure is told. */
const JOINED_AFTER = 600

async function onTwoThreads(
  asked: here.SimulationJob,
  transfer: MessagePort[],
): Promise<here.SimulatedImpact[] | Needs> {
  const { port1, port2 } = new MessageChannel()
  const shared = newShared()
  let isAsked = false
  const timer = setTimeout(() => {
    isAsked = true
    void joinIn({ ...asked, port: undefined, sharing: { shared, port: port2 } })
  }, JOINED_AFTER)
  try {
    return await runOn('simulating', 'simulate', { ...asked, sharing: { shared, port: port1 } }, { transfer: [...transfer, port1] })
  }
  finally {
    clearTimeout(timer)
    if (!isAsked) port2.close()
  }
}

// Whatever becomes of it, the thread that leads says what is to be said.
async function joinIn(asked: here.SimulationJob): Promise<void> {
  const { edition } = await activePolicy()
  if (edition.number !== asked.number) return asked.sharing!.port.close()
  try {
    await runOn('simulating', 'simulateAlong', { ...asked, edition }, { transfer: [asked.sharing!.port] })
  }
  catch (error) {
    log.warn({ error: faultText(error) }, 'a second thread could not join a simulation')
  }
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

/** What each part of a rule does to all of the mail that the actor may see: see `takeApart`. */
export function partsOfRule(
  actor: Actor,
  rule: Rule,
  how: { tell?: (parts: TakenApart) => void, signal?: AbortSignal } = {},
): Promise<TakenApart> {
  const job = { rule, actor, now: new Date().toISOString() }
  return followed<typeof job, TakenApart>(actor, { ...how, job }, (asked, transfer) =>
    hasThreads() ? runOn('simulating', 'takeApart', asked, { transfer }) : here.takeApart(asked))
}

/** Where a message would end under a policy that differs: see `decideUnderNet`. */
export function decideUnder(what: Omit<ToDecide, 'now' | keyof WithEdition>): Promise<Decision> {
  return ask<Omit<ToDecide, keyof WithEdition>, Decision>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'decideUnderNet', job) : here.decideUnderNet(job))
}

/** Where copies that are here would end under each of several policies that differ: see `endsUnderNets`. */
export function endsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<CopyEnd[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, CopyEnd[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'endsUnderNets', job) : here.endsUnderNets(job))
}

/** The same, with which copies they are and why they would end there: see `decisionsUnderNets`. */
export function decisionsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Supposed[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, Supposed[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'decisionsUnderNets', job) : here.decisionsUnderNets(job))
}

/** In how many of some copies what differs would find something: see `hitsUnderNets`. */
export function hitsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Hits> {
  return ask<Omit<ToEnd, keyof WithEdition>, Hits>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('simulating', 'hitsUnderNets', job) : here.hitsUnderNets(job))
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
