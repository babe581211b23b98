import {
  decide,
  forSenderOf,
  makeAddress,
  parseContent,
  readAttempt,
  recipientOf,
  settleRefusals,
  whatIf,
  type Attempt,
  type Content,
  type Context,
  type Envelope,
  type Extent,
  type IndexedPolicy,
  type Lane,
  type Message,
  type Decision,
  type WhatIf,
} from '#core'
import { copyRows, messageRow, type Source, type Whose } from '../intake/intake-rows'
import { begin, type Start } from '../platform/work-clock'
import { Editions, type Edition } from './editions'

/** A message to be decided. */
export interface DecideJob {
  /** To be read; or what was read of it before. */
  read: { bytes: Uint8Array } | { content: Content }
  envelope: Envelope
  /** For whom it is decided. */
  recipients: readonly string[]
  context: Context
  /** What the handing-over is known to have been; otherwise it is read from the message and the envelope. */
  attempt?: Partial<Attempt>
}

export interface Decided {
  message: Message
  /** In the order of the recipients. */
  decisions: Decision[]
}

/** A message that comes in, to be decided for everybody in its envelope. */
export interface StoreJob extends Pick<DecideJob, 'envelope' | 'context' | 'attempt'> {
  read: { bytes: Uint8Array }
  source: Source
  transaction: string
  /** Who gets what is for postmaster and nobody's own. */
  postmaster: string | null
}

/** A decided message as it is kept. Its rows are made into text here: the thread that serves people only passes them on. */
export interface ToStore {
  refusal: string | null
  /** Some copy lies somewhere; otherwise only the record is kept. */
  kept: boolean
  contentHash: string
  messageJson: string
  copies: { recipient: string, lane: Lane, json: string }[]
}

/** Told instead of an answer by a thread that does not have the edition yet. */
export interface Needs {
  needs: number
}

/** What every job on these threads comes with. */
export interface WorkOrder<Job> {
  job: Job
  /** How much of the message is read. */
  extent: Extent
  number: number
  edition?: Edition
  /** When the reading begins: from then on the clock runs. */
  start?: Start
}

// The newest, and the one before it, by which what has begun is still decided.
const editions = new Editions(2)

function indexedFor({ number, edition, start }: Omit<WorkOrder<unknown>, 'job'>): IndexedPolicy | null {
  const indexed = editions.take(number, edition)
  if (indexed) begin(start)
  return indexed
}

async function readFor(job: Pick<DecideJob, 'read' | 'envelope' | 'attempt'>, indexed: IndexedPolicy, extent: Extent): Promise<Message> {
  const content = 'content' in job.read ? job.read.content : await parseContent(job.read.bytes, { extent })
  const attempt = { ...readAttempt(content, job.envelope, indexed.compiled.policy.trust), ...job.attempt }
  return { content, attempt: { ...attempt, authentication: forSenderOf(content, attempt.authentication) } }
}

/** What a message says, off the thread that serves people. */
export function contentOf({ job, extent, start }: WorkOrder<{ read: { bytes: Uint8Array } }>): Promise<Content> {
  begin(start)
  return parseContent(job.read.bytes, { extent })
}

/** Reads one message and decides its copies, off the thread that serves people. The edition comes along once a thread. */
export async function decideMessage(asked: WorkOrder<DecideJob>): Promise<Decided | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { job } = asked
  const message = await readFor(job, indexed, asked.extent)
  return { message, decisions: job.recipients.map(recipient => decide(message, recipient, indexed, job.context)) }
}

/** What would be of the copy for the first of its recipients if things stood otherwise. */
export async function askWhatIf(asked: WorkOrder<DecideJob>): Promise<WhatIf | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { job } = asked
  return whatIf(await readFor(job, indexed, asked.extent), job.recipients[0]!, indexed, job.context)
}

/** The same for a message that comes in, with the rows that are kept of it. */
export async function messageForStorage(asked: WorkOrder<StoreJob>): Promise<ToStore | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { job } = asked
  const message = await readFor(job, indexed, asked.extent)
  const { refusal, decisions } = settleRefusals(job.envelope.rcptTo.map(recipient => decide(message, recipient, indexed, job.context)))
  const kept = decisions.some(r => r.lane !== 'refused' && r.lane !== 'discarded')
  const storedEnvelope = {
    transaction: job.transaction,
    source: job.source,
    reply: refusal === null ? { code: 250, text: 'accepted' } : { code: 550, text: refusal },
  }
  return {
    refusal,
    kept,
    contentHash: message.content.hash,
    messageJson: JSON.stringify(
      messageRow(
        message.content,
        kept,
        decisions.some(r => r.stop?.to !== 'discard'),
      ),
    ),
    copies: decisions.map((decision) => {
      return {
        recipient: decision.recipient,
        lane: decision.lane,
        json: JSON.stringify(copyRows(message, decision, whoseIs(decision, indexed, job.postmaster), storedEnvelope)),
      }
    }),
  }
}

function whoseIs({ recipient, personId }: Decision, { compiled }: IndexedPolicy, postmaster: string | null): Whose {
  const { keyWithoutTag } = makeAddress(recipient)
  if (personId !== null) return { personId: personId, mailbox: null }
  if (recipientOf(compiled, recipient).shared) return { personId: null, mailbox: keyWithoutTag }
  return { personId: keyWithoutTag.startsWith('postmaster@') ? postmaster : null, mailbox: null }
}
