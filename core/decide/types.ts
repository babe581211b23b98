import type { Direction, TextPlace } from '../message'
import type { Effect, EntryKind, Fact } from '../kinds'
import type { Claim, Lane, Owner, PlaceClaim, State, Stop } from '../policy'

/** The clause behind a reason. */
export interface ClauseRef {
  kind: 'list' | 'rule' | 'score' | 'learned'
  /** Id of the assignment or the rule; which threshold; whose low priority. */
  id: string
  /** Name of the list or the rule. */
  name: string
  /** It is a colleague's own: shown without its name and words. */
  others?: true
  /** Lists: the list's own id. */
  list?: string
  /** Lists: the entry that matched. */
  entry?: { id: string, kind: EntryKind, value: string }
}

export type SenderPlace = 'from' | 'sender' | 'envelope' | 'recipient'

/** What in the message a clause matched. */
export type Evidence =
  | {
    kind: 'phrase'
    phrase: string
    place: TextPlace
    /** Name of the header or the attachment. */ label?: string
    /** Index in the message's segments; beyond them what stands elsewhere. */ segment: number
    /** UTF-16 units in the segment. */ start: number
    end: number
  }
  | { kind: 'sender', on: SenderPlace, address: string, entry: { kind: EntryKind, value: string }, list?: string, listName?: string }
  | { kind: 'fact', fact: Fact, shown: string }
  | { kind: 'score', points: number, /** Points from which the threshold speaks. */ from: number }
  | { kind: 'learned', /** 0 to 1. */ certainty: number }

export type NotCounted = 'expired' | 'notVerified' | 'hiddenText' | 'neverRefused'

/** Something that matched and did not count. */
export interface Lost {
  why: NotCounted
  evidence: Evidence[]
}

/** A clause that matched one copy, before the claims are settled. */
export interface Match {
  clause: ClauseRef
  owner: Owner
  mandatory: boolean
  state: State
  claims: Claim[]
  end: 'owner' | 'all' | null
  evidence: Evidence[]
  /** Why the match does not count, or null. */
  lost: NotCounted | null
  /** The exception that exempted the copy, or null. */
  excepted: Evidence[] | null
  /** Exceptions that matched but did not count. */
  lostExceptions: Lost[]
}

/** Where a copy would end. */
export interface Destination {
  lane: Lane
  quarantine: string | null
  place: PlaceClaim | null
}

export type ReasonOutcome =
  | { kind: 'decided' | 'sameResult' | 'protected' | 'placed' | 'waiting' | 'applied' | 'notApplied' }
  | { kind: 'comesAfter' | 'overriddenBy' | 'replacedBy' | 'allowTooLate' | 'notReached', by: ClauseRef }
  | { kind: 'notCounted', why: NotCounted }
  | { kind: 'excepted', evidence: Evidence[] }
  | { kind: 'monitored', would: Destination & { effects: Effect[] }, changes: boolean }

/** One claim that matched and what became of it. */
export interface Reason {
  clause: ClauseRef
  owner: Owner
  mandatory: boolean
  claim: Claim
  outcome: ReasonOutcome
  evidence: Evidence[]
  lostExceptions: Lost[]
}

/** The decision on one copy. */
export interface Decision extends Destination {
  recipient: string
  /** Whose copy it is: a person's id, or null where the address is nobody's here. */
  personId: string | null
  direction: Direction
  policyVersion: number
  /** The stop that decided, or null where the copy is delivered. */
  stop: Stop | null
  /** Effects to be done, in order. */
  effects: Effect[]
  /** In the order in which claims stand. */
  reasons: Reason[]
  /** Index of the reason that decided the lane, or null where nothing did. */
  decidedBy: number | null
}

/** What a decision may know besides message and policy. */
export interface Context {
  /** ISO 8601 instant against which expiry is decided: the time of receipt, or the start of a simulation. */
  now: string
  /** Points of the message, where it was scored. */
  score?: number
  /** The reader's learned low priority takes the copy to belong there, so surely (0 to 1). */
  learned?: { certainty: number }
  /** The copy has been released from these quarantines: stops there do not count any more, others stand. */
  release?: {
    quarantines: readonly string[]
    /** Also by the recipient's own places, instead of straight to the inbox. */ ownPlaces?: boolean
  }
}
