import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { callerFor, install, type Caller, type Installation } from './support/installation'

let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'findings', { SOBER_GATE_DEMO_MESSAGES: '240' })
  admin = await callerFor(gate.url, 'admin@saltmere-harbour.example')
  worker = await callerFor(gate.url, 'worker@saltmere-harbour.example')
  // Mail has been on record for long, two entries are older still, and everything was judged wanted.
  await gate.database.query(
    'update attempts set at = now() - interval \'400 days\' where id = (select min(id) from attempts)',
  )
  await gate.database.query(
    'update entries set added_at = now() - interval \'500 days\' where list_id = \'speculators\' and value in (\'rye-desk.test\', '
    + '\'barley-alert.test\', \'grain-outlook.test\')',
  )
  await gate.database.query('update copies set judgement = \'wanted\', judgement_strength = \'said\'')
})
afterAll(() => gate.stop())

type Found = { kind: string, evidence: string, clause: { entry?: string } }
const kinds = (found: Found[]) => found.map(f => f.kind).sort()

describe('the demo', () => {
  it('what colleagues send from the office network is internal', async () => {
    const { rows } = await gate.database.query(
      'select distinct direction from attempts where client = \'198.51.100.140\'',
    )
    expect(rows).toEqual([{ direction: 'internal' }])
    expect((await admin('GET', '/api/policy')).body.trust).toMatchObject({
      ownNetworks: ['198.51.100.128/25'],
      publicProviders: ['letterpost.test', 'post-box.test'],
    })
  })
})

describe('findings: what mail has shown of a policy would stay unnoticed, or be told to those it is not for', () => {
  it('an entry that has matched nothing for 180 days, and one that a wider one covers', async () => {
    // The checks run beside: on a busy machine there are none for a while.
    const told = async () => (await admin('GET', '/api/lists/speculators')).body.findings as Found[]
    await expect.poll(async () => kinds(await told()), { timeout: 120_000 }).toEqual(['entry covered by a wider one', 'unused for long'])
    const findings = await told()
    const [unused] = findings.filter((f: Found) => f.kind === 'unused for long')
    const [row] = (await gate.database.query('select value from entries where id = $1', [unused!.clause.entry])).rows
    expect([row.value, unused!.evidence]).toEqual([
      'barley-alert.test',
      expect.stringMatching(/^it has matched nothing since \d{4}-/),
    ])
  })
  it('a phrase that stands in many wanted copies, with the numbers of its owner’s mail', async () => {
    const rule = (await admin('GET', '/api/rules/fee-demands')).body
    const [broad] = rule.findings.filter((f: Found) => f.kind === 'phrase too broad')
    const [, phrase, hits, wanted] = /^“(.*)” stands in (\d+) of (\d+) wanted copies$/.exec(broad.evidence)!
    const count = async (query: string, ...values: unknown[]) =>
      Number((await gate.database.query(query, values)).rows[0].n)
    expect(Number(wanted)).toBe(await count('select count(*) n from copies'))
    expect(Number(hits)).toBe(
      await count(
        'select count(*) n from copies c join rulings r on r.id = c.ruling_id where exists (select from jsonb_array_elements(r.reasons) '
        + 'x where x->\'clause\'->>\'id\' = \'fee-demands\' and x->\'fate\'->>\'kind\' <> \'excepted\' and x::text like $1)',
        `%"phrase": "${phrase}"%`,
      ),
    )
  })
  it('a worker hears what is wrong with a clause, and not what other people’s mail has shown', async () => {
    expect((await worker('GET', '/api/rules/fee-demands')).body.findings).toEqual([])
    expect(kinds((await worker('GET', '/api/lists/speculators')).body.findings)).toEqual([
      'entry covered by a wider one',
    ])
    expect(kinds((await worker('GET', '/api/lists/my-partners')).body.findings)).toEqual(['counts unverified'])
  })
})
