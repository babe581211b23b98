import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { parse } from 'csv-parse/sync'
import isSame from 'fast-deep-equal'
import { decide, IndexedPolicy, isDelivered, makeAddress, parseContent, peopleOf, readAttempt, type Message, type Policy } from '#core'
import { differences } from '#core/change'
import { looksLikeMbox, readMbox } from '#core/formats'
import { deliveredTo } from '#core/message'
import { isNarrow, pairOf, rehearseCopy, Tally } from '#core/rehearse'
import { complain, Complaint } from './complaint'
import { eachFile } from './files'
import { policyFrom } from './policy-file'

type Judgement = 'wanted' | 'unwanted'

/** One copy of a message in a file, as far as a file says of it. */
interface FileCopy {
  name: string
  message: Message
  recipient: string
}

/** sober-gate rehearse: see help.ts. */
export async function rehearseCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      before: { type: 'string' },
      after: { type: 'string' },
      judgements: { type: 'string' },
      recipient: { type: 'string' },
      now: { type: 'string' },
    },
  })
  if (!values.before || !values.after) throw new Complaint('Say which policies: --before P1.json --after P2.json')
  if (values.now !== undefined && Number.isNaN(Date.parse(values.now)))
    throw new Complaint(`“${values.now}” is not an instant; write it as 2026-11-24T09:00:00Z.`)
  const [before, after] = [await policyFrom(values.before), await policyFrom(values.after)]
  mustBeOfTheSame(before, after)
  const judged = values.judgements === undefined ? new Map<string, Judgement>() : await judgementsFrom(values.judgements)
  const now = new Date(values.now ?? Date.now()).toISOString()
  const indexed = IndexedPolicy.build(before)
  const net = differences(before, after)
  const pair = pairOf(indexed, net)
  const tally = new Tally(isNarrow(net))
  const names: string[] = []
  const earlier = new Map<string, { earlier: number, earlierStopped: number }>()
  let delivered = 0
  let forNobody = 0
  await eachFile(positionals, async (bytes, file) => {
    for (const one of messagesIn(bytes, file)) {
      const found = await copiesOf(one, indexed, values.recipient).catch((error: unknown) => void complain(one.name, error))
      if (!found?.length) forNobody++
      for (const copy of found ?? []) look(copy)
    }
  })
  const { sample, ...report } = tally.report({ looked: names.length, delivered, inScope: names.length, unknown: 0, complete: true })
  process.stdout.write(`${JSON.stringify({ ...report, forNobody, sample: sample.map(i => names[i]) }, null, 2)}\n`)

  function look({ name, message, recipient }: FileCopy): void {
    const id = names.push(name) - 1
    const both = rehearseCopy(message, recipient, pair, now)
    const was = both?.before ?? decide(message, recipient, pair.before, { now })
    const sender = message.content.from[0]
    const key = sender?.key ?? ''
    const seen = earlier.get(key) ?? { earlier: 0, earlierStopped: 0 }
    if (both) {
      tally.add(
        {
          id,
          lane: was.lane,
          quarantine: was.quarantine,
          byHand: false,
          reader: recipient,
          sender: key,
          senderDomain: sender?.registrable ?? sender?.domain ?? '',
          judgement: judgementOf(judged, message, recipient),
          implied: false,
          opened: false,
          verified: message.attempt.authentication.verdict === 'pass',
          ...seen,
        },
        both.before,
        both.after,
      )
    }
    if (isDelivered(was.lane)) delivered++
    earlier.set(key, { earlier: seen.earlier + 1, earlierStopped: seen.earlierStopped + (isDelivered(was.lane) ? 0 : 1) })
  }
}

// What is not a clause is no change of the policy, and would make every figure mean something else.
function mustBeOfTheSame(before: Policy, after: Policy): void {
  for (const part of ['people', 'departments', 'trust'] as const)
    if (!isSame(before[part], after[part])) throw new Complaint(`The two policies differ in “${part}”; only lists, rules and the like may differ.`)
}

function* messagesIn(bytes: Uint8Array, file: string): Generator<{ bytes: Uint8Array, name: string }> {
  if (!looksLikeMbox(bytes)) return yield { bytes, name: file }
  let number = 0
  for (const { message } of readMbox(bytes)) yield { bytes: message, name: `${file}#${++number}` }
}

async function copiesOf(
  { bytes, name }: { bytes: Uint8Array, name: string },
  { compiled }: IndexedPolicy,
  said: string | undefined,
): Promise<FileCopy[]> {
  const content = await parseContent(bytes)
  const recipients = said === undefined ? deliveredTo(content.headers) : [said]
  const ours = said === undefined ? recipients.filter(r => peopleOf(compiled, makeAddress(r)).length) : recipients
  const returnPath = content.headers.find(h => h.name.toLowerCase() === 'return-path')?.value
  return [...new Set(ours)].map((recipient) => {
    const envelope = {
      mailFrom: /<([^<>]*)>/.exec(returnPath ?? '')?.[1] ?? null,
      rcptTo: [recipient],
      client: null,
      helo: null,
      tls: false,
      user: null,
      receivedAt: content.date ?? new Date(0).toISOString(),
    }
    return { name, recipient, message: { content, attempt: readAttempt(content, envelope, compiled.policy.trust) } }
  })
}

async function judgementsFrom(file: string): Promise<Map<string, Judgement>> {
  const text = await readFile(file, 'utf8').catch(() => {
    throw new Complaint(`${file} cannot be read.`)
  })
  let rows: Record<string, string>[]
  try {
    const columns = (names: string[]) => names.map(n => n.trim().toLowerCase())
    rows = parse(text, { columns, bom: true, trim: true, skip_empty_lines: true })
  }
  catch (error) {
    throw new Complaint(`${file} is not CSV: ${error instanceof Error ? error.message : String(error)}`)
  }
  const out = new Map<string, Judgement>()
  for (const [i, row] of rows.entries()) {
    const { 'message-id': id, judgement, recipient = '' } = row
    if (!id || (judgement !== 'wanted' && judgement !== 'unwanted'))
      throw new Complaint(`${file}, line ${i + 2}: a message-id and “wanted” or “unwanted” are expected.`)
    out.set(keyOf(id, recipient), judgement)
  }
  return out
}

function judgementOf(judged: ReadonlyMap<string, Judgement>, { content }: Message, recipient: string): Judgement | null {
  const id = content.messageId ?? ''
  return judged.get(keyOf(id, recipient)) ?? judged.get(keyOf(id, '')) ?? null
}

function keyOf(id: string, recipient: string): string {
  return `${id.replace(/^<|>$/g, '')} ${recipient ? makeAddress(recipient).key : ''}`
}
