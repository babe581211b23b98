import { parseArgs } from 'node:util'
import isSame from 'fast-deep-equal'
import { decide, IndexedPolicy, isDelivered, type Policy } from '#core'
import { differences } from '#core/change'
import { isNarrow, pairOf, simulateCopy, ImpactCounter } from '#core/simulate'
import { eachCopy, judgementOf, judgementsFrom, type FileCopy } from './archive'
import { Complaint } from './complaint'
import { instantFrom } from './instant'
import { policyFrom } from './policy-file'

/** sober-gate simulate: see help.ts. */
export async function simulateCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      'before': { type: 'string' },
      'after': { type: 'string' },
      'judgements': { type: 'string' },
      'recipient': { type: 'string' },
      'now': { type: 'string' },
      'trust-received': { type: 'boolean' },
    },
  })
  if (!values.before || !values.after) throw new Complaint('Name the policies: --before P1.json --after P2.json')
  const [before, after] = [await policyFrom(values.before), await policyFrom(values.after)]
  mustBeOfTheSame(before, after)
  const marked = values.judgements === undefined ? new Map() : await judgementsFrom(values.judgements)
  const now = instantFrom(values.now)
  const indexed = IndexedPolicy.build(before)
  const net = differences(before, after)
  const pair = pairOf(indexed, net)
  const counter = new ImpactCounter(isNarrow(net))
  const names: string[] = []
  const earlier = new Map<string, { earlier: number, earlierStopped: number }>()
  let delivered = 0
  const forNobody = await eachCopy(positionals, { indexed, said: values.recipient, trustReceived: values['trust-received'] === true }, look)
  const { sample, ...report } = counter.report({
    looked: names.length,
    inScope: names.length,
    delivered,
    stopped: names.length - delivered,
    unknown: 0,
  })
  process.stdout.write(`${JSON.stringify({ ...report, forNobody, sample: sample.map(i => names[i]) }, null, 2)}\n`)

  function look({ name, message, recipient }: FileCopy): void {
    const id = names.push(name) - 1
    const both = simulateCopy(message, recipient, pair, now)
    const was = both?.before ?? decide(message, recipient, pair.before, { now })
    const sender = message.content.from[0]
    const key = sender?.key ?? ''
    const seen = earlier.get(key) ?? { earlier: 0, earlierStopped: 0 }
    if (both) {
      counter.add(
        {
          id,
          lane: was.lane,
          quarantine: was.quarantine,
          byHand: false,
          recipient: recipient,
          sender: key,
          senderDomain: sender?.registrable ?? sender?.domain ?? '',
          judgement: judgementOf(marked, message, recipient),
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
    if (!isSame(before[part], after[part]))
      throw new Complaint(`The two policies differ in “${part}”; only lists, rules, phrase sets, quarantines and thresholds can differ.`)
}
