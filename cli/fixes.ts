import { randomUUID } from 'node:crypto'
import { parseArgs } from 'node:util'
import { decide, IndexedPolicy, isDelivered, ORGANISATION } from '#core'
import { markedAs, fixesFor, rankWords, type ArchivedCopy, type Should } from '#core/fix'
import { eachCopy, judgementOf, judgementsFrom } from './archive'
import { Complaint } from './complaint'
import { instantFrom } from './instant'
import { policyFrom } from './policy-file'

/** sober-gate fixes: see help.ts. */
export async function fixesCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { policy: { type: 'string' }, judgements: { type: 'string' }, recipient: { type: 'string' }, now: { type: 'string' } },
  })
  if (!values.policy) throw new Complaint('Name the policy: --policy P.json')
  if (!values.judgements) throw new Complaint('Name the file of wanted and unwanted messages: --judgements CSV')
  const now = instantFrom(values.now)
  const policy = await policyFrom(values.policy)
  const marked = await judgementsFrom(values.judgements)
  const indexed = IndexedPolicy.build(policy)
  const names: string[] = []
  const archive: ArchivedCopy[] = []
  const forNobody = await eachCopy(positionals, { indexed, said: values.recipient }, ({ name, message, recipient }) => {
    archive.push({ id: names.push(name) - 1, message, recipient, judgement: judgementOf(marked, message, recipient) })
  })
  const delivered = new Map(archive.map(c => [c.id, isDelivered(decide(c.message, c.recipient, indexed, { now }).lane)]))
  const result = (should: Should) => {
    const isWrong = (id: number) => delivered.get(id) !== (should === 'delivered')
    const wrong = archive.filter(c => c.judgement === markedAs(should) && isWrong(c.id))
    const owners = [{ owner: ORGANISATION, name: 'the whole organisation' }]
    const fixes = fixesFor(policy, wrong.map(c => ({ ...c, should })), { archive, owners, id: randomUUID, now })
    return {
      copies: wrong.map(c => names[c.id]),
      fixes: fixes.map(({ sentence, changes, fixes, price, impact: { sample, ...impact }, ...rest }) => ({
        sentence,
        why: rankWords({ ...rest, fixes, price }, should, wrong.length),
        fixes,
        harm: price.harm,
        changes,
        impact: { ...impact, sample: sample.map(i => names[i]) },
      })),
    }
  }
  process.stdout.write(`${JSON.stringify({ falsePositives: result('delivered'), missed: result('stopped'), forNobody }, null, 2)}\n`)
}
