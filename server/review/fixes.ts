import { and, inArray, isNotNull, ne, sql } from 'drizzle-orm'
import { departmentOwner, isKeptAway, isKeptHere, personOwner, ORGANISATION, type Owner, type Policy } from '#core'
import type { PolicyChange } from '#core/change'
import {
  byKind,
  isAsItShould,
  markedAs,
  priceOf,
  rankFixes,
  rankWords,
  ratesOf,
  type Candidate,
  type Price,
  type Rates,
  type Should,
} from '#core/fix'
import { isWhole, type Impact } from '#core/simulate'
import { isOwn, visibleTo, type Copy } from '../access/copy-access'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import { copies } from '../db/schema'
import { causesOf, endsUnder, simulateNets, viewFor, type ImpactView } from '../impact/simulation'
import { invalid, notFound, Problem } from '../platform/problem'
import { activePolicy } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'

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
  /** What should have become of the copies. */
  should: Should
  /** It opens the way for anybody's mail, as `why` says. */
  opens?: Candidate['opens']
}

interface Looked extends Candidate {
  base: number
  own: boolean
  net: PolicyChange[]
  fixes: number
}

/** Copies that can be fixed at a time. */
export const MAX_FIXED = 200

/**
 * The changes that would put copies right that all went wrong in the same way, the best first. What is in the actor's own power comes
 * first where it suffices; what is not can be asked for.
 * @param tell told of what was found so far: in the order of how narrow they are, since none is best before all mail was looked at
 */
export async function fixesOf(
  actor: Actor,
  ids: readonly number[],
  { tell, signal }: { tell?: (fixes: FixView[]) => void, signal?: AbortSignal } = {},
): Promise<FixView[]> {
  const rows = await rowsOf(actor, ids)
  const should: Should = isKeptAway(rows[0]!.lane) ? 'delivered' : 'stopped'
  if (rows.some(r => !isKeptHere(r.lane))) throw invalid('Some of these messages were not kept, so no fixes can be suggested for them.')
  if (rows.some(r => isKeptAway(r.lane) !== isKeptAway(rows[0]!.lane)))
    throw invalid('Some of these messages were stopped and some were delivered. Select only stopped or only delivered messages.')
  const { policy } = await activePolicy()
  const asked = { ids: rows.map(r => r.id), should, owners: ownersFor(actor, rows, should, policy), actor }
  const [{ candidates, wrong }, rates] = await Promise.all([causesOf(actor, asked), ratesFor(actor)])
  if (!candidates.length) return []
  const looked = (await Promise.all(candidates.map(c => lookAt(actor, c)))).filter(c => c !== null)
  const ends = await endsUnder({ nets: looked.map(l => l.net), ids: wrong })
  const sufficing = looked.map((l, i) => ({ ...l, fixes: ends[i]!.filter(lane => isAsItShould(should, { lane })).length }))
  const useful = sufficing.filter(l => l.fixes > 0)
  const marked = { ids: wrong, value: markedAs(should) }
  const shown = (impacts: readonly Impact[]) => allShown(actor, {
    fixes: useful.map((l, i) => ({ ...l, impact: impacts[i]!, price: priceOf(impacts[i]!.lanes, should, rates) })),
    should,
    of: wrong.length,
  })
  return shown(await simulateNets(actor, useful.map(l => l.net), {
    marked,
    signal,
    ...(tell ? { tell: so => void shown(so).then(tell, () => undefined) } : {}),
  }))
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
async function lookAt(actor: Actor, candidate: Candidate): Promise<Omit<Looked, 'fixes'> | null> {
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

/** Of what was marked, how much lies where it should; among the mail that the actor sees. */
async function ratesFor(actor: Actor): Promise<Rates> {
  const { lane, judgement } = copies
  const rows = await db()
    .select({ lane, judgement: sql<'wanted' | 'unwanted'>`${judgement}`, copies: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(visibleTo(actor), isNotNull(judgement), ne(lane, 'sent')))
    .groupBy(lane, judgement)
  return ratesOf(rows)
}

interface ToTell {
  fixes: (Looked & { impact: Impact, price: Price })[]
  should: Should
  of: number
}

async function allShown(actor: Actor, { fixes, should, of }: ToTell): Promise<FixView[]> {
  const ordered = fixes.every(f => isWhole(f.impact)) ? rankFixes(fixes, of) : byKind(fixes)
  return Promise.all(
    ordered.map(async ({ own, impact, ...m }): Promise<FixView> => ({
      base: m.base,
      kind: m.kind,
      sentence: m.sentence,
      why: rankWords(m, should, of),
      permission: own ? 'own' : 'ask',
      changes: m.changes,
      impact: await viewFor(actor, impact),
      moved: m.price.moved,
      fixes: m.fixes,
      of,
      should,
      ...(m.opens ? { opens: m.opens } : {}),
    })),
  )
}
