import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { type Caller, signIn } from '../support/http'
import { install, type Installation, MEDIUM } from '../support/installation'
import { until } from '../support/wait'

let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'findings', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  // Mail has been on record for long, two entries are older still, and everything was marked wanted.
  await gate.ask.ageFirstAttempt(400)
  await gate.ask.ageEntries('speculators', ['rye-desk.test', 'barley-alert.test', 'grain-outlook.test'], 500)
  await gate.ask.changeCopies({}, { judgement: 'wanted', judgementStrength: 'said' })
})
afterAll(() => gate.stop())

type Found = { kind: string, evidence: string, clause: { entry?: string } }
const kinds = (found: Found[]) => found.map(f => f.kind).sort()

describe('the demo', () => {
  it('what colleagues send from the office network is internal', async () => {
    expect(await gate.ask.directionsOf('198.51.100.140')).toEqual(['internal'])
    expect((await admin('GET', '/api/policy')).body.trust).toMatchObject({
      ownNetworks: ['198.51.100.128/25'],
      publicProviders: expect.arrayContaining(['gmail.com', 'letterpost.test', 'post-box.test']),
    })
  })
})

describe('findings: what mail has shown of a policy would stay unnoticed, or be told to those it is not for', () => {
  it('an entry that has matched nothing for 180 days, and one that a wider one covers', async () => {
    // The checks run beside: on a busy machine there are none for a while.
    const result = async () => (await admin('GET', '/api/lists/speculators')).body.findings as Found[]
    const expected = ['entry covered by a wider one', 'unused']
    await until('both findings are told', async () => kinds(await result()).join() === expected.join())
    const findings = await result()
    const [unused] = findings.filter((f: Found) => f.kind === 'unused')
    expect([(await gate.ask.entry(unused!.clause.entry!)).value, unused!.evidence]).toEqual([
      'barley-alert.test',
      expect.stringMatching(/^no matches since \d+ \w+ \d{4}$/),
    ])
  })
  it('a phrase that stands in many wanted copies, with the numbers of its owner’s mail', async () => {
    const rule = (await admin('GET', '/api/rules/fee-demands')).body
    const [broad] = rule.findings.filter((f: Found) => f.kind === 'phrase matches wanted mail')
    const [, phrase, hits, wanted] = /^“(.*)” was found in (\d+) of (\d+) wanted messages$/.exec(broad.evidence)!
    expect(Number(wanted)).toBe(await gate.ask.countCopies())
    expect(Number(hits)).toBe(await gate.ask.countFound('fee-demands', phrase!))
  })
  it('a worker hears what is wrong with a clause, and not what other people’s mail has shown', async () => {
    expect((await worker('GET', '/api/rules/fee-demands')).body.findings).toEqual([])
    expect(kinds((await worker('GET', '/api/lists/speculators')).body.findings)).toEqual([
      'entry covered by a wider one',
    ])
    expect(kinds((await worker('GET', '/api/lists/my-partners')).body.findings)).toEqual([
      // The list as a whole, and its entry for a public mailbox provider.
      'counts even if not verified',
      'counts even if not verified',
    ])
  })
})
