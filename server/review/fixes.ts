import { and, eq, inArray, isNotNull, ne, notInArray, or, sql } from 'drizzle-orm'
import { departmentOwner, isKeptAway, isKeptHere, personOwner, ORGANISATION, type Owner, type Policy } from '#core'
import type { PolicyChange } from '#core/change'
import {
  byKind,
  coverOfFixes,
  isAsItShould,
  markedAs,
  priceOf,
  rankFixes,
  rankWords,
  ratesOf,
  senderMarksOf,
  together,
  type Candidate,
  type Price,
  type Rates,
  type SenderMarks,
  type Should,
} from '#core/fix'
import { isWhole } from '#core/simulate'
import { capitalised } from '#core/wording'
import { isOwn, visibleTo, type Copy } from '../access/copy-access'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { attempts, copies } from '../db/schema'
import { causesOf, endsUnder, simulateNets, viewFor, type ImpactView } from '../impact/simulation'
import { invalid, notFound, Problem } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'
import type { SimulatedImpact } from '../workers/simulate'

/** A change that would put copies right, as it is told. */
export interface FixView {
  /** The version of the policy on which it was made. */
  base: number
  kind: Candidate['kind']
  /** What it does, as a command. */
  sentence: string
  /** Its price in plain numbers, by which it stands where it stands. */
  why: string
  /** It can be saved, or only be asked for. */
  permission: 'own' | 'ask'
  changes: PolicyChange[]
  impact: ImpactView
  /** What it brings back, or keeps away; the rest of what it touches lies where it should already. */
  moved: Price['moved']
  /** So many of the copies it puts right, of how many. */
  fixes: number
  of: number
  /** Expected mistakes that it makes. */
  harm: number
  /** What should have become of the copies. */
  should: Should
  /** It is one of those that together correct most for least harm: they can be saved as one, see `fixesTogether`. */
  inCover: boolean
  /** It opens the way for anybody's mail, as `why` says. */
  opens?: Candidate['opens']
  /** It is about all of a public mail provider, as `why` says. */
  publicProvider?: string
}

/** Several fixes as one change. */
export type TogetherView = Omit<FixView, 'kind' | 'inCover' | 'opens' | 'publicProvider'>

interface Looked extends Candidate {
  base: number
  own: boolean
  net: PolicyChange[]
  /** Ids of the copies that it corrects. */
  corrects: number[]
}

/** How fixes are followed. */
interface Following {
  /** Told of what was found so far: in the order of how narrow they are, since none is best before all mail was looked at. */
  tell?: (fixes: FixView[]) => void
  signal?: AbortSignal
}

/**
 * The changes that would put copies right that all went wrong in the same way, the best first. What is in the actor's own power comes
 * first where it suffices; what is not can be asked for.
 */
export async function fixesOf(actor: Actor, ids: readonly number[], { tell, signal }: Following = {}): Promise<FixView[]> {
  const { rows, should } = await wrongOf(actor, ids)
  const { policy } = await activePolicy()
  const asked = { ids: rows.map(r => r.id), should, owners: ownersFor(actor, rows, should, policy), actor }
  const [{ candidates, wrong }, rates] = await Promise.all([causesOf(actor, asked), ratesFor(actor, asked.ids, should)])
  if (!candidates.length) return []
  const looked = (await Promise.all(candidates.map(c => lookAt(actor, c)))).filter(c => c !== null)
  const useful = (await withCorrected(looked, wrong, should)).filter(l => l.corrects.length > 0)
  const shown = (impacts: readonly SimulatedImpact[]) => allShown(actor, policy, {
    fixes: useful.map((l, i) => priced(l, impacts[i]!, { should, rates })),
    should,
    rates,
    of: wrong.length,
  })
  return shown(await simulateNets(actor, useful.map(l => l.net), {
    marked: { ids: wrong, value: markedAs(should) },
    crossings: true,
    signal,
    ...(tell ? { tell: so => void shown(so).then(tell, () => undefined) } : {}),
  }))
}

/** Fixes of copies that are to be saved as one. */
export interface TogetherForm {
  ids: number[]
  /** The changes of each, as they were offered. */
  fixes: { sentence: string, changes: PolicyChange[] }[]
}

/** Several fixes as one change, with what they do together to all of the mail that is here. @throws where they do not go together */
export async function fixesTogether(actor: Actor, { ids, fixes }: TogetherForm, signal?: AbortSignal): Promise<TogetherView> {
  const { rows, should } = await wrongOf(actor, ids)
  const { policy } = await activePolicy()
  const changes = together(policy, fixes.map(f => f.changes))
  if (!changes) throw invalid('These fixes change the same thing in different ways. Leave one of them out.')
  const sentence = capitalised(fixes.map(f => lowered(f.sentence)).join('; '))
  const looked = await lookAt(actor, { kind: 'disabled', sentence, changes })
  if (!looked) throw invalid('These fixes were already saved, or cannot be saved any more. Suggest fixes again.')
  const wrong = rows.map(r => r.id)
  const [[one], rates] = await Promise.all([withCorrected([looked], wrong, should), ratesFor(actor, wrong, should)])
  const marked = { ids: wrong, value: markedAs(should) }
  const [impact] = await simulateNets(actor, [looked.net], { marked, crossings: true, signal })
  const fix = priced(one!, impact!, { should, rates })
  const { kind: _, inCover: __, ...view } = await viewOf(actor, { ...fix, inCover: true }, { should, of: wrong.length })
  return view
}

function lowered(sentence: string): string {
  return sentence.charAt(0).toLowerCase() + sentence.slice(1)
}

async function wrongOf(actor: Actor, ids: readonly number[]): Promise<{ rows: Copy[], should: Should }> {
  const rows = await rowsOf(actor, ids)
  const should: Should = isKeptAway(rows[0]!.lane) ? 'delivered' : 'stopped'
  if (rows.some(r => !isKeptHere(r.lane))) throw invalid('Some of these messages were not kept, so no fixes can be suggested for them.')
  if (rows.some(r => isKeptAway(r.lane) !== isKeptAway(rows[0]!.lane)))
    throw invalid('Some of these messages were stopped and some were delivered. Select only stopped or only delivered messages.')
  return { rows, should }
}

async function withCorrected(looked: readonly Omit<Looked, 'corrects'>[], wrong: readonly number[], should: Should): Promise<Looked[]> {
  const ends = await endsUnder({ nets: looked.map(l => l.net), ids: wrong })
  return looked.map((l, i) => ({ ...l, corrects: ends[i]!.filter(e => isAsItShould(should, e)).map(e => e.id) }))
}

async function rowsOf(actor: Actor, ids: readonly number[]): Promise<Copy[]> {
  const wanted = [...new Set(ids)]
  const rows = await db()
    .select()
    .from(copies)
    .where(and(inArray(copies.id, wanted), visibleTo(actor)))
  if (rows.length !== wanted.length) throw notFound('One of these messages')
  return rows.sort((a, b) => wanted.indexOf(a.id) - wanted.indexOf(b.id))
}

// For whom a sender is allowed or blocked: for oneself where all of it is one's own; for all, and for the department whose mail it
// all is, where that is in one's power. Of two that cost the same the first stands first: as few as possible let somebody in, and
// whoever is to be kept away is kept from all.
function ownersFor(actor: Actor, rows: readonly Copy[], should: Should, { people, departments }: Policy): { owner: Owner, name: string }[] {
  const own = rows.every(r => isOwn(actor, r)) ? [{ owner: personOwner(actor.id), name: 'you' }] : []
  const others = can(actor, 'change all lists and rules')
  if (!others && own.length) return own
  const all = { owner: ORGANISATION, name: 'the whole organisation' }
  const [first, ...rest] = rows.map(r => people.find(p => p.id === r.personId)?.departments ?? [])
  const shared = others ? departments.find(d => d.id === first?.find(id => rest.every(of => of.includes(id)))) : undefined
  if (!shared) return [...own, all]
  const department = { owner: departmentOwner(shared.id), name: shared.name }
  return should === 'delivered' ? [...own, department, all] : [...own, all, department]
}

// What nobody could save is no fix.
async function lookAt(actor: Actor, candidate: Candidate): Promise<Omit<Looked, 'corrects'> | null> {
  for (const proposed of [false, true]) {
    try {
      const { net, changes, version } = await previewChanges(actor, candidate.changes, { proposed })
      return net.length ? { ...candidate, changes, net, base: version, own: !proposed } : null
    }
    catch (error) {
      if (!(error instanceof Problem)) throw error
    }
  }
  return null
}

/** Of what was marked, how much lies where it should; among the mail that the actor sees, without the copies that are to be corrected. */
async function ratesFor(actor: Actor, wrong: readonly number[], should: Should): Promise<Rates> {
  const { id, lane, judgement } = copies
  const rows = await db()
    .select({ lane, judgement: sql<'wanted' | 'unwanted'>`${judgement}`, copies: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(visibleTo(actor), isNotNull(judgement), ne(lane, 'sent'), notInArray(id, [...wrong])))
    .groupBy(lane, judgement)
  return { ...ratesOf(rows), senders: await senderMarks(actor, wrong, should) }
}

/** How mail of each sender is marked, among the mail that the actor sees; the copies that are to be corrected count as marked. */
async function senderMarks(actor: Actor, wrong: readonly number[], should: Should): Promise<SenderMarks> {
  const isWrong = sql`${copies.id} = any(${sql.param([...wrong])}::bigint[])`
  const judgement = sql<'wanted' | 'unwanted'>`case when ${isWrong} then ${markedAs(should)} else ${copies.judgement} end`
  const verified = sql<boolean>`${attempts.authentication} ->> 'verdict' = 'pass'`
  const rows = await db()
    .select({ sender: copies.senderAddress, judgement, verified, copies: sql<number>`count(*)::int` })
    .from(copies)
    .innerJoin(attempts, eq(attempts.id, copies.attemptId))
    .where(and(visibleTo(actor), or(isNotNull(copies.judgement), isWrong)))
    .groupBy(sql`1`, sql`2`, sql`3`)
  return senderMarksOf(rows)
}

type Priced = Looked & { impact: SimulatedImpact, price: Price, fixes: number, crossings: SimulatedImpact['crossings'] }

function priced(looked: Looked, impact: SimulatedImpact, { should, rates }: { should: Should, rates: Rates }): Priced {
  const { crossings, ...plain } = impact
  const price = priceOf(impact.lanes, should, rates, crossings ?? null)
  return { ...looked, fixes: looked.corrects.length, impact: plain, crossings, price }
}

interface ToTell {
  fixes: Priced[]
  should: Should
  rates: Rates
  of: number
}

async function allShown(actor: Actor, policy: Policy, { fixes, should, rates, of }: ToTell): Promise<FixView[]> {
  if (!fixes.every(f => isWhole(f.impact)))
    return Promise.all(byKind(fixes).map(fix => viewOf(actor, { ...fix, inCover: false }, { should, of })))
  const ranked = rankFixes(fixes, of)
  // What can be saved is not put together with what can only be proposed.
  const own = ranked.some(f => f.own)
  const usable = ranked.map(f => ({ ...f, crossings: f.own === own ? (f.crossings ?? null) : null }))
  const members = new Set(coverOfFixes(policy, usable, rates))
  return Promise.all(ranked.map((fix, i) => viewOf(actor, { ...fix, inCover: members.has(i) }, { should, of })))
}

async function viewOf(
  actor: Actor,
  { own, impact, ...fix }: Priced & { inCover: boolean },
  { should, of }: { should: Should, of: number },
): Promise<FixView> {
  return {
    base: fix.base,
    kind: fix.kind,
    sentence: fix.sentence,
    why: rankWords(fix, should, of),
    permission: own ? 'own' : 'ask',
    changes: fix.changes,
    impact: await viewFor(actor, impact),
    moved: fix.price.moved,
    fixes: fix.fixes,
    of,
    harm: fix.price.harm,
    should,
    inCover: fix.inCover,
    ...(fix.opens ? { opens: fix.opens } : {}),
    ...(fix.publicProvider === undefined ? {} : { publicProvider: fix.publicProvider }),
  }
}
