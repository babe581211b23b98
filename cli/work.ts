import { decide, IndexedPolicy, parseContent, readAttempt, type Envelope, type Extent, type Policy } from '#core'
import { decisionSentence } from '#core/words'

/** What is asked of one message: its facts, or what a policy decides of it. */
export interface Question {
  decide?: { policy: Policy, recipient: string, envelope: Envelope, now: string, score?: number }
}

/** A question with the message that it is about. */
export interface WorkOrder extends Question {
  /** In memory that threads share: a large message is not copied. */
  bytes: Uint8Array
  extent: Extent
}

/** What is told of a message: a JSON object as text, and whether a document in it was left closed. */
export interface Answer {
  json: string
  closed: boolean
}

/** One run of the command line has one policy. */
let indexed: IndexedPolicy | null = null

/** Answers one question. The same on the main thread and on the one that is given up when it takes too long. */
export async function answer({ bytes, extent, decide: asked }: WorkOrder): Promise<Answer> {
  const content = await parseContent(bytes, { extent })
  const closed = content.defects.some(d => d.code === 'attachment not readable')
  if (!asked) return { json: JSON.stringify(content), closed }
  const policy = (indexed ??= IndexedPolicy.build(asked.policy))
  const attempt = readAttempt(content, asked.envelope, asked.policy.trust)
  const decision = decide({ content, attempt }, asked.recipient, policy, {
    now: asked.now,
    ...(asked.score === undefined ? {} : { score: asked.score }),
  })
  return { json: JSON.stringify({ ...decision, why: decisionSentence(decision, asked.policy) }), closed }
}
