import { parseArgs } from 'node:util'
import { makeAddress, normaliseIp } from '#core'
import { Complaint } from './complaint'
import { eachFile, printAnswer } from './files'
import { instantFrom } from './instant'
import { policyFrom } from './policy-file'
import { ask } from './read'

/** sober-gate decide: see help.ts. */
export async function decideCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      'policy': { type: 'string' },
      'recipient': { type: 'string' },
      'mail-from': { type: 'string' },
      'client': { type: 'string' },
      'now': { type: 'string' },
      'score': { type: 'string' },
    },
  })
  if (!values.policy) throw new Complaint('Name the policy: --policy P.json')
  if (!values.recipient) throw new Complaint('Name the recipient: --recipient ADDRESS')
  const recipient = makeAddress(values.recipient)
  if (!recipient.local || !recipient.domain)
    throw new Complaint(`“${values.recipient}” is not a complete address; write it as name@domain.`)
  if (values.client !== undefined && normaliseIp(values.client) === null) throw new Complaint(`“${values.client}” is not an IP address.`)
  const score = values.score === undefined ? undefined : Number(values.score)
  if (Number.isNaN(score)) throw new Complaint(`“${values.score}” is not a number.`)
  const now = instantFrom(values.now)
  const policy = await policyFrom(values.policy)
  const envelope = {
    mailFrom: values['mail-from'] ?? null,
    rcptTo: [values.recipient],
    client: values.client ?? null,
    helo: null,
    tls: false,
    user: null,
    receivedAt: now,
  }
  const question = { decide: { policy, recipient: values.recipient, envelope, now, ...(score === undefined ? {} : { score }) } }
  await eachFile(positionals, async (bytes, file) => printAnswer(file, await ask(bytes, question)))
}
