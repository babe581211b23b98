import { isDelivered, type Lane } from '../policy'
import type { Crossing, Crossings, LaneChange } from '../simulate'
import type { Should } from './causes'
import { counted, numberWords } from '../wording'
import { FIX_KINDS, type Candidate, type FixKind } from './types'

/** How often, of what was marked in an archive, unwanted mail lies stopped, and wanted mail lies delivered; 0 to 1. */
export interface Rates {
  unwantedStopped: number
  wantedDelivered: number
  /** Of senders of whom something was marked. */
  senders?: SenderMarks
}

/** How much was marked so. */
export type Marked = Record<'wanted' | 'unwanted', number>

/** What was marked, by From address: in verified mail, which alone speaks for a sender, and in all mail, which speaks against one. */
export interface SenderMarks {
  verified: ReadonlyMap<string, Marked>
  all: ReadonlyMap<string, Marked>
}

/** What was marked of senders. @param marked so many copies from a sender that were marked so */
export function senderMarksOf(
  marked: readonly { sender: string, judgement: 'wanted' | 'unwanted', verified: boolean, copies: number }[],
): SenderMarks {
  const verified = new Map<string, Marked>()
  const all = new Map<string, Marked>()
  for (const one of marked)
    for (const marks of one.verified ? [verified, all] : [all]) {
      const there = marks.get(one.sender) ?? { wanted: 0, unwanted: 0 }
      there[one.judgement] += one.copies
      marks.set(one.sender, there)
    }
  return { verified, all }
}

// So many marks of a sender weigh as much as the rate of the archive. Common practice, no source.
const RATE_WEIGHS = 1

/**
 * How likely it is a mistake that a copy goes the wrong way, 0 to 1: certain where it is marked; else at the rate of its sender, as far as
 * mail from them is marked, and of the archive.
 */
function expectedHarm({ to, isMarked, sender }: Crossing, { unwantedStopped, wantedDelivered, senders }: Rates): number {
  if (isMarked) return 1
  const marks = sender === null ? undefined : (to === 'letIn' ? senders?.verified : senders?.all)?.get(sender)
  const [rate, wrong] = to === 'letIn' ? [unwantedStopped, marks?.unwanted] : [wantedDelivered, marks?.wanted]
  if (!marks) return rate
  return (wrong! + rate * RATE_WEIGHS) / (marks.wanted + marks.unwanted + RATE_WEIGHS)
}

/** The expected mistakes of copies that go the wrong way; what is corrected is marked as it then ends, and is not among them. */
export function harmsOf(crossings: Crossings, rates: Rates): Map<number, number> {
  return new Map([...crossings].map(([id, crossing]) => [id, expectedHarm(crossing, rates)]))
}

// Where little was marked, most of what is stopped is taken as unwanted, and most of what is delivered as wanted. People mark mistakes
// first, so that the first marks say the contrary of the rest. Common practice, no source.
const ASSUMED = { share: 0.9, marks: 10 }

/**
 * The rates of marked mail; the fewer marks there are, the more what is assumed counts.
 * @param marked so many copies that lie in a lane and were marked so; without the mistakes that are to be corrected
 */
export function ratesOf(marked: readonly { lane: Lane, judgement: 'wanted' | 'unwanted', copies: number }[]): Rates {
  const share = (delivered: boolean, judgement: 'wanted' | 'unwanted') => {
    const there = marked.filter(j => isDelivered(j.lane) === delivered)
    const count = (of: typeof marked) => of.reduce((n, j) => n + j.copies, 0)
    return (count(there.filter(j => j.judgement === judgement)) + ASSUMED.share * ASSUMED.marks) / (count(there) + ASSUMED.marks)
  }
  return { unwantedStopped: share(false, 'unwanted'), wantedDelivered: share(true, 'wanted') }
}

/** What a fix costs, and what it brings. */
export interface Price {
  /** Copies that go the way the mistakes should: back to their recipients, or away from them. */
  moves: number
  /** The same, by what was said of them. */
  moved: Record<'wanted' | 'unwanted' | 'unmarked', number>
  /** Of what it lets in: not verified. */
  notVerified: number
  /** Of those: marked as the mistakes are, and against it. */
  rights: number
  wrongs: number
  /** Expected mistakes that it makes: marked ones, and of those not marked the share that their sender, or the archive, has. */
  harm: number
  /** Copies that go between delivered and stopped, either way: each is a mistake that it makes, or one that it corrects. */
  crossed: number
}

/** Whether a fix probably makes more mistakes than it corrects. */
function isWorse({ harm, crossed }: Price): boolean {
  return harm * 2 > crossed
}

/**
 * The price of lane changes.
 * @param should what the mistakes should have been
 * @param crossings what goes the wrong way, copy by copy, where that is known: then its senders count
 */
export function priceOf(lanes: readonly LaneChange[], should: Should, rates: Rates, crossings: Crossings | null = null): Price {
  const moved = { wanted: 0, unwanted: 0, unmarked: 0 }
  let harm = 0
  let crossed = 0
  let strangers = 0
  for (const { from, to, wanted, unwanted, unmarked, notVerified } of lanes) {
    if (isDelivered(from) === isDelivered(to)) continue
    const frees = isDelivered(to)
    crossed += wanted + unwanted + unmarked
    harm += frees ? unwanted + unmarked * rates.unwantedStopped : wanted + unmarked * rates.wantedDelivered
    if (frees) strangers += notVerified
    if (frees !== (should === 'delivered')) continue
    moved.wanted += wanted
    moved.unwanted += unwanted
    moved.unmarked += unmarked
  }
  const [rights, wrongs] = should === 'delivered' ? [moved.wanted, moved.unwanted] : [moved.unwanted, moved.wanted]
  if (crossings) harm = [...harmsOf(crossings, rates).values()].reduce((sum, one) => sum + one, 0)
  return { moves: moved.wanted + moved.unwanted + moved.unmarked, moved, notVerified: strangers, rights, wrongs, harm, crossed }
}

/** What ranks a fix. */
export interface Ranked {
  kind: FixKind
  /** So many of the copies that went wrong end where they should. */
  fixes: number
  price: Price
  /** It is within the actor's own power. */
  own?: boolean
  opens?: Candidate['opens']
  publicProvider?: Candidate['publicProvider']
  usedUp?: Candidate['usedUp']
}

/**
 * Puts fixes in order: what opens the way for anybody's mail, or is about a public mail provider, last; then by expected harm for each
 * mistake that they correct, the least first; of two that do the same harm the one that also stops the next message, then the one that
 * corrects more, then the narrower. What is in one's own power comes before what can only be proposed, where it suffices and makes fewer
 * mistakes than it corrects.
 * @param mistakes so many copies went wrong
 */
export function rankFixes<T extends Ranked>(fixes: readonly T[], mistakes: number): T[] {
  const ranked = fixes
    .filter(m => m.fixes > 0)
    .sort(
      (a, b) =>
        Number(isDoubtful(a)) - Number(isDoubtful(b)) ||
        a.price.harm / a.fixes - b.price.harm / b.fixes ||
        Number(a.usedUp === true) - Number(b.usedUp === true) ||
        b.fixes - a.fixes ||
        FIX_KINDS.indexOf(a.kind) - FIX_KINDS.indexOf(b.kind) ||
        a.price.moves - b.price.moves,
    )
  const suffices = (m: T) => m.own !== false && m.fixes === mistakes && !isWorse(m.price) && !isDoubtful(m)
  const own = ranked[0]?.own === false ? ranked.find(suffices) : undefined
  return own ? [own, ...ranked.filter(m => m !== own)] : ranked
}

/** It is never offered first, nor as one of several. */
export function isDoubtful({ opens, publicProvider }: Pick<Ranked, 'opens' | 'publicProvider'>): boolean {
  return opens !== undefined || publicProvider !== undefined
}

/** Fixes whose harm is not known yet: the narrowest kind first. */
export function byKind<T extends Pick<Ranked, 'kind'>>(fixes: readonly T[]): T[] {
  return [...fixes].sort((a, b) => FIX_KINDS.indexOf(a.kind) - FIX_KINDS.indexOf(b.kind))
}

const OPENS = {
  notVerified: '. The sender is not verified: anyone can send mail that gets through by it',
  recipient: '. Anyone can send mail to this recipient that gets through by it',
}

/** Why a fix has its place in the order, in a sentence; what it opens is said there. */
export function rankWords({ price, fixes, opens, publicProvider, usedUp = false }: Ranked, should: Should, mistakes: number): string {
  const back = should === 'delivered'
  const does = `${back ? 'releases' : 'stops'} ${counted(price.moves, 'message')}`
  const costs = back
    ? price.wrongs ? `${numberWords(price.wrongs)} of them marked unwanted` : 'none of them marked unwanted'
    : price.wrongs ? `${numberWords(price.wrongs)} of them marked wanted` : 'none of them marked wanted'
  const short = fixes < mistakes ? `fixes ${fixes} of ${mistakes}; ` : ''
  const strangers = price.notVerified && opens !== 'notVerified' ? `, ${numberWords(price.notVerified)} of them not verified` : ''
  const worse = isWorse(price) ? '. It probably causes more mistakes than it fixes' : ''
  const anyone = publicProvider === undefined ? '' : `. Anyone can have a mailbox at ${publicProvider}`
  const next = usedUp ? '. The senders change, so it would not stop the next message' : ''
  return `${short}${does}, ${costs}${strangers}${worse}${next}${anyone}${opens ? OPENS[opens] : ''}`
}
