// What a rule's sheet is told: what each part of it does, its record, a message tried under it; and a test message that is really sent.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { putRule, rule } from '../support/clauses'
import { type Caller, signIn } from '../support/http'
import { install, type Installation, MEDIUM, receive } from '../support/installation'
import { addressOf, ownerOf, personOf } from '../support/office'
import { until } from '../support/wait'

const WORKER = ownerOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'sheet', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const total = (j: Row) => j.wanted + j.unwanted + j.unmarked

describe('the parts of a rule on its sheet', () => {
  it('count what a plain look at the subjects counts, by judgement', async () => {
    const when = { phrases: ['newsletter', 'invoice', 'zzyzx'], where: ['subject'] }
    const { body } = await admin('POST', '/api/impact/parts', { changes: [putRule('tried', { when })] })
    for (const part of body.parts as Row[]) {
      expect([part.phrase, part.catches]).toEqual([part.phrase, await gate.ask.marksOfWord(part.phrase)])
    }
    expect(total(body.parts[0].catches)).toBeGreaterThan(0)
    expect(body.parts[2].catches).toEqual({ wanted: 0, unwanted: 0, unmarked: 0 })
  })

  it('of what is beyond a worker’s power count their own mail; of another’s own rule nothing', async () => {
    const when = { any: [{ phrases: ['the'] }, { phrases: ['a'] }] }
    const { body } = await worker('POST', '/api/impact/parts', { changes: [putRule('tried', { when })] })
    expect(body.looked).toBe(await gate.ask.countCopies({ person: personOf('worker') }))
    const colleagues = putRule('tried', { when, owner: ownerOf('reviewer') })
    expect((await worker('POST', '/api/impact/parts', { changes: [colleagues] })).status).toBe(403)
    expect((await worker('POST', '/api/impact/parts', { changes: [{ type: 'remove', kind: 'rule', id: 'fee-demands' }] })).status).toBe(422)
  })

  it('of a phrase set are its phrases; somebody who does not see it is told nothing', async () => {
    const { body: made } = await admin(
      'POST',
      '/api/phrase-sets',
      { name: 'Counted', owner: 'organisation', phrases: ['invoice', 'zzyzx'] },
    )
    const { body } = await admin('GET', `/api/phrase-sets/${made.id}/stats`)
    expect(body.parts.map((p: Row) => [p.phrase, total(p.catches) > 0])).toEqual([['invoice', true], ['zzyzx', false]])
    const { body: mine } = await worker('GET', `/api/phrase-sets/${made.id}/stats`)
    expect(mine.looked).toBeLessThan(body.looked)
    const { body: own } = await admin('POST', '/api/phrase-sets', { name: 'Own', owner: ownerOf('admin'), phrases: ['invoice', 'b'] })
    expect((await worker('GET', `/api/phrase-sets/${own.id}/stats`)).status).toBe(404)
  })
})

describe('the record of a rule', () => {
  it('says what it would have done while it watched, by lane and judgement, as its rulings say', async () => {
    const { body: made } = await admin(
      'POST',
      '/api/rules',
      rule('Watcher', { state: 'monitor', when: { phrases: ['zebra crossing'] } }),
    )
    const subjects = ['zebra crossing one', 'zebra crossing two', 'zebra crossing three']
    for (const subject of subjects)
      await receive(gate, { from: 'a@zebra.test', subject })
    await gate.ask.changeCopies({ subject: subjects[0] }, { judgement: 'wanted' })
    const { stats, lastHit } = (await admin('GET', `/api/rules/${made.id}`)).body
    expect(stats).toMatchObject(
      { hits: 3, monitoringSince: expect.any(String), would: [{ from: 'inbox', to: 'spam', wanted: 1, unwanted: 0, unmarked: 2 }] },
    )
    expect(lastHit).toBe(stats.lastHit)
  })

  it('says where it stands, and what comes before it and takes how many of its copies', async () => {
    const first = (await admin(
      'POST',
      '/api/rules',
      rule('Taker', { when: { phrases: ['yak'] }, claims: [{ stop: { to: 'bin' } }] }),
    )).body
    const second = (await admin('POST', '/api/rules', rule('Late', { when: { phrases: ['yak', 'gnu'] } }))).body
    for (const subject of ['a yak', 'one more yak', 'a gnu'])
      await receive(gate, { from: 'a@zoo.test', subject })
    const { stats } = (await admin('GET', `/api/rules/${second.id}`)).body
    expect(stats.takenBy).toEqual([{ clause: { kind: 'rule', id: first.id, name: 'Taker' }, copies: 2 }])
    expect([stats.hits, stats.place, stats.of]).toEqual([3, stats.of, stats.of])
  })

  it('names a colleague’s own clause to nobody, and only says that somebody’s came first', async () => {
    const own = (await worker('POST', '/api/rules', rule('My secret okapi', { owner: WORKER, when: { phrases: ['okapi'] } }))).body
    const late = (await admin(
      'POST',
      '/api/rules',
      rule('Okapis', { when: { phrases: ['okapi'] }, claims: [{ stop: { to: 'bin' } }] }),
    )).body
    await receive(gate, { from: 'a@zoo.test', subject: 'an okapi' })
    const result = await admin('GET', `/api/rules/${late.id}`)
    expect(result.body.stats.takenBy).toEqual([{ clause: null, copies: 1 }])
    expect(JSON.stringify(result.body)).not.toContain('secret okapi')
    expect((await worker('GET', `/api/rules/${own.id}`)).body.stats.hits).toBe(1)
  })

  it('a mend stands beside its finding, and applied takes it away', async () => {
    const { body: made } = await admin('POST', '/api/rules', rule('Nested', { when: { phrases: ['ibis', 'sacred ibis'] } }))
    const line = async () => ((await admin('GET', '/api/rules')).body.items as Row[]).find(r => r.id === made.id)!
    const isFound = async () => (await line()).findings.some((f: Row) => f.kind === 'phrase inside another')
    await until('the phrase inside another is found', isFound)
    const { change } = (await line()).findings[0]
    const { status } = await admin('POST', '/api/changes', { base: (await line()).version, changes: change, coming: true })
    expect(status).toBe(200)
    await until('nothing is found any more', async () => !(await line()).findings.length)
    expect((await line()).when).toEqual({ phrases: ['ibis'] })
  })
})

describe('a message that is tried', () => {
  const message = { recipient: addressOf('worker'), from: 'a@quagga.test', subject: 'a quagga', text: 'x', authentication: 'none' }

  it('is decided under a sheet that is not saved, beside what is in force; nothing of it is kept', async () => {
    const before = await gate.ask.countCopies()
    const changes = [putRule('tried', { when: { phrases: ['quagga'] }, state: 'monitor' })]
    const { body } = await admin('POST', '/api/dry-run', { ...message, changes })
    expect([body.decision.lane, body.under.decision.lane]).toEqual(['inbox', 'spam'])
    expect(body.under.decision.reasons.at(-1)).toMatchObject({ outcome: { kind: 'decided' }, clause: { name: 'tried' } })
    expect(await gate.ask.countCopies()).toBe(before)
    expect((await admin('POST', '/api/dry-run', message)).body.under).toBeNull()
  })

  it('under changes that are not theirs is a worker’s to try, as far as they could propose them', async () => {
    const changes = [putRule('tried', { when: { phrases: ['quagga'] } })]
    expect((await worker('POST', '/api/dry-run', { ...message, changes })).body.under.decision.lane).toBe('spam')
    const others = [putRule('tried', { when: { phrases: ['quagga'] }, owner: ownerOf('reviewer') })]
    expect((await worker('POST', '/api/dry-run', { ...message, changes: others })).status).toBe(403)
    expect((await admin('POST', '/api/dry-run', { ...message, changes: [{ put: 'nonsense' }] })).status).toBe(422)
  })

  it('really sent comes in by SMTP, and is followed to where it lies', async () => {
    const { authentication: _, ...sent } = message
    const { body } = await worker('POST', '/api/dry-run/send', { ...sent, subject: 'really sent' })
    expect(body).toMatchObject({ accepted: true, reply: expect.stringMatching(/^250 /), copy: { subject: 'really sent', lane: 'inbox' } })
    expect(body.took).toBeGreaterThan(0)
    expect(await gate.ask.attempts({ copy: body.copy.id })).toMatchObject([{ client: '127.0.0.1', source: 'smtp' }])
  })

  it('turned away at the door says with which reply, and that nothing is here', async () => {
    await admin(
      'POST',
      '/api/rules',
      rule('No dodos', { when: { phrases: ['dodo'] }, claims: [{ stop: { to: 'refuse', reply: 'no dodos here' } }] }),
    )
    const sent = { recipient: addressOf('worker'), from: 'a@b.test', subject: 'a dodo', text: '' }
    const { body } = await admin('POST', '/api/dry-run/send', sent)
    expect(body).toMatchObject({ accepted: false, reply: expect.stringContaining('no dodos here') })
    expect(body.copy === null || body.copy.lane === 'refused').toBe(true)
  })

  it('is sent to nobody else by a worker, and to nobody who is not here', async () => {
    const to = (recipient: string) => ({ recipient, from: 'a@b.test', subject: 's', text: 't' })
    expect((await worker('POST', '/api/dry-run/send', to(addressOf('admin')))).status).toBe(403)
    expect((await worker('POST', '/api/dry-run/send', { ...to(addressOf('worker')), from: 'nobody' })).status).toBe(422)
    expect((await admin('POST', '/api/dry-run/send', to('stranger@elsewhere.test'))).body.accepted).toBe(false)
    // A name that would be a header of its own is none.
    const odd = await worker(
      'POST',
      '/api/dry-run/send',
      { ...to(addressOf('worker')), subject: 'x\r\nBcc: admin@x.test', from: 'A <a@b.test>' },
    )
    expect(odd.status === 422 || odd.body.copy.subject.includes('Bcc')).toBe(true)
  })
})
