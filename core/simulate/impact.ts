import { isDelivered, isKeptAway, isKeptHere, KEPT_LANES, type KeptLane, type Lane } from '../policy'
import type { Decision } from '../decide'
import { broadness } from './broad-changes'

/** What is known of a copy besides its message. */
export interface CopyFacts {
  id: number
  /** When it was received, in milliseconds since 1970. */
  at: number
  /** Where it lies. */
  lane: Lane
  quarantine: string | null
  /** Somebody put it there by hand: there it stays. */
  byHand: boolean
  /** Whose it is; an address where it is nobody's in particular. */
  recipient: string
  sender: string
  /** Registrable domain of the sender, or what there is. */
  senderDomain: string
  judgement: 'wanted' | 'unwanted' | null
  implied: boolean
  opened: boolean
  /** Whether its From passed authentication. */
  verified: boolean
  /** Copies here of the same sender besides; none of a sender never seen before. */
  earlier: number
  /** Of those, kept away from their recipients. */
  earlierStopped: number
}

/** How many, by what people said of them. */
export interface Marks {
  wanted: number
  unwanted: number
  unmarked: number
}

/** How a copy goes between delivered and stopped, where that may be wrong: unmarked, or marked against it. */
export interface Crossing {
  to: 'letIn' | 'stopped'
  isMarked: boolean
  /** The From address by which its marks are looked up; null where a copy is let in and nothing verified its From. */
  sender: string | null
}

/** Copies that go between delivered and stopped, by id, but for those that are marked as they then end. */
export type Crossings = Map<number, Crossing>

/** Copies that go from one lane to another, or stay in theirs. */
export interface LaneChange extends Marks {
  from: Lane
  to: Lane
  /** Of these copies: from a sender that is not verified. */
  notVerified: number
}

/** How far a figure reaches: so many copies were looked at, of so many in its scope. Where the two are equal it is true for all of them. */
export interface Looked {
  looked: number
  inScope: number
}

/** Whether figures are true for all of the mail in their scope. */
export function isWhole({ looked, inScope }: Looked): boolean {
  return looked === inScope
}

/** What a change would do to mail that is here. */
export interface Impact extends Marks, Looked {
  /** Copies in which what changes finds something else. */
  copies: number
  senders: number
  recipients: number
  /** Of the copies in its scope that were looked at, 0 to 1. */
  share: number
  /** Most copies first. */
  lanes: LaneChange[]
  /** Copies that would end elsewhere. */
  moves: number
  /** Of wanted and unwanted: what was not said, but follows from a move. */
  implied: { wanted: number, unwanted: number }
  /** Of those not marked. */
  opened: number
  firstContact: number
  /** From a verified sender. */
  verified: number
  /** What would be moved of what lies here, by where it lies; of that, what was stopped and would be delivered. */
  here: Record<KeptLane, number>
  freed: Record<KeptLane, number>
  /** Of what is freed: not verified. */
  freedNotVerified: number
  /** What stays: put there by hand; and stopped, marked unwanted. */
  byHand: number
  unwantedStay: number
  /** Copies that are delivered now and would be gone for good. */
  erased: number
  /** Ids, the worst first. */
  sample: number[]
  /** Why it wants a second look; null if it does not. */
  broad: string | null
  /** Copies in its scope of which only a record is left: they cannot be simulated. */
  unknown: number
}

const MAX_SHOWN = 12
const SEEN_OFTEN = 5
/** Of those that would go wrong worst; what is farther down is shown only where they are few. */
const RANKS = 8

function noneByLane(): Record<KeptLane, number> {
  return Object.fromEntries(KEPT_LANES.map(l => [l, 0])) as Record<KeptLane, number>
}

/** Of more, none are kept: what makes so many mistakes is put together with nothing. */
const MAX_CROSSINGS = 2000

/** What was counted so far, as plain data. */
export type ImpactCounts = ReturnType<typeof nothingCounted>

function nothingCounted(crossings: boolean) {
  return {
    lanes: new Map<string, LaneChange>(),
    senders: new Set<string>(),
    recipients: new Set<string>(),
    stoppedSenders: new Set<string>(),
    letInSenders: new Set<string>(),
    unmarkedDomains: new Set<string>(),
    worst: Array.from({ length: RANKS }, (): Pick<CopyFacts, 'id' | 'at'>[] => []),
    here: noneByLane(),
    freed: noneByLane(),
    counts: {
      copies: 0,
      moves: 0,
      wanted: 0,
      unwanted: 0,
      unmarked: 0,
      opened: 0,
      firstContact: 0,
      verified: 0,
      byHand: 0,
      unwantedStay: 0,
      freedNotVerified: 0,
      erased: 0,
    },
    implied: { wanted: 0, unwanted: 0 },
    stopped: { copies: 0, marked: 0 },
    letIn: { copies: 0, marked: 0 },
    crossings: (crossings ? new Map() : null) as Crossings | null,
  }
}

/** Counts what a simulation finds, copy by copy, in whatever order. */
export class ImpactCounter {
  readonly so: ReturnType<typeof nothingCounted>

  /**
   * @param narrow see `broadness`
   * @param crossings what goes the wrong way is kept, copy by copy
   */
  constructor(readonly narrow: boolean, crossings = false) {
    this.so = nothingCounted(crossings)
  }

  /** Adds what another one counted of other copies. */
  merge(other: ImpactCounts): void {
    const { so } = this
    if (!other.crossings) so.crossings = null
    for (const [id, crossing] of other.crossings ?? []) this.cross(id, crossing)
    for (const [key, lane] of other.lanes) so.lanes.set(key, { ...lane, ...sumOf(so.lanes.get(key) ?? NO_LANE, lane) })
    for (const set of ['senders', 'recipients', 'stoppedSenders', 'letInSenders', 'unmarkedDomains'] as const)
      for (const one of other[set]) so[set].add(one)
    for (const part of ['here', 'freed', 'counts', 'implied', 'stopped', 'letIn'] as const)
      Object.assign(so[part], sumOf(so[part], other[part]))
    other.worst.forEach((copies, rank) => copies.forEach(copy => this.show(copy, rank)))
  }

  private cross(id: number, crossing: Crossing): void {
    const { so } = this
    so.crossings?.set(id, crossing)
    if (so.crossings && so.crossings.size > MAX_CROSSINGS) so.crossings = null
  }

  // The newest of each rank.
  private show({ id, at }: Pick<CopyFacts, 'id' | 'at'>, rank: number): void {
    const shown = this.so.worst[rank]!
    const place = shown.findIndex(other => other.at < at || (other.at === at && other.id < id))
    if (place < 0 && shown.length === MAX_SHOWN) return
    shown.splice(place < 0 ? shown.length : place, 0, { id, at })
    if (shown.length > MAX_SHOWN) shown.pop()
  }

  /** A copy that the change touches. */
  add(copy: CopyFacts, before: Ending, after: Ending): void {
    const { counts, lanes, senders, recipients, implied } = this.so
    counts.copies++
    senders.add(copy.sender)
    recipients.add(copy.recipient)
    if (copy.verified) counts.verified++
    const marked = copy.judgement ?? 'unmarked'
    counts[marked]++
    if (copy.judgement && copy.implied) implied[copy.judgement]++
    if (!copy.judgement && copy.opened) counts.opened++
    if (!copy.judgement && !copy.earlier) counts.firstContact++
    const key = `${before.lane} ${after.lane}`
    const lane = lanes.get(key) ?? { from: before.lane, to: after.lane, wanted: 0, unwanted: 0, unmarked: 0, notVerified: 0 }
    lane[marked]++
    if (!copy.verified) lane.notVerified++
    lanes.set(key, lane)
    if (endsDifferently(before, after)) this.move(copy, before, after)
    this.show(copy, rankOf(copy, before, after))
  }

  private move(copy: CopyFacts, before: Ending, after: Ending): void {
    const { counts, stopped, stoppedSenders, unmarkedDomains, letIn, letInSenders, here, freed } = this.so
    counts.moves++
    if (isDelivered(before.lane) && !isDelivered(after.lane)) {
      stopped.copies++
      stoppedSenders.add(copy.sender)
      if (copy.judgement === 'wanted') stopped.marked++
      if (!copy.judgement) unmarkedDomains.add(copy.senderDomain)
      if (copy.judgement !== 'unwanted') this.cross(copy.id, { to: 'stopped', isMarked: copy.judgement !== null, sender: copy.sender })
    }
    if (!isDelivered(before.lane) && isDelivered(after.lane)) {
      letIn.copies++
      letInSenders.add(copy.sender)
      if (copy.judgement === 'unwanted') letIn.marked++
      const sender = copy.verified ? copy.sender : null
      if (copy.judgement !== 'wanted') this.cross(copy.id, { to: 'letIn', isMarked: copy.judgement !== null, sender })
    }
    const target = landing(after)
    if (after.lane === 'discarded') counts.erased++
    if (!isKeptHere(copy.lane) || (copy.lane === target.lane && copy.quarantine === target.quarantine)) return
    const frees = isKeptAway(copy.lane) && isDelivered(target.lane)
    if (copy.byHand) counts.byHand++
    else if (frees && copy.judgement === 'unwanted') counts.unwantedStay++
    else {
      here[copy.lane]++
      if (frees) freed[copy.lane]++
      if (frees && !copy.verified) counts.freedNotVerified++
    }
  }

  /**
   * What was found so far.
   * @param seen how far the simulation is; of the copies looked at so many lie delivered, and so many stopped
   */
  report(seen: Looked & { delivered: number, stopped: number, unknown: number }): Impact {
    const { delivered, stopped, ...far } = seen
    const { so } = this
    const total = ({ wanted, unwanted, unmarked }: Marks) => wanted + unwanted + unmarked
    return {
      ...so.counts,
      ...far,
      senders: so.senders.size,
      recipients: so.recipients.size,
      share: far.looked ? Math.min(1, so.counts.copies / far.looked) : 0,
      lanes: [...so.lanes.values()].sort((a, b) => total(b) - total(a)).map(l => ({ ...l })),
      implied: { ...so.implied },
      here: { ...so.here },
      freed: { ...so.freed },
      sample: so.worst.flat().slice(0, MAX_SHOWN).map(c => c.id),
      broad: broadness(
        { ...so.stopped, senders: so.stoppedSenders.size, unmarkedDomains: so.unmarkedDomains.size, of: delivered },
        { ...so.letIn, senders: so.letInSenders.size, of: stopped },
        this.narrow,
      ),
    }
  }
}

const NO_LANE = { wanted: 0, unwanted: 0, unmarked: 0, notVerified: 0 }

/** The sums of those members that are numbers. */
function sumOf<T extends object>(a: Partial<T>, b: T): T {
  const own = a as Record<string, unknown>
  const sums = Object.entries(b).map(([key, n]) => [key, typeof n === 'number' ? n + Number(own[key] ?? 0) : n])
  return Object.fromEntries(sums) as T
}

/** Where a copy ends by a decision. */
export type Ending = Pick<Decision, 'lane' | 'quarantine'>

/** Whether two decisions end a copy in different places. */
export function endsDifferently(a: Ending, b: Ending): boolean {
  return a.lane !== b.lane || a.quarantine !== b.quarantine
}

/** Where a copy that is here already comes to lie by a decision: what would not have been taken goes to the bin. */
export function landing({ lane, quarantine }: Ending): { lane: KeptLane, quarantine: string | null } {
  return isKeptHere(lane) ? { lane, quarantine } : { lane: lane === 'sent' ? 'inbox' : 'bin', quarantine: null }
}

/** How much harm it would be, the worst first; what stays where it is comes last. */
function rankOf(copy: CopyFacts, before: Ending, after: Ending): number {
  if (!endsDifferently(before, after)) return 7
  if (isDelivered(before.lane) && !isDelivered(after.lane)) {
    if (copy.judgement === 'wanted') return copy.implied ? 1 : 0
    if (copy.judgement === 'unwanted') return 6
    if (copy.opened) return 2
    return copy.earlier >= SEEN_OFTEN && !copy.earlierStopped ? 3 : 5
  }
  if (!isDelivered(before.lane) && isDelivered(after.lane)) {
    if (copy.judgement === 'unwanted') return copy.implied ? 1 : 0
    return copy.judgement === 'wanted' ? 6 : copy.earlier ? 5 : 4
  }
  return 6
}
