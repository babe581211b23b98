import type { Content, Envelope, Message } from '../message'
import { inNetwork, readAttempt } from '../message'
import { isOverriding, recipientOf, ruleProtects, ruleStops, tierKey, type CompiledPolicy, type Lane, type Policy } from '../policy'
import { matchesInOrder } from './match'
import type { Looking } from './decide'
import { settle } from './settle'
import type { Context, Decision } from './types'

/** A decision after all recipients of the message were looked at together. */
export interface FinalDecision extends Decision {
  /** The lane by the decision alone, where it differs from the final one: a refusal that could not be given. */
  decidedLane: Lane
}

const REFUSED = '5.7.1 Message refused by policy'

/** The reply of a refusal: what the clause says, with an enhanced status code (RFC 3463) before it. */
export function refusalReply(decision: Pick<Decision, 'stop'>): string {
  const said = decision.stop?.reply?.replace(/[\r\n]+/g, ' ').trim()
  return said ? (/^\d\.\d+\.\d+ /.test(said) ? said : `5.7.1 ${said}`) : REFUSED
}

/**
 * Looks at all recipients of a message together. If all copies are refused after the content, the answer is 550 with the
 * first refused recipient's reply. If only some are, the message has to be taken, and those copies go to the bin, marked.
 */
export function settleRefusals(decisions: readonly Decision[]): { refusal: string | null, decisions: FinalDecision[] } {
  const refused = decisions.filter(r => r.lane === 'refused')
  if (refused.length && refused.length === decisions.length)
    return { refusal: refusalReply(refused[0]!), decisions: decisions.map(r => ({ ...r, decidedLane: r.lane })) }
  return { refusal: null, decisions: decisions.map(r => ({ ...r, decidedLane: r.lane, lane: r.lane === 'refused' ? 'bin' : r.lane })) }
}

/**
 * Whether a recipient is refused before the content is seen: only if the envelope suffices, and no earlier clause of that
 * recipient, which needs the content, could still protect or decide otherwise. Null: take the content and decide then.
 * @param lists the same policy without its rules, which are asked of the content; it is made in no time
 */
export function decideEnvelope(
  { envelope, recipient, context }: { envelope: Envelope, recipient: string, context: Context },
  policy: Policy,
  lists: Looking,
): Decision | null {
  const { compiled } = lists
  const content: Content = {
    parser: 0,
    hash: '',
    size: 0,
    messageId: null,
    date: null,
    from: [],
    fromFields: 0,
    sender: null,
    replyTo: [],
    to: [],
    cc: [],
    subject: '',
    segments: [],
    headers: [],
    list: { id: null, unsubscribe: [], oneClick: false, precedence: null, autoSubmitted: null },
    links: [],
    attachments: [],
    important: false,
    defects: [],
  }
  const message: Message = { content, attempt: readAttempt(content, envelope, compiled.policy.trust) }
  // What a relay hands over may still turn out to come from elsewhere: its client is known from the header only.
  if (
    message.attempt.direction !== 'inbound' ||
    compiled.policy.trust.relays.some(r => envelope.client !== null && inNetwork(envelope.client, r.network))
  )
    return null
  const { address, tiers, person } = recipientOf(compiled, recipient)
  const { subject, candidates } = lists.subject({ message, recipient: address, direction: 'inbound', stage: 'inbound', now: context.now })
  const settled = settle(matchesInOrder(subject, tiers, candidates))
  if (settled.stop?.to !== 'refuse' || settled.decidedBy === null) return null
  if (contentCouldDecide(policy, compiled, tiers, tierKey(settled.reasons[settled.decidedBy]!))) return null
  return {
    recipient: address.key,
    personId: person,
    direction: 'inbound',
    policyVersion: policy.version,
    lane: 'refused',
    quarantine: null,
    place: null,
    stop: settled.stop,
    effects: [],
    reasons: settled.reasons,
    decidedBy: settled.decidedBy,
  }
}

// Careful: any acting clause of an earlier owner, any overriding rule and any allow assignment of the same owner counts.
function contentCouldDecide(policy: Policy, compiled: CompiledPolicy, tiers: readonly string[], deciding: string): boolean {
  const earlier = tiers.slice(0, tiers.indexOf(deciding))
  const decides = (owner: string, overridesLists: boolean) => earlier.includes(owner) || (owner === deciding && overridesLists)
  if (
    policy.rules.some(
      r =>
        r.state === 'enabled' &&
        decides(tierKey({ owner: r.owner, mandatory: r.mandatory === true }), isOverriding(r)) &&
        (ruleProtects(r) || ruleStops(r)),
    )
  )
    return true
  return [...earlier, deciding].some(key =>
    (compiled.assignments.get(key) ?? []).some(
      ({ assignment }) =>
        assignment.state === 'enabled' && (assignment.side === 'allow' || key !== deciding || assignment.stop!.to !== 'refuse'),
    ),
  )
}
