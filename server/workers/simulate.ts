import type { MessagePort } from 'node:worker_threads'
import { and, type SQL } from 'drizzle-orm'
import type { IndexedPolicy } from '#core'
import type { PolicyChange } from '#core/change'
import {
  affectedScope,
  ImpactCounter,
  isNarrow,
  pairOf,
  simulateEach,
  type Crossings,
  type Impact,
  type Pair,
  type Simulated,
} from '#core/simulate'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { inScope, scopeOf, withLookupKeys } from '../impact/affected-mail'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'
import { FETCHES, NewestFirst, type Fetches, type Passed } from './newest-first'
import { MailInScope } from './mail-in-scope'
import { everyPiece, HelpingEnd, LeadingEnd, type Pieces, type SharingEnd } from './sharing'

// All that simulating threads do, in one bundle: they share what they keep of the mail.
export { redecide } from './redecide'
export { readExamples } from './examples'
export { takeApart } from './parts'
export { causesOfCopies } from './causes'
export { decideUnderNet, endsUnderNets, decisionsUnderNets, hitsUnderNets } from './decide-under'

/** What changes would do, to be found out. */
export interface SimulationJob extends WithEdition {
  /** Differences that each make another policy of the one active, with all that is known of their entries. */
  alternatives: readonly { net: PolicyChange[] }[]
  /** ISO 8601 instant against which expiry is decided. */
  now: string
  /** Among the mail that this one may see. */
  actor: Actor
  /** Copies that are taken as marked so, whatever was said of them. */
  marked?: { ids: readonly number[], value: 'wanted' | 'unwanted' }
  /** Each impact comes with what goes the wrong way, copy by copy. */
  crossings?: boolean
  /** Told of what was found so far, where that is wanted. */
  port?: MessagePort
  /** Set to 1 when nobody waits any more. */
  stop: Int32Array
  steps?: Steps
  /** By what it shares the work with another thread, where one may come. */
  sharing?: SharingEnd
}

/** How many copies are gone through in one step: at first fewer, since somebody waits for a first figure. And how many ids are fetched. */
export interface Steps {
  first: number
  next: number
  fetch: Fetches
  /** Milliseconds after which the first figure is told, and the next ones. */
  toldAfter: number
  toldEvery: number
}

/** An impact, with what goes the wrong way where that was asked for; null where it is too much. */
export interface SimulatedImpact extends Impact {
  crossings?: Crossings | null
}

const STEPS: Steps = { first: 60, next: 250, fetch: FETCHES, toldAfter: 200, toldEvery: 400 }
/**
 * What each of the alternatives would do to all of the mail that is here, off the thread that serves people. Ends early, with what was
 * found so far, where nobody waits any more.
 */
export async function simulate(asked: SimulationJob): Promise<SimulatedImpact[] | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const open = await openArchive()
  const sharing = asked.sharing && new LeadingEnd(asked.sharing)
  await open.client.query('begin isolation level repeatable read read only')
  try {
    if (sharing) sharing.offer(await snapshotOf(open))
    return await new Run(asked, indexed, open).lead(sharing)
  }
  finally {
    sharing?.end()
    await open.client.query('rollback')
  }
}

/** Goes through the same mail as another thread that leads, a piece each in turn, and tells it what was found. */
export async function simulateAlong(asked: SimulationJob): Promise<void> {
  const indexed = indexedFor(asked)
  const sharing = new HelpingEnd(asked.sharing!)
  try {
    const snapshot = await sharing.snapshot()
    if (!indexed || snapshot === null) return
    const open = await openArchive()
    await open.client.query('begin isolation level repeatable read read only')
    try {
      // Where the other one has ended meanwhile there is no such snapshot any more, and nothing left to do.
      const isThere = await open.client.query(`set transaction snapshot '${snapshot}'`).then(() => true, () => false)
      if (isThere && sharing.join()) await new Run(asked, indexed, open).help(sharing)
    }
    finally {
      await open.client.query('rollback')
    }
  }
  finally {
    sharing.end()
  }
}

async function snapshotOf({ client }: OpenArchive): Promise<string> {
  const { rows } = await client.query<{ id: string }>('select pg_export_snapshot() id')
  return rows[0]!.id
}

interface Alternative {
  pair: Pair
  counter: ImpactCounter
  scope: MailInScope
}

/** What of the mail is gone through for which alternatives: those that look for the same in the same mail go together. */
interface Track {
  where: SQL | undefined
  alternatives: Alternative[]
}

class Run {
  private readonly alternatives: Alternative[]
  private readonly scopes = new Map<string, MailInScope>()
  private readonly tracks = new Map<string, Track>()
  private readonly marked: ReadonlySet<number>

  constructor(private readonly asked: SimulationJob, private readonly indexed: IndexedPolicy, private readonly open: OpenArchive) {
    this.marked = new Set(asked.marked?.ids)
    const { policy } = indexed.compiled
    this.alternatives = asked.alternatives.map(({ net }) => {
      const { owners, outbound, lookupKeys } = affectedScope(policy, net, list => indexed.entriesOf(list, MAX_ENTRIES))
      const stands = scopeOf(policy, owners, outbound)
      const scope = this.scopeFor(JSON.stringify(stands), and(inScope(stands), visibleTo(asked.actor)))
      const one = { pair: pairOf(indexed, net), counter: new ImpactCounter(isNarrow(net), asked.crossings), scope }
      const key = JSON.stringify([stands, lookupKeys])
      const track = this.tracks.get(key) ?? { where: and(scope.where, withLookupKeys(lookupKeys)), alternatives: [] }
      this.tracks.set(key, track)
      track.alternatives.push(one)
      return one
    })
  }

  private scopeFor(key: string, where: SQL | undefined): MailInScope {
    const scope = this.scopes.get(key) ?? new MailInScope(this.open.db, where)
    this.scopes.set(key, scope)
    return scope
  }

  private get tracksInOrder(): Track[] {
    return [...this.tracks.values()]
  }

  /** Goes through all of it, but for what another thread takes over, and puts together what both found. */
  async lead(sharing: LeadingEnd | undefined): Promise<SimulatedImpact[]> {
    const { asked } = this
    const { steps = STEPS } = asked
    for (const scope of this.scopes.values()) await scope.count()
    let lastAnswer = Date.now() - steps.toldEvery + steps.toldAfter
    const report = async (last: Passed | null) => {
      for (const scope of this.scopes.values()) await scope.upTo(last)
      return this.alternatives.map(({ counter, scope }, i) => {
        const both = new ImpactCounter(counter.narrow, asked.crossings)
        both.merge(counter.so)
        if (sharing?.found) both.merge(sharing.found.counts[i]!)
        return { ...both.report(scope.seen), ...(asked.crossings ? { crossings: both.so.crossings } : {}) }
      })
    }
    const last = await this.goThrough(sharing, async (passed) => {
      if (!asked.port || Date.now() - lastAnswer < steps.toldEvery) return
      const far = sharing ? sharing.bothCame(passed) : passed
      if (far) asked.port.postMessage((await report(far)).map(({ crossings: _, ...impact }) => impact))
      lastAnswer = Date.now()
    })
    await sharing?.finished()
    return report(last)
  }

  /** Goes through what it takes over, and says now and then what it found. */
  async help(sharing: HelpingEnd): Promise<void> {
    const { steps = STEPS } = this.asked
    // At once after the first piece: until then the other one cannot say how far both came.
    let lastAnswer = 0
    const counts = () => this.alternatives.map(a => a.counter.so)
    await this.goThrough(sharing, (passed) => {
      if (Date.now() - lastAnswer < steps.toldEvery) return Promise.resolve()
      lastAnswer = Date.now()
      return Promise.resolve(sharing.tell({ counts: counts(), last: passed }))
    })
    sharing.tell({ counts: counts(), last: null })
  }

  /** @returns how far it came; null where it is through */
  private async goThrough(pieces: Pieces = everyPiece(), done: (last: Passed) => Promise<void>): Promise<Passed | null> {
    const tracks = this.tracksInOrder
    const { steps = STEPS } = this.asked
    const mail = new NewestFirst(this.open, tracks.map(t => t.where), steps.fetch)
    await mail.begin()
    let next = 0
    const read = async () => {
      const mine = pieces.take()
      for (;;) {
        const passed = await mail.take(next === 0 ? steps.first : steps.next)
        if (next++ < mine && passed.length) continue
        return { passed, messages: await this.open.archive.messages(passed.map(p => p.id), this.indexed.compiled.policy.trust) }
      }
    }
    // The next ones are read while these are decided.
    let coming = read()
    for (;;) {
      const { passed, messages } = await coming
      if (!passed.length) return null
      coming = read()
      coming.catch(() => undefined)
      await this.look(passed, messages, tracks)
      const last = passed.at(-1)!
      if (Atomics.load(this.asked.stop, 0)) {
        await coming.catch(() => undefined)
        return last
      }
      await done(last)
    }
  }

  private async look(
    passed: readonly Passed[],
    messages: Awaited<ReturnType<OpenArchive['archive']['messages']>>,
    tracks: readonly Track[],
  ): Promise<void> {
    const tracksOf = new Map(passed.map(p => [p.id, p.tracks]))
    const touched: ({ id: number, alternative: Alternative } & Simulated)[] = []
    for (const { id, message, recipient } of messages) {
      if (!message) continue
      const asking = tracksOf.get(id)!.flatMap(t => tracks[t]!.alternatives)
      const pairs = asking.map(a => a.pair)
      for (const [i, both] of simulateEach(message, recipient, pairs, this.asked.now).entries())
        if (both) touched.push({ id, alternative: asking[i]!, ...both })
    }
    if (!touched.length) return
    const known = await this.open.archive.known([...new Set(touched.map(t => t.id))])
    for (const scope of this.scopes.values())
      await scope.learnSenders(touched.filter(t => t.alternative.scope === scope).map(t => known.get(t.id)!.sender))
    for (const { id, alternative: { counter, scope }, before, after } of touched) {
      const { receivedAt, ...copy } = known.get(id)!
      const judgement = this.marked.has(id) ? this.asked.marked!.value : copy.judgement
      counter.add({ ...copy, judgement, ...scope.beforeOf(copy.sender, receivedAt) }, before, after)
    }
  }
}

/** Lists with more entries are looked for in all of the mail. */
const MAX_ENTRIES = 500
