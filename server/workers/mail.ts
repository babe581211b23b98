import {
  decide,
  EntryTable,
  IndexedPolicy,
  makeAddress,
  parseContent,
  personOf,
  readAttempt,
  settleDoor,
  type Attempt,
  type Context,
  type Envelope,
  type EntryTableData,
  type Extent,
  type Lane,
  type Message,
  type Policy,
  type Ruling,
} from '#core'
import { copyRows, messageRow, type Source } from '../mail/intake-rows'

/** A policy as it is handed to a thread: the clauses are copied, the entries lie in memory that all threads share. */
export interface Edition {
  /** Counted up by every loading. */
  number: number
  policy: Policy
  table: EntryTableData
}

/** A message to be read and decided. */
export interface DecideJob {
  bytes: Uint8Array
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
  rulings: Ruling[]
}

/** A message that comes in, to be decided for everybody in its envelope. */
export interface KeepJob extends Pick<DecideJob, 'bytes' | 'envelope' | 'context'> {
  source: Source
  transaction: string
  /** Who gets what is for postmaster and nobody's own. */
  postmaster: string | null
}

/** A decided message as it is kept. Its rows are made into text here: the thread that serves people only passes them on. */
export interface ForKeeping {
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
export interface Asked<Job> {
  job: Job
  /** How much of the message is read. */
  extent: Extent
  number: number
  edition?: Edition
  /** Set to 1 when the reading begins: from then on the clock runs. */
  started?: Int32Array
}

let held: { number: number, indexed: IndexedPolicy } | null = null

function indexedFor({ number, edition, started }: Omit<Asked<unknown>, 'job'>): IndexedPolicy | null {
  if (held?.number !== number) {
    if (!edition) return null
    held = { number, indexed: IndexedPolicy.build(edition.policy, new EntryTable(edition.table)) }
  }
  if (started) Atomics.store(started, 0, 1)
  return held.indexed
}

async function readFor(job: Pick<DecideJob, 'bytes' | 'envelope' | 'attempt'>, indexed: IndexedPolicy, extent: Extent): Promise<Message> {
  const content = await parseContent(job.bytes, { extent })
  return { content, attempt: { ...readAttempt(content, job.envelope, indexed.compiled.policy.trust), ...job.attempt } }
}

/** Reads one message and decides its copies, off the thread that serves people. The edition comes along once a thread. */
export async function decideMessage(asked: Asked<DecideJob>): Promise<Decided | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { job } = asked
  const message = await readFor(job, indexed, asked.extent)
  return { message, rulings: job.recipients.map(recipient => decide(message, recipient, indexed, job.context)) }
}

/** The same for a message that comes in, with the rows that are kept of it. */
export async function messageForKeeping(asked: Asked<KeepJob>): Promise<ForKeeping | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const { job } = asked
  const { policy } = indexed.compiled
  const message = await readFor(job, indexed, asked.extent)
  const { refusal, rulings } = settleDoor(job.envelope.rcptTo.map(recipient => decide(message, recipient, indexed, job.context)))
  const kept = rulings.some(r => r.lane !== 'refused' && r.lane !== 'dropped')
  const handedOver = {
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
        message,
        kept,
        rulings.some(r => r.stop?.to !== 'drop'),
      ),
    ),
    copies: rulings.map((ruling) => {
      const address = makeAddress(ruling.recipient)
      const person = personOf(indexed.compiled, address)?.id ?? (address.keyWithoutTag.startsWith('postmaster@') ? job.postmaster : null)
      return {
        recipient: ruling.recipient,
        lane: ruling.lane,
        json: JSON.stringify(copyRows(message, ruling, person, policy.trust, handedOver)),
      }
    }),
  }
}
