import { decide, EntryTable, IndexedPolicy, parseContent, readAttempt, type Attempt, type Context, type Envelope, type EntryTableData, type Message, type Policy, type Ruling } from '#core'
import { safeHtml as makeSafe } from './safe-html'

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
  /** Documents are not opened (see ReadOptions). */
  closedDocuments?: boolean
}

export interface Decided {
  message: Message
  /** In the order of the recipients. */
  rulings: Ruling[]
}

/** Told instead of an answer by a thread that does not have the edition yet. */
export interface Needs {
  needs: number
}

let held: { number: number, indexed: IndexedPolicy } | null = null

/** Reads one message and decides its copies, off the thread that serves people. The edition comes along once a thread. */
export async function decideMessage({ job, edition, number, started }: { job: DecideJob, edition?: Edition, number: number, started?: Int32Array }): Promise<Decided | Needs> {
  if (started) Atomics.store(started, 0, 1)
  if (held?.number !== number) {
    if (!edition) return { needs: number }
    held = { number, indexed: IndexedPolicy.build(edition.policy, new EntryTable(edition.table)) }
  }
  const { indexed } = held
  const content = await parseContent(job.bytes, { closedDocuments: job.closedDocuments })
  const message: Message = { content, attempt: { ...readAttempt(content, job.envelope, indexed.compiled.policy.trust), ...job.attempt } }
  return { message, rulings: job.recipients.map(recipient => decide(message, recipient, indexed, job.context)) }
}

/** The HTML of one message, made harmless. */
export function safeHtml(bytes: Uint8Array) {
  return makeSafe(bytes)
}
