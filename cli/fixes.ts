import { randomUUID } from 'node:crypto'
import { parseArgs } from 'node:util'
import { decide, IndexedPolicy, isDelivered, ORGANISATION } from '#core'
import { coveringPhrases, type SharedPhrase } from '#core/suggest'
import { markedAs, fixesFor, rankWords, type ArchivedCopy, type Should } from '#core/fix'
import { eachCopy, judgementOf, judgementsFrom } from './archive'
import { Complaint } from './complaint'
import { instantFrom } from './instant'
import { policyFrom } from './policy-file'

/** Delivered mail against which is held what missed messages say. */
const OTHER_MAIL = 2000

function phrasesOf(missed: readonly ArchivedCopy[], others: readonly ArchivedCopy[]): SharedPhrase[] {
  const contents = (copies: readonly ArchivedCopy[]) => copies.map(c => c.message.content)
  return coveringPhrases(contents(missed), { against: contents(others.slice(0, OTHER_MAIL)) })
}

/** sober-gate fixes: see help.ts. */
export async function fixesCommand(args: string[]): Promise<void> {
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      'policy': { type: 'string' },
      'judgements': { type: 'string' },
      'recipient': { type: 'string' },
      'now': { type: 'string' },
      'trust-received': { type: 'boolean' },
    },
  })
  if (!values.policy) throw new Complaint('Name the policy: --policy P.json')
  if (!values.judgements) throw new Complaint('Name the file of wanted and unwanted messages: --judgements CSV')
  const now = instantFrom(values.now)
  const policy = await policyFrom(values.policy)
  const marked = await judgementsFrom(values.judgements)
  const indexed = IndexedPolicy.build(policy)
  const names: string[] = []
  const archive: ArchivedCopy[] = []
  const how = { indexed, said: values.recipient, trustReceived: values['trust-received'] === true }
  const forNobody = await eachCopy(positionals, how, ({ name, message, recipient }) => {
    archive.push({ id: names.push(name) - 1, message, recipient, judgement: judgementOf(marked, message, recipient) })
  })
  const delivered = new Map(archive.map(c => [c.id, isDelivered(decide(c.message, c.recipient, indexed, { now }).lane)]))
  const result = (should: Should) => {
    const isWrong = (id: number) => delivered.get(id) !== (should === 'delivered')
    const wrong = archive.filter(c => c.judgement === markedAs(should) && isWrong(c.id))
    const owners = [{ owner: ORGANISATION, name: 'the whole organisation' }]
    const phrases = should === 'stopped' ? phrasesOf(wrong, archive.filter(c => delivered.get(c.id) && c.judgement !== 'unwanted')) : []
    const fixes = fixesFor(policy, wrong.map(c => ({ ...c, should })), {
      archive,
      owners,
      id: randomUUID,
      now,
      phrases,
      publicProviders: policy.trust.publicProviders,
    })
    return {
      copies: wrong.map(c => names[c.id]),
      fixes: fixes.map(({ sentence, changes, fixes, price, inCover, impact: { sample, ...impact }, ...rest }) => ({
        sentence,
        inCover,
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
