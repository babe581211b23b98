import MailComposer from 'nodemailer/lib/mail-composer'
import {
  directionOf,
  makeAddress,
  peopleOf,
  personOwner,
  rulingFor,
  type Attachment,
  type HeaderField,
  type Message,
  type Ruling,
  type Segment,
  type Verdict,
} from '#core'
import type { PolicyChange } from '#core/change'
import { mayChange } from '../access/ownership'
import { previewChanges } from '../policy/preview'
import { readAndDecide } from '../intake/reading'
import { decideUnder } from '../impact/simulation'
import { sentenceFor } from '../access/others-clauses'
import { may, type Asker } from '../access/roles'
import { policyInForce } from '../policy/active-policy'
import { Slots } from '../platform/slots'
import { invalid, notAllowed } from '../platform/problem'

export interface TryForm {
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
  /** Also decided as if these were in force; of what is beyond one's power as it is proposed. */
  changes?: PolicyChange[]
  /** Suppose that one of ours hands it over: to a colleague it is internal then, to others outbound. */
  inside?: boolean
}

export interface Tried {
  ruling: Ruling
  sentence: string
  /** Under the changes; null where none were sent. */
  under: { ruling: Ruling, sentence: string } | null
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

/** Decides a message under the policy in force and keeps nothing. */
export async function tryMessage(asker: Asker, form: TryForm): Promise<Tried> {
  const { policy, door, edition } = await policyInForce()
  const recipient = makeAddress(form.recipient)
  if (!recipient.local || !recipient.domain) throw invalid('Say for whom the message is meant.', { recipient: 'Write it as name@domain.' })
  const people = peopleOf(door.compiled, recipient)
  if (!may(asker, 'try as anybody') && !people.some(p => p.id === asker.id))
    throw notAllowed('You can try messages to your own addresses; an administrator can try them to anybody’s.')
  const bytes = form.message === undefined ? await compose(form) : Buffer.from(form.message, 'utf8')
  const now = new Date().toISOString()
  const {
    message: { content, attempt },
    rulings: [ruling],
  } = await trying.take(asker.id, () => readAndDecide(
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
    under: form.changes ? await underChanges(asker, form.changes, { content, attempt }, form.recipient) : null,
    ruling: rulingFor(personOwner(asker.id), ruling!),
    sentence: sentenceFor(asker, ruling!, policy),
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

async function underChanges(asker: Asker, changes: readonly PolicyChange[], message: Message, recipient: string): Promise<Tried['under']> {
  const proposed = !changes.every(c => isOwnToChange(asker, c))
  const preview = await previewChanges(asker, changes, { acting: true, proposed })
  const ruling = await decideUnder({ net: preview.net, message, recipient })
  return { ruling: rulingFor(personOwner(asker.id), ruling), sentence: sentenceFor(asker, ruling, preview.after) }
}

function isOwnToChange(asker: Asker, change: PolicyChange): boolean {
  return 'put' in change && change.put === 'rule' ? mayChange(asker, change.rule.owner) : true
}

/** A message of from, subject and text (RFC 5322). @throws where nobody can be read in From */
export async function compose(form: Pick<TryForm, 'recipient' | 'from' | 'subject' | 'text'> & { messageId?: string }): Promise<Buffer> {
  const from = makeAddress(form.from ?? '')
  if (!from.local || !from.domain) throw invalid('Say from whom the message comes.', { from: 'Write it as name@domain.' })
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
