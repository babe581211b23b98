import { isDelivered, isKeptHere, KEPT_LANES, type KeptLane } from '#core'
import { canReleaseCopy, isOwn, reviews, type Copy } from './copy-access'
import { can, type Actor } from './roles'

/** What somebody may do with a copy that they see. Routes answer it with the copy, and guard the same acts by it. */
export interface CopyActions {
  /** Lanes that it may be moved to; the one where it is now is among them. */
  move: KeptLane[]
  /** It is held, and theirs to let out. */
  release: boolean
  requestRelease: boolean
  /** Its release is requested, and theirs to decline with a reason: only so it goes to the bin. */
  decline: boolean
  mark: boolean
  /** Deleting it for good. */
  erase: boolean
}

/** Whether release of a copy was requested, and not answered yet. */
export interface OpenRequests {
  any: boolean
  mine: boolean
}

export const NO_REQUESTS: OpenRequests = { any: false, mine: false }

/** What of a copy it depends on. */
type Facts = Pick<Copy, 'lane' | 'quarantineId' | 'personId' | 'mailbox'>

/** @param requests what is open for this copy; `NO_REQUESTS` where the act itself answers it, or may be repeated */
export function actionsOn(actor: Actor, copy: Facts, requests: OpenRequests): CopyActions {
  const held = copy.lane === 'quarantine'
  const release = held && canReleaseCopy(actor, copy)
  const reviewed = !held || reviews(actor, copy.quarantineId ?? 'general')
  const canMoveTo = (lane: KeptLane) => {
    if (isDelivered(lane)) return !held || release
    if (lane === 'quarantine') return can(actor, 'hold and release') && reviewed
    // The recipient who asked reads why not, which a move does not say.
    return reviewed && !(lane === 'bin' && requests.any)
  }
  return {
    move: isKeptHere(copy.lane) ? KEPT_LANES.filter(canMoveTo) : [],
    release,
    requestRelease: held && isOwn(actor, copy) && !actor.held.noRequests.includes(copy.quarantineId ?? 'general') && !requests.mine,
    decline: requests.any && held && reviewed,
    // Whoever sees a message may say what it is; also of one of which only the log entry is kept.
    mark: true,
    // What is held is evidence, and may be asked for: it goes to the bin first.
    erase: isKeptHere(copy.lane) && !held && !requests.any && (isOwn(actor, copy) || can(actor, 'read all mail')),
  }
}
