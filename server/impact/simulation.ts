import { MessageChannel } from 'node:worker_threads'
import type { Lane, Rule, Ruling } from '#core'
import type { PolicyChange } from '#core/change'
import type { Impact } from '#core/simulate'
import type { Asker } from '../access/roles'
import { hasThreads, runOn } from '../platform/threads'
import { Slots } from '../platform/slots'
import { policyInForce } from '../policy/active-policy'
import type { Preview } from '../policy/preview'
import type { WithEdition } from '../workers/archive-thread'
import type { Supposed, ToDecide, ToEnd } from '../workers/decide-under'
import type { BlameFound, ToBlame } from '../workers/causes'
import type { Examples, ToReadExamples } from '../workers/examples'
import type { Needs } from '../workers/mail'
import type { TakenApart, ToTakeApart } from '../workers/parts'
import type { Redecided, ToRedecide } from '../workers/redecide'
import * as here from '../workers/simulate'
import { linesOf, type CopyLine } from '../copies/copies'

/** What a change would do to the mail that is here, as it is told. */
export interface ImpactTold extends Omit<Impact, 'sample'> {
  /** The worst first, as far as the asker may see them. */
  sample: CopyLine[]
}

/** How a rehearsal is followed. */
export interface Following {
  /** All that is here, and not just the newest; unless it ends before. */
  whole?: boolean
  /** Told of each figure on the way. */
  tell?: (impacts: Impact[]) => void
  /** Copies that are taken as judged so. */
  judged?: here.ToRehearse['judged']
  among?: here.ToRehearse['among']
  /** Ends it: what was found so far is the answer. */
  signal?: AbortSignal
}

// Two threads rehearse for everybody; one person takes one of them at a time.
const rehearsing = new Slots(1)

/** Asks a rehearsing thread, which is given the policy where it has not got it yet. */
async function ask<Job extends object, Answer extends object>(
  job: Job,
  run: (job: Job & WithEdition) => Promise<Answer | Needs>,
): Promise<Answer> {
  const { edition } = await policyInForce()
  const answer = await run({ ...job, number: edition.number })
  const told = 'needs' in answer ? await run({ ...job, number: edition.number, edition }) : answer
  if ('needs' in told) throw new Error('a rehearsing thread would not take the policy')
  return told
}

/** What each of several changes would do, each by itself, to the mail that is here and that the asker may see. */
export async function rehearseNets(
  asker: Asker,
  nets: readonly PolicyChange[][],
  { whole = false, judged, among, tell, signal }: Following = {},
): Promise<Impact[]> {
  return rehearsing.take(asker.id, async () => {
    const stop = new Int32Array(new SharedArrayBuffer(4))
    const end = () => Atomics.store(stop, 0, 1)
    if (signal?.aborted) end()
    signal?.addEventListener('abort', end)
    try {
      const job = { alternatives: nets.map(net => ({ net })), now: new Date().toISOString(), whole, stop, asker, judged, among }
      return await ask<typeof job, Impact[]>(job, async (asked) => {
        const { port1, port2 } = new MessageChannel()
        port1.on('message', tell ?? (() => undefined))
        try {
          const withPort = { ...asked, port: port2 }
          return await (hasThreads() ? runOn('rehearsing', 'rehearse', withPort, { transfer: [port2] }) : here.rehearse(withPort))
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
export async function rehearseApart(
  asker: Asker,
  nets: readonly PolicyChange[][],
  { tell, ...how }: Pick<Following, 'judged'> & { tell?: (impacts: readonly (Impact | undefined)[]) => void } = {},
): Promise<Impact[]> {
  const bySender = nets.map(net => net.every(c => 'put' in c && c.put !== 'rule'))
  const out: Impact[] = []
  for (const kind of [true, false]) {
    const at = nets.flatMap((_, i) => (bySender[i] === kind ? [i] : []))
    if (!at.length) continue
    const impacts = await rehearseNets(asker, at.map(i => nets[i]!), how)
    at.forEach((i, n) => (out[i] = impacts[n]!))
    tell?.(out)
  }
  return out
}

/** What is to blame for copies that went wrong, and what may put them right: see `blameCopies`. */
export function blameOf(asker: Asker, what: Omit<ToBlame, 'now' | keyof WithEdition>): Promise<BlameFound> {
  return rehearsing.take(asker.id, () =>
    ask<Omit<ToBlame, keyof WithEdition>, BlameFound>({ ...what, now: new Date().toISOString() }, job =>
      hasThreads() ? runOn('rehearsing', 'blameCopies', job) : here.blameCopies(job)))
}

/** Decides copies that are here anew: see `redecide`. */
export function redecideCopies(what: Omit<ToRedecide, 'now' | keyof WithEdition>): Promise<Redecided[]> {
  return ask<Omit<ToRedecide, keyof WithEdition>, Redecided[]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('rehearsing', 'redecide', job) : here.redecide(job))
}

/** What each part of a rule does to the newest mail that the asker may see: see `takeApart`. */
export function partsOfRule(asker: Asker, rule: Rule): Promise<TakenApart> {
  return rehearsing.take(asker.id, () =>
    ask<Omit<ToTakeApart, keyof WithEdition>, TakenApart>({ rule, asker, now: new Date().toISOString() }, job =>
      hasThreads() ? runOn('rehearsing', 'takeApart', job) : here.takeApart(job)))
}

/** Where a message would end under a policy that differs: see `decideUnderNet`. */
export function decideUnder(what: Omit<ToDecide, 'now' | keyof WithEdition>): Promise<Ruling> {
  return ask<Omit<ToDecide, keyof WithEdition>, Ruling>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('rehearsing', 'decideUnderNet', job) : here.decideUnderNet(job))
}

/** Where copies that are here would end under each of several policies that differ: see `endsUnderNets`. */
export function endsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Lane[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, Lane[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('rehearsing', 'endsUnderNets', job) : here.endsUnderNets(job))
}

/** The same, with which copies they are and why they would end there: see `rulingsUnderNets`. */
export function rulingsUnder(what: Omit<ToEnd, 'now' | keyof WithEdition>): Promise<Supposed[][]> {
  return ask<Omit<ToEnd, keyof WithEdition>, Supposed[][]>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('rehearsing', 'rulingsUnderNets', job) : here.rulingsUnderNets(job))
}

/** What examples have in common: see `readExamples`. */
export function examplesOf(what: Omit<ToReadExamples, 'now' | keyof WithEdition>): Promise<Examples> {
  return ask<Omit<ToReadExamples, keyof WithEdition>, Examples>({ ...what, now: new Date().toISOString() }, job =>
    hasThreads() ? runOn('rehearsing', 'readExamples', job) : here.readExamples(job))
}

/** What changes that were looked at would do to the mail that is here. */
export async function impactOfPreview(
  asker: Asker,
  { net }: Pick<Preview, 'net'>,
  { tell, ...how }: Omit<Following, 'tell'> & { tell?: (impact: ImpactTold) => void } = {},
): Promise<ImpactTold> {
  const [impact] = await rehearseNets(asker, [net], {
    ...how,
    ...(tell ? { tell: ([i]) => void toldTo(asker, i!).then(tell, () => undefined) } : {}),
  })
  return toldTo(asker, impact!)
}

export async function toldTo(asker: Asker, { sample, ...impact }: Impact): Promise<ImpactTold> {
  return { ...impact, sample: await linesOf(asker, sample) }
}
