import type { Verdict } from '../message'
import { counted, numberWords, plural } from '../wording'

/** What is known of a copy that was kept from its recipient, and of mail like it. */
export interface Signs {
  /** Its reader asked for it. */
  asked: boolean
  /** What authentication says of its From. */
  verdict: Verdict
  /** Verified copies of the same sender here that were delivered, this one aside; and any copies of its From that were stopped. */
  delivered: number
  stopped: number
  /** Verified copies of the same sender marked wanted, and any copies of its From marked unwanted; said or implied. */
  wanted: number
  unwanted: number
  /** Verified copies of the same sender that their recipients opened. */
  opened: number
  /** What was marked of the clause that put it there; of those, rightly stopped. */
  marked: number
  right: number
}

/** A reason for a place in the queue, with the numbers that its words need. */
export type Why =
  | { kind: 'asked' }
  | { kind: 'senderWanted', wanted: number, of: number }
  | { kind: 'neverStopped', delivered: number }
  | { kind: 'opened', opened: number }
  | { kind: 'oftenWrong', right: number, of: number }
  | { kind: 'senderUnwanted', unwanted: number, of: number }
  | { kind: 'firstContact' }
  | { kind: 'notVerified' }
  | { kind: 'failed' }

/** How likely a copy is a mistake, and why it is said. */
export interface Likely {
  /** 0 to 1000; what is more likely a mistake has more. */
  points: number
  /** The weightiest first. */
  why: Why[]
}

/** Whether a sender's word cannot be taken: authentication failed, or passed for none although senders can be verified here. */
export function isDoubted(verdict: Verdict, canVerify: boolean): boolean {
  return verdict === 'fail' || (verdict !== 'pass' && canVerify)
}

/** From so many points on a copy is called a likely mistake. */
export const LIKELY_FROM = 500
/** Mail that failed authentication has no more, unless its recipient asked for it. */
const FAILED = 50
const OFTEN = 3

/**
 * How likely it is that a copy was stopped by mistake. The order is this: what its recipient asked for; verified mail whose siblings were
 * marked wanted; verified senders that were often seen and never stopped; verified senders whose mail is opened; clauses of which little
 * was marked right; nothing known; first contact; siblings marked unwanted; failed authentication. What speaks for a sender counts for
 * verified mail only, since anybody can write a From; what speaks against one counts for all. Mail that failed authentication is never
 * called a likely mistake. Common practice, no source: a rank that can be told in words, and no probability.
 */
export function likelihood(signs: Signs): Likely {
  const why: Why[] = []
  let points = 200
  const { unwanted, stopped, marked, right } = signs
  const verified = signs.verdict === 'pass'
  const { wanted, delivered, opened } = verified ? signs : { wanted: 0, delivered: 0, opened: 0 }
  const of = wanted + unwanted
  if (signs.asked) add(1000, { kind: 'asked' })
  if (wanted && wanted >= unwanted) add(560 + share(wanted, of) * 300, { kind: 'senderWanted', wanted, of })
  if (verified && delivered >= OFTEN && !stopped) add(520 + Math.min(200, delivered), { kind: 'neverStopped', delivered })
  if (opened && delivered) add(400 + share(opened, delivered + stopped) * 100, { kind: 'opened', opened })
  if (marked && right * 4 < marked * 3) add(300 + share(marked - right, marked) * 250, { kind: 'oftenWrong', right, of: marked })
  if (unwanted > wanted) lessen(60 - share(unwanted, of) * 60, { kind: 'senderUnwanted', unwanted, of })
  else if (verified && !delivered && !stopped && !of) lessen(100, { kind: 'firstContact' })
  else if (signs.verdict === 'none' && !why.length) lessen(150, { kind: 'notVerified' })
  if (signs.verdict === 'fail') {
    points = Math.min(points, signs.asked ? LIKELY_FROM - 1 : FAILED)
    why.push({ kind: 'failed' })
  }
  return { points: Math.round(Math.max(0, Math.min(1000, points))), why }

  function add(atLeast: number, one: Why): void {
    points = Math.max(points, atLeast)
    why.push(one)
  }
  // What speaks for it being right counts where nobody asked.
  function lessen(atMost: number, one: Why): void {
    if (!signs.asked) points = Math.min(points, atMost)
    why.push(one)
  }
}

function share(part: number, of: number): number {
  return of ? part / of : 0
}

/** The words of a reason: “58 delivered and none stopped before”. */
export function whyWords(why: Why): string {
  switch (why.kind) {
    case 'asked':
      return 'the recipient requests it'
    case 'senderWanted':
      return `${numberWords(why.wanted)} of ${counted(why.of, 'marked message')} from this sender `
        + `${plural(why.wanted, 'was', 'were')} wanted`
    case 'neverStopped':
      return `sender verified; ${numberWords(why.delivered)} delivered before, none stopped`
    case 'opened':
      return `${counted(why.opened, 'message')} from this sender ${plural(why.opened, 'was', 'were')} opened`
    case 'oftenWrong':
      return `the list or rule was correct for ${numberWords(why.right)} of ${counted(why.of, 'marked message')}`
    case 'senderUnwanted':
      return `${numberWords(why.unwanted)} of ${counted(why.of, 'marked message')} from this sender `
        + `${plural(why.unwanted, 'was', 'were')} unwanted`
    case 'firstContact':
      return 'first message from this sender'
    case 'notVerified':
      return 'sender not verified'
    case 'failed':
      return 'authentication failed: the From may be forged'
  }
}
