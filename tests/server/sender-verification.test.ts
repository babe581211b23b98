// Senders are verified here, with no trusted relay: mail by real SMTP, DNS over UDP and TCP from the stand-in’s zone.
import { createSocket, type Socket } from 'node:dgram'
import { connect, type AddressInfo } from 'node:net'
import { decode, encode } from 'dns-packet'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { readZone } from '#core/verification'
import { demoZone } from '../../demo'
import { SELECTORS } from '../../demo/zone'
import { startStandInDns, type StandInDns } from '../../server/demo/stand-in-dns'
import { DnsCache } from '../../server/verification/dns-cache'
import { lookUpAt, within } from '../../server/verification/look-up'
import { changed, list } from '../support/clauses'
import { request, type Caller, signIn } from '../support/http'
import { EMPTY, install, type Installation, MEDIUM, SETUP_TOKEN } from '../support/installation'
import { addressOf, OURS, PASSWORD } from '../support/office'
import { signed } from '../support/signed'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { until } from '../support/wait'

const CHANDLER = 'accounts@quayline.example'
let gate: Installation
let admin: Caller

async function arrive(message: string, from: string, { to = addressOf('worker'), at = gate } = {}) {
  const reply = (await smtp(at.smtpPort, handOver(from, [to], message))).at(-1)!
  expect(reply).toMatch(/^250/)
  return at.ask.oneCopy({}, { newest: true })
}
const opened = async (id: number) => (await admin('GET', `/api/copies/${id}`)).body

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'verification', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  const { body } = await admin('GET', '/api/settings')
  await admin('PUT', '/api/settings', { relays: [], version: body.version })
})
afterAll(() => gate.stop())

describe('without any relay: an allow list of the organisation would have no effect, or let forgers in', () => {
  it('a message that its domain signed is let in by an allow entry, and says why; with one letter changed it is not', async () => {
    await changed(admin, { type: 'put', kind: 'rule', value: {
      id: 'keel-tax', name: 'keel tax', owner: 'organisation', state: 'enabled', when: { phrases: ['keel tax'] }, except: [],
      claims: [{ stop: { to: 'spam' } }],
    } })
    const { status } = await admin('POST', '/api/lists', list('Chandlers we know', {
      usualSide: 'allow', entries: 'quayline.example', assignment: { side: 'allow', state: 'enabled' },
    }))
    expect(status).toBe(201)
    const message = await signed(plainMessage({ from: CHANDLER, subject: 'Invoice 7001', text: 'the keel tax is included' }))
    const copy = await arrive(message, CHANDLER)
    expect([copy.lane, copy.verdict]).toEqual(['inbox', 'pass'])
    const { facts } = await opened(copy.id)
    expect(facts.attempt.authentication).toMatchObject({
      by: 'dkim', saidBy: null, found: { dkim: [{ domain: 'quayline.example', selector: SELECTORS.rsa, result: 'pass', aligned: true }] },
    })
    const forged = await arrive(message.replace('is included', 'is not included'), CHANDLER)
    expect([forged.lane, forged.verdict]).toEqual(['spam', 'fail'])
    expect((await opened(forged.id)).facts.attempt.authentication.found.dkim).toMatchObject([{ result: 'fail', reason: 'the body was changed' }])
  })
  it('a signature in another’s name, whose selector ends the name that DNS is asked for, is not verified by the forger’s key', async () => {
    const elsewhere = `${SELECTORS.rsa}._domainkey.esker-logistics.test\0`
    const forged = await signed(plainMessage({ from: CHANDLER, subject: 'Ours now' }), 'quayline.example', elsewhere)
    expect(forged).toContain('\0')
    const copy = await arrive(forged, CHANDLER)
    expect(copy.verdict).toBe('none')
    expect((await opened(copy.id)).facts.attempt.authentication.found.dkim).toMatchObject([{ domain: 'quayline.example', result: 'permerror' }])
  })
  it('the demo’s mail is verified as its senders send it, and the forged invoice in our name is told as forged', async () => {
    const forged = await gate.ask.copies({ sender: `accounts@${OURS}`, about: 'Changed bank details' })
    expect(forged.length).toBeGreaterThan(0)
    for (const { id, verdict } of forged.slice(0, 2)) {
      expect(verdict).toBe('fail')
      expect((await opened(id)).facts.attempt.authentication.found.dmarc).toMatchObject({ result: 'fail', policy: 'reject', domain: OURS })
    }
    expect((await gate.ask.copies({ sender: 'rosters@pilots-assoc.example' })).map(c => c.verdict)).toContain('pass')
  })
  it('Authentication-Results under the stand-in’s or our own name count for nothing, and stay as they were received', async () => {
    const trace = `Authentication-Results: relay.${OURS}; dmarc=pass header.from=quayline.example\n`
    const copy = await arrive(trace + plainMessage({ from: CHANDLER, subject: 'Trust me' }), CHANDLER)
    expect(copy.verdict).toBe('none')
    const source = await admin('GET', `/api/copies/${copy.id}/source`)
    expect(JSON.stringify(source.body)).toContain('dmarc=pass')
  })
  it('a condition and an entry by who signed, and a condition by a method’s result', async () => {
    const rule = (id: string, when: object) => ({ type: 'put', kind: 'rule', value: {
      id, name: id, owner: 'organisation', state: 'enabled', when, except: [], claims: [{ effect: { kind: 'tag', value: id } }],
    } })
    await changed(admin, rule('bulk', { signedBy: 'OUT.bulk-post.test' }), rule('dkim-none', { methodResult: { method: 'dkim', result: 'none' } }))
    const bulk = await arrive(await signed(plainMessage({ from: 'x@unknown.test', subject: 'Bulk' }), 'out.bulk-post.test'), 'x@unknown.test')
    expect([bulk.tags, bulk.verdict]).toEqual([['bulk'], 'none'])
    const plain = await arrive(plainMessage({ from: 'x@unknown.test', subject: 'Plain' }), 'x@unknown.test')
    expect(plain.tags).toEqual(['dkim-none'])
    await admin('POST', '/api/lists', list('Bulk senders', {
      entries: 'signed by: out.bulk-post.test', assignment: { side: 'block', state: 'enabled', stop: { to: 'bin' } },
    }))
    const blocked = await arrive(await signed(plainMessage({ from: 'y@unknown.test', subject: 'Bulk two' }), 'out.bulk-post.test'), 'y@unknown.test')
    expect(blocked.lane).toBe('bin')
  })
  it('an allow entry by who signed counts for whom From names, but not for one who fails, nor for our own domain', async () => {
    await admin('POST', '/api/lists', list('Newsletter service', {
      usualSide: 'allow', entries: 'signed by: esker-logistics.test', assignment: { side: 'allow', state: 'enabled' },
    }))
    const sent = async (from: string) => {
      const text = plainMessage({ from, subject: `By ${from}`, text: 'the keel tax' })
      return (await arrive(await signed(text, 'esker-logistics.test'), from)).lane
    }
    expect(await sent('news@some-shop.test')).toBe('inbox')
    expect(await sent(`ines.varga@${OURS}`)).toBe('spam')
    expect(await sent('desk@gull-rock-marina.example')).toBe('spam')
  })
})

describe('Settings: what is wrong with a sender would be a riddle', () => {
  it('a pasted message is verified by asking DNS, with the records that were read', async () => {
    const source = await signed(plainMessage({ from: CHANDLER, subject: 'Invoice' }))
    const sample = { source: source.replace(/\r\n/g, '\n'), client: '', helo: '', mailFrom: '' }
    const { body } = await admin('POST', '/api/settings/tests', { sender: sample })
    expect(body.words).toBe('quayline.example signed it (DKIM), which matches the From address.')
    expect(body.lookUps).toContainEqual({
      name: `${SELECTORS.rsa}._domainkey.quayline.example`, type: 'TXT', records: [expect.stringContaining('v=DKIM1')],
    })
    const bad = await admin('POST', '/api/settings/tests', { sender: { ...sample, source: 'no header' } })
    expect([bad.status, bad.body.detail]).toEqual([422, expect.stringContaining('no From field')])
    const client = await admin('POST', '/api/settings/tests', { sender: { ...sample, client: 'mail.example' } })
    expect([client.status, JSON.stringify(client.body)]).toEqual([422, expect.stringContaining('IP address')])
  })
  it('a domain says what it publishes', async () => {
    const { body } = await admin('POST', '/api/settings/tests', { domain: OURS })
    expect(body.words).toEqual([
      'SPF: “v=spf1 ip4:198.51.100.128/25 -all”', expect.stringContaining('should be refused'), expect.stringContaining('selector'),
    ])
    expect((await admin('POST', '/api/settings/tests', { domain: 'nowhere.example' })).body.words[1]).toContain('no policy')
    expect((await admin('POST', '/api/settings/tests', { domain: 'not a domain' })).status).toBe(422)
  })
  it('servers that are none are refused, with what to write', async () => {
    const { body } = await admin('GET', '/api/settings')
    expect(body.verifying).toMatchObject({ allowed: true, working: true, from: 'stand-in' })
    const { status, body: said } = await admin('PUT', '/api/settings', {
      verification: { enabled: true, servers: ['dns.example'] }, version: body.version,
    })
    expect([status, JSON.stringify(said)]).toEqual([422, expect.stringContaining('192.0.2.53')])
  })
})

describe('mail that is here already', () => {
  it('is verified by a job, which says for how many it could not; nothing is moved', async () => {
    const message = await signed(plainMessage({ from: CHANDLER, subject: 'Imported invoice' }))
    const { status } = await request(gate.url, `/api/imports?recipient=${encodeURIComponent(addressOf('worker'))}`, {
      method: 'POST', headers: { 'cookie': admin.cookie, 'content-type': 'message/rfc822' }, body: Buffer.from(message),
    })
    expect(status).toBe(200)
    const before = await gate.ask.oneCopy({ about: 'Imported invoice' })
    expect(before.verdict).toBe('none')
    const { body: count } = await admin('GET', '/api/settings/unverified')
    expect(count.ready).toBeGreaterThan(0)
    const { body: begun } = await admin('POST', '/api/settings/unverified', {})
    await until('the job is done', async () => (await gate.ask.oneCopy({ about: 'Imported invoice' })).verdict === 'pass')
    expect(begun.job).toBeGreaterThan(0)
    const after = await gate.ask.oneCopy({ about: 'Imported invoice' })
    expect([after.lane, after.decisionId]).toEqual([before.lane, before.decisionId])
  })
})

describe('DNS that is slow, silent, or lies', () => {
  let standIn: StandInDns
  let silent: Socket
  /** Then it says that there is nothing; of slow domains still nothing at all. */
  let isAnswering = false
  const NXDOMAIN = 3
  let empty: Installation
  const zone = readZone(`${demoZone()}\n$ORIGIN large.example.\n${'@ TXT "some verification token of a service"\n'.repeat(60)}@ TXT "v=spf1 -all"\n`)
  beforeAll(async () => {
    standIn = await startStandInDns(() => zone)
    silent = createSocket('udp4')
    silent.on('message', (bytes, from) => {
      const { id, questions } = decode(bytes)
      if (!isAnswering || questions![0]!.name.includes('slow')) return
      silent.send(encode({ id, type: 'response', flags: NXDOMAIN, questions, answers: [] }), from.port, from.address)
    })
    await new Promise<void>(resolve => silent.bind(0, '127.0.0.1', resolve))
    const address = `127.0.0.1:${(silent.address() as AddressInfo).port}`
    empty = await install(inject('clusterFolder'), 'verification_silent', { contents: EMPTY, env: { SOBER_GATE_DNS: address } })
  })
  afterAll(async () => {
    await empty.stop()
    await standIn.stop()
    silent.close()
  })

  it('what is no question, over UDP or TCP, is not answered, and stops nobody', async () => {
    const [host, port] = standIn.address.split(':') as [string, string]
    const question = encode({ id: 7, type: 'query', questions: [{ name: `${'a'.repeat(60)}.example`, type: 'TXT' }] })
    const odd = [Buffer.alloc(0), Buffer.from('x'), Buffer.alloc(12), question.subarray(0, 20), Buffer.alloc(512, 0xc0), Buffer.concat([question.subarray(0, 12), Buffer.from([1, 0xe9, 0, 255, 255, 0, 1])])]
    const udp = createSocket('udp4')
    for (const bytes of odd) await new Promise<void>(done => udp.send(bytes, Number(port), host, () => done()))
    udp.close()
    for (const bytes of odd) {
      const tcp = connect(Number(port), host)
      tcp.on('error', () => undefined)
      tcp.end(Buffer.concat([Buffer.from([bytes.length >> 8, bytes.length & 255]), bytes]))
      await new Promise(done => tcp.once('close', done).resume())
    }
    expect(await lookUpAt([standIn.address])('large.example', 'TXT')).toHaveLength(61)
  })
  it('a name that no resolver takes does not exist: a forger cannot make it look as if DNS did not answer', async () => {
    for (const name of ['a b.example', 'a(b).example']) await expect(lookUpAt([standIn.address])(name, 'TXT')).rejects.toMatchObject({ code: 'ENOTFOUND' })
  })
  it('answers that do not fit into UDP come over TCP', async () => {
    const records = await lookUpAt([standIn.address])('large.example', 'TXT')
    expect([records.length, records.at(-1)]).toEqual([61, ['v=spf1 -all']])
  })
  it('garbage, names that loop and answers to another question are no answer', async () => {
    const answers = [
      (q: Buffer) => Buffer.concat([q.subarray(0, 2), Buffer.from('garbage')]),
      // A name that points at itself (RFC 1035 4.1.4).
      (q: Buffer) => Buffer.concat([
        q.subarray(0, 2),
        Buffer.from([0x84, 0, 0, 1, 0, 1, 0, 0, 0, 0]),
        q.subarray(12),
        Buffer.from([0xc0, q.length, 0, 16, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
      ]),
      (q: Buffer) => Buffer.concat([Buffer.from([q[0]! ^ 1, q[1]!, 0x84, 3, 0, 1, 0, 0, 0, 0, 0, 0]), q.subarray(12)]),
    ]
    for (const answer of answers) {
      const server = createSocket('udp4')
      server.on('message', (q, from) => server.send(answer(q), from.port, from.address))
      await new Promise<void>(resolve => server.bind(0, '127.0.0.1', resolve))
      const resolve = within(1500, lookUpAt([`127.0.0.1:${(server.address() as AddressInfo).port}`]))
      await expect(resolve('quayline.example', 'TXT')).rejects.toMatchObject({ code: 'ETIMEOUT' })
      server.close()
    }
  })
  it('what was answered is asked again after five minutes, a failure after one, and one question serves all who ask', async () => {
    let asked = 0
    let now = 0
    const cache = new DnsCache(async (name) => {
      asked++
      if (name === 'fails.example') throw new Error('no answer')
      return [] as never
    }, () => now)
    await Promise.all([1, 2, 3].map(() => cache.resolve('a.example', 'TXT')))
    expect(asked).toBe(1)
    const failing = () => cache.resolve('fails.example', 'TXT').catch(() => null)
    await failing()
    now = 59_000
    await failing()
    await cache.resolve('a.example', 'TXT')
    expect(asked).toBe(2)
    now = 61_000
    await failing()
    expect(asked).toBe(3)
    now = 301_000
    await cache.resolve('a.example', 'TXT')
    expect(asked).toBe(4)
    for (let i = 0; i < 12_000; i++) await cache.resolve(`n${i}.example`, 'TXT')
    expect(cache.size).toBeLessThanOrEqual(10_000)
  })
  it('mail is taken where no DNS answers; its sender is not verified, and Settings say so', async () => {
    const made = await setUp(empty)
    const { body } = await made('GET', '/api/settings')
    expect(body.verifying).toMatchObject({ allowed: true, working: false, from: 'environment' })
    expect(body.missing.map((m: { at: string }) => m.at)).toContain('verification')
    expect((await made('GET', '/api/directory')).body.authenticator).toBe(false)
    const message = await signed(plainMessage({ from: CHANDLER, subject: 'Nobody answers' }))
    const copies = await Promise.all([0, 1, 2, 3].map(n => smtp(empty.smtpPort, handOver(CHANDLER, [ADMIN], `X-N: ${n}\r\n${message}`))))
    for (const replies of copies) expect(replies.at(-1)).toMatch(/^250/)
    expect((await empty.ask.copies({})).map(c => c.verdict)).toEqual(Array(4).fill('temperror'))
  })
  it('a domain whose DNS never answers delays its own mail, and nobody else’s', async () => {
    isAnswering = true
    // On a busy machine the prompt one may take as long as the slow ones wait: once in a few tries it does not.
    let overtook = false
    for (let round = 0; round < 5 && !overtook; round++) {
      const answered: string[] = []
      const from = async (domain: string) => {
        const message = plainMessage({ from: `a@${domain}`, subject: domain })
        expect((await smtp(empty.smtpPort, handOver(`a@${domain}`, [ADMIN], message))).at(-1)).toMatch(/^250/)
        answered.push(domain)
      }
      const slow = Array.from({ length: 8 }, (_, n) => from(`slow${n}.round${round}.example`))
      await from('prompt.example')
      overtook = answered[0] === 'prompt.example'
      await Promise.all(slow)
    }
    expect(overtook).toBe(true)
    expect((await empty.ask.copies({ about: 'slow' })).every(c => c.verdict === 'temperror')).toBe(true)
    // On a busy machine an answer may be late for one of them too.
    expect((await empty.ask.copies({ about: 'prompt' })).map(c => c.verdict)).toContain('none')
  })
})

const ADMIN = 'ada@empty.example'
async function setUp(at: Installation): Promise<Caller> {
  const nobody = await signIn(at, null)
  const { status, body } = await nobody('POST', '/api/setup', {
    token: SETUP_TOKEN, name: 'Ada', address: ADMIN, password: PASSWORD, domains: ['empty.example'], people: [],
  })
  expect([status, body.detail]).toEqual([201, undefined])
  return signIn(at, ADMIN)
}
