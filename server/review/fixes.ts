import { and, inArray, isNotNull, ne, sql } from 'drizzle-orm'
import { departmentOwner, isKeptAway, isKeptHere, personOwner, ORGANISATION, type Owner, type Policy } from '#core'
import type { PolicyChange } from '#core/change'
import {
  isAsItShould,
  judgedAs,
  priceOf,
  rankMends,
  rankWords,
  ratesOf,
  type Candidate,
  type Price,
  type Rates,
  type Should,
} from '#core/fix'
import type { Impact } from '#core/simulate'
import { isOwn, visibleTo, type Copy } from '../access/copy-access'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import { copies } from '../db/schema'
import { blameOf, endsUnder, rehearseApart, rehearseNets, toldTo, type ImpactTold } from '../impact/simulation'
import { invalid, notFound, Problem } from '../platform/problem'
import { policyInForce } from '../policy/active-policy'
import { previewChanges } from '../policy/preview'

/** A change that would put copies right, as it is told. */
export interface MendTold {
  /** The version of the policy on which it was made. */
  base: number
  kind: Candidate['kind']
  /** What it does, as a command. */
  sentence: string
  /** Its price in plain numbers, by which it stands where it stands. */
  why: string
  /** It can be put in force, or only be asked for. */
  power: 'own' | 'ask'
  changes: PolicyChange[]
  impact: ImpactTold
  /** What it brings back, or keeps away; the rest of what it touches lies where it should already. */
  moved: Price['moved']
  /** So many of the copies it puts right, of how many. */
  mends: number
  of: number
  /** What should have become of the copies. */
  should: Should
}

interface Looked extends Candidate {
  base: number
  own: boolean
  net: PolicyChange[]
  mends: number
}

/** Copies that can be mended at a time. */
export const MOST_MENDED = 200

/**
 * The changes that would put copies right that all went wrong in the same way, the best first. What is in the asker's own power comes
 * first where it suffices; what is not can be asked for.
 * @param tell told of what is known already, while the rest is looked at
 */
export async function mendsOf(asker: Asker, ids: readonly number[], tell?: (mends: MendTold[]) => void): Promise<MendTold[]> {
  const rows = await rowsOf(asker, ids)
  const should: Should = isKeptAway(rows[0]!.lane) ? 'delivered' : 'stopped'
  if (rows.some(r => !isKeptHere(r.lane))) throw invalid('Of some of these messages nothing was kept: they cannot be put right.')
  if (rows.some(r => isKeptAway(r.lane) !== isKeptAway(rows[0]!.lane)))
    throw invalid('Some of these were kept away, and some were not: choose those that went wrong in the same way.')
  const { policy } = await policyInForce()
  const asked = { ids: rows.map(r => r.id), should, owners: ownersFor(asker, rows, should, policy), asker }
  const [{ candidates, wrong }, rates] = await Promise.all([blameOf(asker, asked), ratesFor(asker)])
  if (!candidates.length) return []
  const looked = (await Promise.all(candidates.map(c => lookAt(asker, c)))).filter(c => c !== null)
  const ends = await endsUnder({ nets: looked.map(l => l.net), ids: wrong })
  const sufficing = looked.map((l, i) => ({ ...l, mends: ends[i]!.filter(lane => isAsItShould(should, { lane })).length }))
  const useful = sufficing.filter(l => l.mends > 0)
  const judged = { ids: wrong, value: judgedAs(should) }
  const ranked = (impacts: readonly (Impact | undefined)[]) => toldAll(asker, {
    mends: useful.flatMap((l, i) => (impacts[i] ? [{ ...l, impact: impacts[i], price: priceOf(impacts[i].lanes, should, rates) }] : [])),
    should,
    of: wrong.length,
  })
  if (tell && useful.length) {
    // What the clauses to blame took is what narrowing them touches: the newest of it answers first.
    const among = { clauses: useful.flatMap(l => clausesOf(l.changes)), newest: FIRST }
    const first = useful.slice(0, MOST_FIRST)
    const impacts = await rehearseNets(asker, first.map(l => l.net), { judged, among })
    tell(await ranked(impacts))
  }
  const impacts = await rehearseApart(asker, useful.map(l => l.net), {
    judged,
    ...(tell ? { tell: some => void ranked(some).then(tell, () => undefined) } : {}),
  })
  return ranked(impacts)
}

/** Copies and mends that answer first. */
const FIRST = 200
const MOST_FIRST = 5

function clausesOf(changes: readonly PolicyChange[]): string[] {
  return changes.flatMap(c => ('put' in c && c.put === 'rule' ? [c.rule.id!] : 'put' in c && c.put === 'use' ? [c.use.id!] : []))
}

async function rowsOf(asker: Asker, ids: readonly number[]): Promise<Copy[]> {
  const wanted = [...new Set(ids)]
  const rows = await db()
    .select()
    .from(copies)
    .where(and(inArray(copies.id, wanted), visibleTo(asker)))
  if (rows.length !== wanted.length) throw notFound('message behind some of these numbers')
  return rows.sort((a, b) => wanted.indexOf(a.id) - wanted.indexOf(b.id))
}

// For whom a sender is allowed or blocked: for oneself where all of it is one's own; for all, and for the department whose mail it
// all is, where that is in one's power. Of two that cost the same the first stands first: as few as possible let somebody in, and
// whoever is to be kept away is kept from all.
function ownersFor(asker: Asker, rows: readonly Copy[], should: Should, { people, departments }: Policy): { owner: Owner, name: string }[] {
  const own = rows.every(r => isOwn(asker, r)) ? [{ owner: personOwner(asker.id), name: 'you' }] : []
  const others = may(asker, 'change everybody’s clauses')
  if (!others && own.length) return own
  const all = { owner: ORGANISATION, name: 'the whole organisation' }
  const [first, ...rest] = rows.map(r => people.find(p => p.id === r.personId)?.departments ?? [])
  const shared = others ? departments.find(d => d.id === first?.find(id => rest.every(of => of.includes(id)))) : undefined
  if (!shared) return [...own, all]
  const department = { owner: departmentOwner(shared.id), name: shared.name }
  return should === 'delivered' ? [...own, department, all] : [...own, all, department]
}

// What nobody could put in force is no mend.
async function lookAt(asker: Asker, candidate: Candidate): Promise<Omit<Looked, 'mends'> | null> {
  for (const proposed of [false, true]) {
    try {
      const { net, changes, version } = await previewChanges(asker, candidate.changes, { proposed })
      return net.length ? { ...candidate, changes, net, base: version, own: !proposed } : null
    }
    catch (error) {
      if (!(error instanceof Problem)) throw error
    }
  }
  return null
}

/** Of what was judged, how much lies where it should; among the mail that the asker sees. */
async function ratesFor(asker: Asker): Promise<Rates> {
  const { lane, judgement } = copies
  const rows = await db()
    .select({ lane, judgement: sql<'wanted' | 'unwanted'>`${judgement}`, copies: sql<number>`count(*)::int` })
    .from(copies)
    .where(and(visibleTo(asker), isNotNull(judgement), ne(lane, 'sent')))
    .groupBy(lane, judgement)
  return ratesOf(rows)
}

interface ToTell {
  mends: (Looked & { impact: Impact, price: Price })[]
  should: Should
  of: number
}

async function toldAll(asker: Asker, { mends, should, of }: ToTell): Promise<MendTold[]> {
  return Promise.all(
    rankMends(mends, of).map(async ({ own, impact, ...m }): Promise<MendTold> => ({
      base: m.base,
      kind: m.kind,
      sentence: m.sentence,
      why: rankWords(m, should, of),
      power: own ? 'own' : 'ask',
      changes: m.changes,
      impact: await toldTo(asker, impact),
      moved: m.price.moved,
      mends: m.mends,
      of,
      should,
    })),
  )
}
