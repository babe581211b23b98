import { isDelivered, isKeptAway, isKeptHere, KEPT_LANES, type KeptLane, type Lane } from '../policy'
import type { Decision } from '../decide'
import { broadness } from './broad-changes'

/** What is known of a copy besides its message. */
export interface CopyFacts {
  id: number
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

/** Copies that go from one lane to another, or stay in theirs. */
export interface LaneChange extends Marks {
  from: Lane
  to: Lane
  /** Of these copies: from a sender that is not verified. */
  notVerified: number
}

/** What a change would do to mail that is here. */
export interface Impact extends Marks {
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
  /** So many copies were looked at, of so many. */
  looked: number
  inScope: number
  /** Of which only a record is left: they cannot be simulated. */
  unknown: number
  complete: boolean
}

const MAX_SHOWN = 12
const SEEN_OFTEN = 5
/** Of those that would go wrong worst; what is farther down is shown only where they are few. */
const RANKS = 8

function noneByLane(): Record<KeptLane, number> {
  return Object.fromEntries(KEPT_LANES.map(l => [l, 0])) as Record<KeptLane, number>
}

/** Counts what a simulation finds, copy by copy. */
export class ImpactCounter {
  private readonly lanes = new Map<string, LaneChange>()
  private readonly senders = new Set<string>()
  private readonly recipients = new Set<string>()
  private readonly stoppedSenders = new Set<string>()
  private readonly unmarkedDomains = new Set<string>()
  private readonly worst: number[][] = Array.from({ length: RANKS }, () => [])
  private readonly here = noneByLane()
  private readonly freed = noneByLane()
  private counts = {
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
  }

  private readonly implied = { wanted: 0, unwanted: 0 }
  private readonly stopped = { copies: 0, wanted: 0 }

  /** @param narrow see `broadness` */
  constructor(private readonly narrow: boolean) {}

  /** A copy that the change touches. Newer ones come first. */
  add(copy: CopyFacts, before: Decision, after: Decision): void {
    const { counts } = this
    counts.copies++
    this.senders.add(copy.sender)
    this.recipients.add(copy.recipient)
    if (copy.verified) counts.verified++
    const marked = copy.judgement ?? 'unmarked'
    counts[marked]++
    if (copy.judgement && copy.implied) this.implied[copy.judgement]++
    if (!copy.judgement && copy.opened) counts.opened++
    if (!copy.judgement && !copy.earlier) counts.firstContact++
    const key = `${before.lane} ${after.lane}`
    const lane = this.lanes.get(key) ?? { from: before.lane, to: after.lane, wanted: 0, unwanted: 0, unmarked: 0, notVerified: 0 }
    lane[marked]++
    if (!copy.verified) lane.notVerified++
    this.lanes.set(key, lane)
    if (endsDifferently(before, after)) this.move(copy, before, after)
    const rank = this.worst[rankOf(copy, before, after)]!
    if (rank.length < MAX_SHOWN) rank.push(copy.id)
  }

  private move(copy: CopyFacts, before: Decision, after: Decision): void {
    this.counts.moves++
    if (isDelivered(before.lane) && !isDelivered(after.lane)) {
      this.stopped.copies++
      this.stoppedSenders.add(copy.sender)
      if (copy.judgement === 'wanted') this.stopped.wanted++
      if (!copy.judgement) this.unmarkedDomains.add(copy.senderDomain)
    }
    const target = landing(after)
    if (after.lane === 'discarded') this.counts.erased++
    if (!isKeptHere(copy.lane) || (copy.lane === target.lane && copy.quarantine === target.quarantine)) return
    const frees = isKeptAway(copy.lane) && isDelivered(target.lane)
    if (copy.byHand) this.counts.byHand++
    else if (frees && copy.judgement === 'unwanted') this.counts.unwantedStay++
    else {
      this.here[copy.lane]++
      if (frees) this.freed[copy.lane]++
      if (frees && !copy.verified) this.counts.freedNotVerified++
    }
  }

  /**
   * What was found so far.
   * @param seen how far the simulation is; `delivered` of the copies looked at lie in inbox or low priority
   */
  report(seen: { looked: number, delivered: number, inScope: number, unknown: number, complete: boolean }): Impact {
    const { delivered, ...far } = seen
    const total = ({ wanted, unwanted, unmarked }: Marks) => wanted + unwanted + unmarked
    return {
      ...this.counts,
      ...far,
      senders: this.senders.size,
      recipients: this.recipients.size,
      share: far.looked ? this.counts.copies / far.looked : 0,
      lanes: [...this.lanes.values()].sort((a, b) => total(b) - total(a)).map(l => ({ ...l })),
      implied: { ...this.implied },
      here: { ...this.here },
      freed: { ...this.freed },
      sample: this.worst.flat().slice(0, MAX_SHOWN),
      broad: broadness(
        { ...this.stopped, senders: this.stoppedSenders.size, unmarkedDomains: this.unmarkedDomains.size, delivered },
        this.narrow,
      ),
    }
  }
}

/** Whether two decisions end a copy in different places. */
export function endsDifferently(a: Pick<Decision, 'lane' | 'quarantine'>, b: Pick<Decision, 'lane' | 'quarantine'>): boolean {
  return a.lane !== b.lane || a.quarantine !== b.quarantine
}

/** Where a copy that is here already comes to lie by a decision: what would not have been taken goes to the bin. */
export function landing({ lane, quarantine }: Pick<Decision, 'lane' | 'quarantine'>): { lane: KeptLane, quarantine: string | null } {
  return isKeptHere(lane) ? { lane, quarantine } : { lane: lane === 'sent' ? 'inbox' : 'bin', quarantine: null }
}

/** How much harm it would be, the worst first; what stays where it is comes last. */
function rankOf(copy: CopyFacts, before: Decision, after: Decision): number {
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
