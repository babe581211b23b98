import MailComposer from 'nodemailer/lib/mail-composer'
import {
  directionOf,
  makeAddress,
  peopleOf,
  personOwner,
  decisionFor,
  type Attachment,
  type HeaderField,
  type Message,
  type Decision,
  type Segment,
  type Verdict,
} from '#core'
import type { PolicyChange } from '#core/change'
import { canChange } from '../access/ownership'
import { previewChanges } from '../policy/preview'
import { readAndDecide } from '../intake/reading'
import { decideUnder } from '../impact/simulation'
import { sentenceFor } from '../access/others-clauses'
import { can, type Actor } from '../access/roles'
import { activePolicy } from '../policy/active-policy'
import { Slots } from '../platform/slots'
import { invalid, notAllowed } from '../platform/problem'

export interface DryRunForm {
  recipient: string
  /** A whole message (RFC 5322); or from, subject and text, from which one is made. */
  message?: string
  from?: string
  subject?: string
  text?: string
  mailFrom?: string
  client?: string
  /** What our relay is supposed to have found; left out, the message counts as it comes. */
  authentication?: Verdict
  /** Also decided as if these were active; of what is beyond one's power as it is proposed. */
  changes?: PolicyChange[]
  /** Suppose that one of ours hands it over: to a colleague it is internal then, to others outbound. */
  inside?: boolean
}

export interface DryRun {
  decision: Decision
  sentence: string
  /** Under the changes; null where none were sent. */
  under: { decision: Decision, sentence: string } | null
  facts: {
    from: string[]
    subject: string
    segments: Segment[]
    attachments: Pick<Attachment, 'name' | 'text'>[]
    headers: HeaderField[]
    defects: Message['content']['defects']
    authentication: Verdict
    direction: string
  }
}

/** A costly message keeps a thread for seconds, and mail waits for the same threads. */
const trying = new Slots(1)

/** Decides a message under the active policy and keeps nothing. */
export async function runDry(actor: Actor, form: DryRunForm): Promise<DryRun> {
  const { policy, envelopeLists, edition } = await activePolicy()
  const recipient = makeAddress(form.recipient)
  if (!recipient.local || !recipient.domain) throw invalid('Enter the recipient.', { recipient: 'Write it as name@domain.' })
  const people = peopleOf(envelopeLists.compiled, recipient)
  if (!can(actor, 'test as anyone') && !people.some(p => p.id === actor.id))
    throw notAllowed('You can test messages to your own addresses only; administrators can test any recipient.')
  const bytes = form.message === undefined ? await compose(form) : Buffer.from(form.message, 'utf8')
  const now = new Date().toISOString()
  const {
    message: { content, attempt },
    decisions: [decision],
  } = await trying.take(actor.id, () => readAndDecide(
    {
      read: { bytes },
      envelope: {
        mailFrom: form.mailFrom ?? null,
        rcptTo: [form.recipient],
        client: form.client ?? null,
        helo: null,
        tls: false,
        user: null,
        receivedAt: now,
      },
      recipients: [form.recipient],
      context: { now },
      attempt: {
        ...(form.authentication
          ? { authentication: { verdict: form.authentication, by: form.authentication === 'none' ? '' : 'supposed', saidBy: null } }
          : {}),
        ...(form.inside ? { direction: 'outbound', defects: [] } : {}),
      },
    },
    edition,
  ))
  return {
    under: form.changes ? await underChanges(actor, form.changes, { content, attempt }, form.recipient) : null,
    decision: decisionFor(personOwner(actor.id), decision!),
    sentence: sentenceFor(actor, decision!, policy),
    facts: {
      from: content.from.map(a => (a.name ? `${a.name} <${a.key}>` : a.key)),
      subject: content.subject,
      segments: content.segments,
      attachments: content.attachments.map(({ name, text }) => ({ name, text })),
      headers: content.headers,
      defects: [...content.defects, ...attempt.defects],
      authentication: attempt.authentication.verdict,
      direction: directionOf(attempt, recipient, policy.trust),
    },
  }
}

async function underChanges(actor: Actor, changes: readonly PolicyChange[], message: Message, recipient: string): Promise<DryRun['under']> {
  const proposed = !changes.every(c => isOwnToChange(actor, c))
  const preview = await previewChanges(actor, changes, { monitorToo: true, proposed })
  const decision = await decideUnder({ net: preview.net, message, recipient })
  return { decision: decisionFor(personOwner(actor.id), decision), sentence: sentenceFor(actor, decision, preview.after) }
}

function isOwnToChange(actor: Actor, change: PolicyChange): boolean {
  return change.type === 'put' && change.kind === 'rule' ? canChange(actor, change.value.owner) : true
}

/** A message of from, subject and text (RFC 5322). @throws where nobody can be read in From */
export async function compose(form: Pick<DryRunForm, 'recipient' | 'from' | 'subject' | 'text'> & { messageId?: string }): Promise<Buffer> {
  const from = makeAddress(form.from ?? '')
  if (!from.local || !from.domain) throw invalid('Enter the sender.', { from: 'Write it as name@domain.' })
  const { messageId } = form
  const mail = {
    from: form.from,
    to: form.recipient,
    subject: form.subject ?? '',
    text: form.text ?? '',
    // Which of both is shorter would be found out from each character, with others waiting.
    textEncoding: 'quoted-printable' as const,
    ...(messageId ? { messageId } : {}),
  }
  return new MailComposer(mail).compile().build()
}
