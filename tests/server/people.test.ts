// A real office is set up: who is here, whom we believe, and what follows from it for their mail.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { type Caller, cookiesOf, request, signIn, undo } from '../support/http'
import { changeUser, setQuarantine, userLeaves } from '../support/settings'
import { EMPTY, install, type Installation, SETUP_TOKEN } from '../support/installation'
import { daysAgo } from '../support/questions'
import { handOver, plainMessage, smtp } from '../support/smtp'
import { jobEnded } from '../support/wait'

// Another office than the demo's.
const OURS = 'holt-ropes.example'
const PASSWORD = 'quite long enough'
let gate: Installation
let admin: Caller
let nobody: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'people', { contents: EMPTY })
  nobody = await signIn(gate, null)
  const { status } = await nobody('POST', '/api/setup', {
    token: SETUP_TOKEN,
    name: 'Mira Holt',
    address: `mira@${OURS}`,
    password: PASSWORD,
    domains: [OURS],
    people: [],
  })
  expect(status).toBe(201)
  admin = await signIn(gate, `mira@${OURS}`, PASSWORD)
})
afterAll(() => gate.stop())

const settings = async () => (await admin('GET', '/api/settings')).body
const changeSettings = async (parts: object) => admin('PUT', '/api/settings', { version: (await settings()).version, ...parts })
const person = (name: string, over: object = {}) => ({
  name,
  role: 'worker',
  addresses: [`${name.toLowerCase().replace(' ', '.')}@${OURS}`],
  ...over,
})
const put = async (name: string, over: object = {}) => {
  const answer = await admin('POST', '/api/users', person(name, over))
  expect([answer.status, answer.body.detail]).toEqual([201, undefined])
  return answer.body as { id: string, name: string, addresses: string[], shared: string[], version: number }
}
const send = (to: string, subject: string) => smtp(gate.smtpPort, handOver('a@elsewhere.example', [to], plainMessage({ subject })))

describe('what is missing is said, until it is there', () => {
  it('an empty house: alone, nothing verifies, no mail', async () => {
    const { missing, listening: port } = await settings()
    expect(missing.map((m: { at: string }) => m.at)).toEqual(['users', 'verification', 'own-domain', 'user-names', 'time-and-address', 'mail'])
    expect(missing[1].words).toContain('allow lists that count only verified senders have no effect')
    expect(port.smtp).toEqual({ host: '127.0.0.1', port: gate.smtpPort, reach: 'machine' })
  })
  it('people at a domain that is not ours are told', async () => {
    const made = await put('Far Away', { addresses: ['far@other-ropes.example'] })
    const { missing } = await settings()
    expect(missing.find((m: { at: string }) => m.at === 'domains').words).toContain('far@other-ropes.example')
    await userLeaves(admin, made.id, null)
    expect((await settings()).missing.some((m: { at: string }) => m.at === 'domains')).toBe(false)
  })
})

describe('one change of the house', () => {
  it('is one act with one undo, and says what it was', async () => {
    const before = await settings()
    const { status, body } = await changeSettings({
      domains: [OURS, 'HOLT-Ropes.Test.example'],
      relays: [{ network: '127.0.0.2', authservId: 'relay.holt-ropes.example' }],
      publicProviders: ['letterpost.test'],
    })
    expect(status).toBe(200)
    expect(await settings()).toMatchObject({
      version: before.version + 1,
      domains: [OURS, 'holt-ropes.test.example'],
      relays: [{ network: expect.stringMatching(/^127\.0\.0\.2/), authservId: 'relay.holt-ropes.example' }],
    })
    const [eventId] = (await admin('GET', '/api/audit-events?mine=true&undoable=true')).body.items
    expect(eventId).toMatchObject({
      id: body.eventId,
      words: 'changed own domains, trusted relays and public mailbox providers',
    })
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect(await settings()).toMatchObject({ domains: before.domains, relays: [], publicProviders: before.publicProviders })
    // The list that ships can be saved as it is.
    expect(before.publicProviders).toContain('gmail.com')
  })
  it('the same as it is makes no act; of two on one version the second is told', async () => {
    const { version, domains } = await settings()
    expect((await admin('PUT', '/api/settings', { version, domains })).body).toMatchObject({ eventId: null, version })
    const answers = await Promise.all(
      Array.from({ length: 5 }, (_, i) => admin('PUT', '/api/settings', { version, domains: [OURS, `n${i}.example`] })),
    )
    expect(answers.map(a => a.status).sort()).toEqual([200, 409, 409, 409, 409])
    await changeSettings({ domains })
  })
  it('is taken back only while nobody changed the same part', async () => {
    const first = (await changeSettings({ timeZone: 'Europe/Oslo' })).body
    await changeSettings({ timeZone: 'Europe/Lisbon' })
    expect((await undo(admin, first.eventId)).status).toBe(409)
    expect((await settings()).timeZone).toBe('Europe/Lisbon')
  })
  it.each([
    ['a domain that is none', { domains: ['holt ropes'] }, 'is not a domain'],
    ['a network that is none', { relays: [{ network: '300.1.2.3', authservId: 'x' }] }, 'not an IP address or network'],
    ['a relay without a name', { relays: [{ network: '192.0.2.1', authservId: '' }] }, 'enter the authserv-id'],
    ['a time zone that is none', { timeZone: 'Middle/Earth' }, 'time zone “Middle/Earth” does not exist'],
    ['an address that is no origin', { publicAddress: 'javascript:alert(1)' }, 'write it as https://'],
    ['two departments of one name', { departments: [{ name: 'Ropes' }, { name: 'Ropes' }] }, 'two departments'],
    ['days below one', { retention: { bin: 0, attempts: null } }, 'a number of days from 1'],
    ['nothing', {}, 'must contain at least one'],
  ])('refuses %s, says why, and changes nothing', async (_, parts, why) => {
    const before = await settings()
    const { status, body } = await changeSettings(parts)
    expect([status, body.detail]).toEqual([422, expect.stringContaining(why)])
    expect(await settings()).toEqual(before)
  })
  it('departments stand below each other, never in a circle, and none goes that is still used', async () => {
    await changeSettings({ departments: [{ name: 'Rope Walk' }, { name: 'Stores' }] })
    const [walk, stores] = (await settings()).departments
    expect([walk.id, stores.id]).toEqual(['rope-walk', 'stores'])
    expect((await changeSettings({ departments: [{ ...walk, parent: 'stores' }, stores] })).status).toBe(200)
    const circle = await changeSettings({ departments: [{ ...walk, parent: 'stores' }, { ...stores, parent: 'rope-walk' }] })
    expect([circle.status, circle.body.detail]).toEqual([422, expect.stringContaining('part of itself')])
    const ada = await put('Ada Moor', { departments: ['rope-walk'] })
    const gone = await changeSettings({ departments: [stores] })
    expect([gone.status, gone.body.detail]).toEqual([422, expect.stringContaining('still has 1 user')])
    await changeUser(admin, ada.id, person('Ada Moor'))
    expect((await changeSettings({ departments: [stores] })).status).toBe(200)
  })
  it('a mark that a rule asks for does not go from under it', async () => {
    const verdict = { id: 'm', name: 'suspect', header: 'x-suspect' }
    await changeSettings({ upstreamVerdicts: [verdict] })
    const rule = await admin('POST', '/api/rules', {
      name: 'Marked',
      owner: 'organisation',
      state: 'enabled',
      when: { upstreamVerdict: 'm' },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    })
    expect(rule.status).toBe(201)
    const { status, body } = await changeSettings({ upstreamVerdicts: [] })
    expect([status, body.detail]).toEqual([422, expect.stringContaining('“Marked” uses the upstream filter header')])
    await admin('DELETE', `/api/rules/${rule.body.id}?version=${rule.body.version}`)
    expect((await changeSettings({ upstreamVerdicts: [] })).status).toBe(200)
  })
})

describe('a trial says what would be believed, before it is', () => {
  const headers = `Authentication-Results: relay.${OURS}; dmarc=pass header.from=quayline.example
Received: from mail.quayline.example (mail.quayline.example [192.0.2.4]) by relay.${OURS}; Tue, 24 Nov 2026 09:00:00 +0000
From: Berths <b@quayline.example>`
  const traceTest = (relays: object[], client = '127.0.0.2') =>
    admin('POST', '/api/settings/tests', { trace: { client, headers, relays, ownNetworks: [] } })
  it('the relay’s word counts where the relay is believed, and only from where it connects', async () => {
    const relay = { network: '127.0.0.2', authservId: `relay.${OURS}` }
    expect((await traceTest([relay])).body).toMatchObject({ verdict: 'pass', saidBy: `relay.${OURS}`, firstHop: '192.0.2.4' })
    expect((await traceTest([])).body).toMatchObject({ verdict: 'none', saidBy: null })
    expect((await traceTest([relay], '203.0.113.9')).body).toMatchObject({ verdict: 'none' })
    expect((await settings()).relays).toEqual([])
  })
  it('whose an address is', async () => {
    const words = async (address: string) => (await admin('POST', '/api/settings/tests', { address })).body
    expect(await words(`Mira@${OURS.toUpperCase()}`)).toMatchObject({ taken: true, words: expect.stringContaining('Mira Holt') })
    expect(await words(`postmaster@${OURS}`)).toMatchObject({ taken: true })
    expect(await words('x@elsewhere.example')).toMatchObject({ taken: false })
    expect(await words('nonsense')).toMatchObject({ taken: false, words: expect.stringContaining('name@domain') })
  })
})

describe('people', () => {
  it('mail is taken for whoever is put down, at once, and for nobody else', async () => {
    expect((await send(`bo.finch@${OURS}`, 'too early'))[3]).toMatch(/^550 5\.1\.1/)
    const bo = await put('Bo Finch', { addresses: [`bo.finch@${OURS}`, `Bo+news@${OURS}`] })
    expect((await send(`bo.finch@${OURS}`, 'in time')).at(-1)).toMatch(/^250/)
    expect(await gate.ask.copies({ subject: 'in time' })).toMatchObject([{ personId: bo.id }])
  })
  it('a link lets them choose a password, once, and ends the one before it', async () => {
    const cleo = await put('Cleo Park')
    const link = async () => {
      const { status, body } = await admin('POST', `/api/users/${cleo.id}/invitations`)
      expect(status).toBe(201)
      return new URL(body.link)
    }
    const [first, second] = [await link(), await link()]
    expect(second.pathname).toBe('/invitation')
    const token = second.searchParams.get('token')!
    expect((await nobody('GET', `/api/invitations?token=${first.searchParams.get('token')}`)).status).toBe(404)
    expect((await nobody('GET', `/api/invitations?token=${token}`)).body).toEqual({
      name: 'Cleo Park',
      address: `cleo.park@${OURS}`,
    })
    const accept = (password: string) => nobody('POST', '/api/invitations', { token, password })
    expect((await accept('short')).status).toBe(422)
    const answers = await Promise.all(Array.from({ length: 4 }, (_, i) => accept(`a password of number ${i}`)))
    expect(answers.map(a => a.status).sort()).toEqual([200, 404, 404, 404])
    const won = answers.findIndex(a => a.status === 200)
    const hers = await signIn(gate, `cleo.park@${OURS}`, `a password of number ${won}`)
    expect((await hers('GET', '/api/settings')).status).toBe(403)
    expect(await gate.ask.isTokenKept(token)).toBe(false)
  })
  it('a link that is a week old opens nothing', async () => {
    const dan = await put('Dan Reef')
    const { body } = await admin('POST', `/api/users/${dan.id}/invitations`)
    await gate.ask.expireInvitations(dan.id)
    const token = new URL(body.link).searchParams.get('token')
    expect((await nobody('POST', '/api/invitations', { token, password: PASSWORD })).status).toBe(404)
  })
  it('links begin with the public address, whatever host somebody claims to have come by', async () => {
    const eve = await put('Eve Strake')
    await changeSettings({ publicAddress: 'https://gate.holt-ropes.example/' })
    expect((await admin('POST', `/api/users/${eve.id}/invitations`)).body.link).toMatch(
      /^https:\/\/gate\.holt-ropes\.example\/invitation\?token=/,
    )
    await changeSettings({ publicAddress: '' })
    // Nor whatever scheme: only a proxy of ours is believed that the browser came by https.
    const forged = await request(gate.url, `/api/users/${eve.id}/invitations`, {
      method: 'POST',
      headers: { 'cookie': admin.cookie, 'x-forwarded-proto': 'https' },
    })
    expect(JSON.parse(forged.text).link).toMatch(new RegExp(`^${gate.url}/`))
  })
  it('an address is one person’s, unless all say that it is shared; then its mail is for all of them', async () => {
    const fay = await put('Fay Luff', { addresses: [`fay@${OURS}`, `office@${OURS}`] })
    const taken = await admin('POST', '/api/users', person('Gil Tack', { addresses: [`OFFICE@${OURS}`] }))
    expect([taken.status, taken.body.detail]).toEqual([422, expect.stringContaining('already belongs to Fay Luff')])
    const gil = await put('Gil Tack', { addresses: [`gil@${OURS}`, `office@${OURS}`], shared: [`office@${OURS}`] })
    expect(gil.shared).toEqual([`office@${OURS}`])
    await send(`office@${OURS}`, 'for the office')
    expect(await gate.ask.copies({ subject: 'for the office' })).toMatchObject([{ personId: null, mailbox: `office@${OURS}` }])
    for (const { id } of [fay, gil])
      expect((await admin('GET', `/api/copies?recipient=${id}`)).body.items).toMatchObject([
        { subject: 'for the office', recipientName: `office@${OURS}` },
      ])
  })
  it('the last administrator stays one, and nobody shows themselves out', async () => {
    const [me] = (await admin('GET', '/api/users?words=mira')).body.items
    const less = await changeUser(admin, me.id, person('Mira Holt', { addresses: [`mira@${OURS}`] }))
    expect([less.status, less.body.detail]).toEqual([422, expect.stringContaining('last administrator')])
    expect((await userLeaves(admin, me.id, null)).status).toBe(422)
  })
  it('who leaves is out at once; mail, addresses, lists and rules are their heir’s', async () => {
    const [hal, ivy] = [await put('Hal Brace'), await put('Ivy Cleat')]
    const { body } = await admin('POST', `/api/users/${hal.id}/invitations`)
    await nobody('POST', '/api/invitations', { token: new URL(body.link).searchParams.get('token'), password: PASSWORD })
    const his = await signIn(gate, `hal.brace@${OURS}`, PASSWORD)
    const rule = { owner: `person:${hal.id}`, state: 'enabled', except: [], claims: [{ stop: { to: 'spam' } }] }
    expect((await his('POST', '/api/rules', { ...rule, name: 'Cordage', when: { phrases: ['cordage'] } })).status).toBe(201)
    await send(`hal.brace@${OURS}`, 'for Hal before')
    const left = await userLeaves(admin, hal.id, ivy.id)
    expect([left.status, left.body.deactivatedAt]).toEqual([200, expect.any(String)])
    expect((await his('GET', '/api/copies')).status).toBe(401)
    await send(`hal.brace@${OURS}`, 'cordage for Hal after')
    expect(await gate.ask.copies({ about: 'for Hal' })).toMatchObject([
      { subject: 'for Hal before', personId: ivy.id, lane: 'inbox' },
      { subject: 'cordage for Hal after', personId: ivy.id, lane: 'spam' },
    ])
    expect((await userLeaves(admin, hal.id, ivy.id)).status).toBe(422)
  })
  it('without an heir mail to them is refused from then on, and what came stays on record', async () => {
    const jo = await put('Jo Shroud')
    await send(`jo.shroud@${OURS}`, 'for Jo')
    await userLeaves(admin, jo.id, null)
    await smtp(gate.smtpPort, ['EHLO x.test', 'MAIL FROM:<a@b.test>', `RCPT TO:<jo.shroud@${OURS}>`]).then(
      replies => expect(replies.at(-1)).toMatch(/^550/),
    )
    expect(await gate.ask.copies({ subject: 'for Jo' })).toMatchObject([{ personId: jo.id }])
  })
})

describe('deactivating a user', () => {
  const back = (eventId: number) => admin('POST', `/api/audit-events/${eventId}/undo`)
  const rule = (id: string, over: object) => ({ owner: `person:${id}`, state: 'enabled', except: [], claims: [{ stop: { to: 'spam' } }], ...over })

  /** A user who signs in, with two addresses, a rule and a message to each address, one of them stopped. */
  async function settled(name: string) {
    const second = `zz.${name.toLowerCase().replace(' ', '.')}@${OURS}`
    const user = await put(name, { addresses: [`${name.toLowerCase().replace(' ', '.')}@${OURS}`, second] })
    const { body } = await admin('POST', `/api/users/${user.id}/invitations`)
    await nobody('POST', '/api/invitations', { token: new URL(body.link).searchParams.get('token'), password: PASSWORD })
    const theirs = await signIn(gate, user.addresses[0]!, PASSWORD)
    const made = await theirs('POST', '/api/rules', rule(user.id, { name: `Spars of ${name}`, when: { phrases: ['spar'] } }))
    expect(made.status).toBe(201)
    await send(user.addresses[0]!, `for ${name}`)
    await send(second, `a spar for ${name}`)
    return { ...user, second, theirs, rule: made.body.id as string }
  }
  const leaves = async (user: { id: string }, form: object) =>
    admin('POST', `/api/users/${user.id}/deactivation`, { version: (await member(user.id)).version, ...form })
  const member = async (id: string) => (await admin('GET', '/api/users?limit=200')).body.items.find((u: { id: string }) => u.id === id)

  it('is decided knowing what is at stake: what comes to each address, lists, rules, mail', async () => {
    const lou = await settled('Lou Stay')
    const { status, body } = await admin('GET', `/api/users/${lou.id}/deactivation`)
    expect([status, body]).toEqual([200, {
      addresses: expect.arrayContaining(lou.addresses.map(address => ({ address, shared: false, messages: 1, lastMonth: 1 }))),
      lists: 0, rules: 1, phraseSets: 0, messages: 2, held: 0, requests: 0, quarantines: [],
    }])
    expect((await lou.theirs('GET', `/api/users/${lou.id}/deactivation`)).status).toBe(403)
    expect((await admin('GET', '/api/users/nobody/deactivation')).status).toBe(404)
  })

  it('gives each address, with its mail, to its own successor, and is undone whole: password, rules, mail', async () => {
    const [max, ned, oda] = [await settled('Max Bitt'), await put('Ned Fid'), await put('Oda Luff')]
    const left = await leaves(max, { successor: ned.id, addresses: [{ address: max.second.toUpperCase(), successor: oda.id }] })
    expect(left.status).toBe(200)
    expect((await member(ned.id)).addresses).toContain(max.addresses[0])
    expect((await member(oda.id)).addresses).toContain(max.second)
    expect(await gate.ask.copies({ about: 'for Max Bitt' })).toMatchObject([{ personId: ned.id }, { personId: oda.id }])
    await send(max.addresses[0]!, 'since, for Max')
    await expect(signIn(gate, max.addresses[0]!, PASSWORD)).rejects.toThrow('401')
    expect((await back(left.body.eventId)).status).toBe(200)
    expect(await member(max.id)).toMatchObject({ addresses: expect.arrayContaining(max.addresses), deactivatedAt: null, signsIn: true })
    expect((await member(ned.id)).addresses).toEqual([`ned.fid@${OURS}`])
    const again = await signIn(gate, max.addresses[0]!, PASSWORD)
    expect((await again('GET', `/api/rules/${max.rule}`)).body).toMatchObject({ owner: `person:${max.id}`, state: 'enabled' })
    expect(await gate.ask.copies({ about: 'for Max' })).toMatchObject([{ personId: max.id }, { personId: max.id }, { personId: ned.id }])
    await send(max.second, 'a spar for Max again')
    expect(await gate.ask.copies({ about: 'for Max again' })).toMatchObject([{ personId: max.id, lane: 'spam' }])
    expect((await back(left.body.eventId)).status).toBe(409)
  })

  it('is not undone over what others did since, nor after its hour; then the password is forgotten', async () => {
    const [pia, rex, tom] = [await settled('Pia Yard'), await put('Rex Boom'), await settled('Tom Gaff')]
    const left = await leaves(pia, { successor: rex.id })
    const taken = await put('Sue Mast', { addresses: [`sue.mast@${OURS}`, pia.addresses[0]!], shared: [pia.addresses[0]!] })
    const conflict = await back(left.body.eventId)
    expect([conflict.status, conflict.body.detail]).toEqual([409, expect.stringContaining(pia.addresses[0]!)])
    expect((await member(pia.id)).deactivatedAt).not.toBeNull()
    expect(taken.addresses).toContain(pia.addresses[0])
    const late = await leaves(tom, { successor: null })
    await gate.database.query(`update audit_events set at = now() - interval '61 minutes' where id = $1`, [late.body.eventId])
    expect((await back(late.body.eventId)).status).toBe(403)
    await gate.database.query(`update people set deactivated_at = now() - interval '61 minutes' where id = $1`, [tom.id])
    await gate.kill()
    await gate.restart()
    const { rows } = await gate.database.query('select password_hash from people where id = any($1) order by id', [[pia.id, tom.id]])
    expect(rows.map(r => r.password_hash === null)).toEqual([false, true])
  })

  it.each([
    ['the user as successor', (id: string) => ({ successor: id })],
    ['nobody known', () => ({ successor: 'who-is-this' })],
    ['an address that is another’s', () => ({ successor: null, addresses: [{ address: `mira@${OURS}`, successor: null }] })],
  ])('refuses %s, and changes nothing', async (_, form) => {
    const user = await put('Una Keel', { addresses: [`una-${Math.random()}@${OURS}`] })
    expect((await leaves(user, form(user.id))).status).toBeOneOf([404, 422])
    expect((await member(user.id)).deactivatedAt).toBeNull()
  })

  it('of one who left at the same moment as another administrator tries it happens once', async () => {
    const [val, wes] = [await settled('Val Tiller'), await put('Wes Rudder')]
    const { version } = await member(val.id)
    const answers = await Promise.all([1, 2, 3].map(() => admin('POST', `/api/users/${val.id}/deactivation`, { version, successor: wes.id })))
    expect(answers.map(a => a.status).sort()).toEqual([200, 422, 422])
  })
})

describe('one’s own password', () => {
  it('is changed by whoever knows the one before; every other session ends, this one goes on', async () => {
    const kim = await put('Kim Sheet')
    const { body } = await admin('POST', `/api/users/${kim.id}/invitations`)
    await nobody('POST', '/api/invitations', { token: new URL(body.link).searchParams.get('token'), password: PASSWORD })
    const notReleased = await signIn(gate, `kim.sheet@${OURS}`, PASSWORD)
    const here = await signIn(gate, `kim.sheet@${OURS}`, PASSWORD)
    const choose = (current: string, password: string) => here('PUT', '/api/session/password', { current, password })
    expect((await choose('not this one', 'another password')).status).toBe(422)
    expect((await choose(PASSWORD, 'short')).status).toBe(422)
    const chosen = await choose(PASSWORD, 'another password')
    expect(chosen.status).toBe(200)
    expect((await notReleased('GET', '/api/copies')).status).toBe(401)
    expect((await request(gate.url, '/api/copies', { headers: { cookie: cookiesOf(chosen) } })).status).toBe(200)
    await expect(signIn(gate, `kim.sheet@${OURS}`, PASSWORD)).rejects.toThrow('401')
  })
})

describe('users as CSV (RFC 4180)', () => {
  interface Report extends Record<'added' | 'changed' | 'same' | 'eventId', number> {
    version: string
    wrong: { line: number, why: string }[]
    detail: string
  }
  const post = async (query: string, text: string) => {
    const { status, text: said } = await request(gate.url, `/api/users/csv?${query}`, {
      method: 'POST',
      headers: { 'content-type': 'text/csv', 'cookie': admin.cookie },
      body: text,
    })
    return { status, body: JSON.parse(said) as Report }
  }
  const preview = (text: string) => post('dry=true', text)
  const importing = async (text: string) => post(`version=${(await preview(text)).body.version}`, text)
  const everybody = async () => (await admin('GET', '/api/users?limit=200')).body
  const state = async () => ((await everybody()).items as { version: number }[]).map(({ version: _, ...u }) => u)
  const exported = async () => (await admin('GET', '/api/users/csv')).body as string
  const user = async (words: string) => (await admin('GET', `/api/users?words=${words}`)).body.items[0]

  it('an export that is imported unchanged changes nothing, whatever users and departments are called', async () => {
    await changeSettings({
      departments: [
        { name: 'Ropes; Lines' },
        { name: '=Sails' },
        { name: 'accounts-2' },
        { id: undefined, name: 'Accounts 2' },
      ],
    })
    const { departments } = await settings()
    const ids = departments.map((d: { id: string }) => d.id) as string[]
    const names = ['=cmd|x', '\u200B=x', 'a;=1', 'O\u2019Hara, "Kit"', '+1', '\uFF1D1', 'two\nlines']
    for (const [n, name] of names.entries())
      await put(name, {
        addresses: [`odd-${n}@${OURS}`, `=odd-${n}@${OURS}`, `shared@${OURS}`],
        shared: [`shared@${OURS}`],
        departments: ids.slice(n % 3),
      })
    await put('Only shared', { addresses: [`shared@${OURS}`], shared: [`shared@${OURS}`] })
    const before = await everybody()
    const csv = await exported()
    expect(csv).toMatch(/^name,addresses,shared,role,departments\r\n/)
    const { body: result } = await preview(csv)
    expect([result.added, result.changed, result.wrong]).toEqual([0, 0, []])
    const { status, body } = await importing(csv)
    expect([status, body.added, body.changed, body.same, body.eventId]).toEqual([200, 0, 0, before.total - left(before), null])
    expect(await everybody()).toEqual(before)
  })
  const left = ({ items }: { items: { deactivatedAt: string | null }[] }) => items.filter(u => u.deactivatedAt !== null).length

  it('new ones come, known ones change; quotes, commas and line breaks in a cell are no end of it (RFC 4180 2.6, 2.7)', async () => {
    const text = `\uFEFFname,addresses,role\r\n"Lee ""Port"" Quay, senior",lee@${OURS}; l.quay@${OURS},reviewer\r\nEve Strake the `
      + `Elder,eve.strake@${OURS},\r\n`
    const before = await state()
    const result = (await preview(text)).body
    expect(result).toMatchObject({
      added: 1,
      changed: 1,
      lines: [
        { name: 'Lee "Port" Quay, senior', isNew: true, changes: expect.arrayContaining(['role: reviewer']) },
        { name: 'Eve Strake', isNew: false, changes: ['name: Eve Strake → Eve Strake the Elder'] },
      ],
    })
    expect(await state()).toEqual(before)
    const { body } = await importing(text)
    expect(body).toMatchObject({ added: 1, changed: 1 })
    expect(await user('quay')).toMatchObject({
      name: 'Lee "Port" Quay, senior',
      role: 'reviewer',
      addresses: [`l.quay@${OURS}`, `lee@${OURS}`],
    })
    // And all of it is undone by one press.
    expect((await undo(admin, body.eventId)).status).toBe(200)
    expect(await state()).toEqual(before)
    expect((await undo(admin, body.eventId)).status).toBe(409)
  })
  it('a column that is not there changes nothing of it: nobody loses their role or department', async () => {
    await put('Role Keeper', { addresses: [`keeper@${OURS}`], role: 'reviewer', departments: [(await settings()).departments[0].id] })
    const before = await user('keeper')
    expect((await importing(`name,addresses\nRole Keeper the 2nd,keeper@${OURS}\n`)).body.changed).toBe(1)
    expect(await user('keeper')).toMatchObject({ role: 'reviewer', departments: before.departments, name: 'Role Keeper the 2nd' })
  })
  it('the holder of an address of their own is meant, never one of those who share the first of a line', async () => {
    await put('Shares First', { addresses: [`desk@${OURS}`, `first@${OURS}`], shared: [`desk@${OURS}`] })
    await put('Shares Second', { addresses: [`desk@${OURS}`, `second@${OURS}`], shared: [`desk@${OURS}`] })
    const first = await user('first@')
    const { body } = await importing(`name,addresses,shared\nShares Second,desk@${OURS} second@${OURS} new@${OURS},\n`)
    expect(body).toMatchObject({ changed: 1, added: 0 })
    expect(await user('first@')).toEqual(first)
    expect((await user('second@')).addresses).toEqual([`desk@${OURS}`, `new@${OURS}`, `second@${OURS}`])
  })
  it.each([
    ['no header', `Lee,lee@${OURS}\n`, 'first line must be the header'],
    ['an open quote', `name,addresses\n"X,x@${OURS}`, 'not a valid CSV file'],
  ])('with %s nothing is read', async (_, text, why) => {
    expect(await preview(`${text}\n`)).toMatchObject({ status: 422, body: { detail: expect.stringContaining(why) } })
  })
  it.each([
    ['a role that is none', `name,addresses,role\nX,x@${OURS},king`, '“king” is not a role'],
    ['no address', 'name,addresses\nX,', 'gets no mail'],
    ['no name', `name,addresses\n,x@${OURS}`, 'enter a name'],
    ['half an address', 'name,addresses\nX,half@', 'name@domain'],
    ['a department that is none', `name,addresses,departments\nX,x@${OURS},Moon`, 'department “Moon” does not exist'],
    ['addresses of two users', `name,addresses\nMira Holt,mira@${OURS} keeper@${OURS}`, 'belong to Mira Holt and Role Keeper'],
    ['a mailbox that others share', `name,addresses\nX,x@${OURS} desk@${OURS}`, 'belongs to Shares'],
    ['one’s own role taken away', `name,addresses,role\nMira Holt,mira@${OURS},worker`, 'remove your own administrator role'],
  ])('with %s nothing is imported, and the line is named', async (_, text, why) => {
    const before = await state()
    const { body: result } = await preview(`${text}\n`)
    expect(result.wrong).toEqual([{ line: 2, why: expect.stringContaining(why) }])
    const { status, body } = await post(`version=${result.version}`, `${text}\n`)
    expect([status, body.detail]).toEqual([422, expect.stringContaining(`line 2: ${result.wrong[0]!.why}`)])
    expect(await state()).toEqual(before)
  })
  it('a user on two lines is an error of the second', async () => {
    const text = `name,addresses\nOne,keeper@${OURS}\nTwo,keeper@${OURS}\n`
    expect((await preview(text)).body.wrong).toEqual([{ line: 3, why: 'line 2 is also for Role Keeper the 2nd' }])
  })
  it('is imported only as it was shown: not where somebody changed a user meanwhile, nor without a look', async () => {
    const text = `name,addresses\nRole Keeper the 3rd,keeper@${OURS}\n`
    const { version } = (await preview(text)).body
    const { id, name, role, addresses, shared, departments } = await user('keeper')
    await changeUser(admin, id, { name, role: 'worker', addresses, shared, departments })
    expect((await post(`version=${version}`, text)).status).toBe(409)
    expect((await post('', text)).status).toBe(400)
    expect(await user('keeper')).toMatchObject({ name, version: expect.any(Number) })
    await changeUser(admin, id, { name, role, addresses, shared, departments })
  })
  it('undo stops where one of the users was changed since, or has mail by now', async () => {
    const { body } = await importing(`name,addresses\nNew Hand,hand@${OURS}\nRole Keeper the 4th,keeper@${OURS}\n`)
    const again = `name,addresses\nKeeper,keeper@${OURS}\n`
    await post(`version=${(await preview(again)).body.version}`, again)
    expect((await undo(admin, body.eventId)).status).toBe(409)
    const { body: two } = await importing(`name,addresses\nNewer Hand,newer.hand@${OURS}\n`)
    await send(`newer.hand@${OURS}`, 'mail before the undo')
    const detail = expect.stringContaining('User “Newer Hand” has signed in since, or has mail')
    expect(await undo(admin, two.eventId)).toMatchObject({ status: 422, body: { detail } })
  })
})

describe('two administrators at the same time', () => {
  it('a role set by one is not set back by the other’s older page, nor a demotion', async () => {
    const made = await put('Twice Seen', { addresses: [`twice@${OURS}`] })
    const older = person('Twice Seen', { addresses: [`twice@${OURS}`] })
    expect((await changeUser(admin, made.id, { ...older, role: 'reviewer' })).status).toBe(200)
    const late = await changeUser(admin, made.id, { ...older, version: made.version })
    expect(late).toMatchObject({ status: 409, body: { type: 'urn:sober-gate:problem:stale' } })
    expect((await admin('GET', '/api/users?words=twice')).body.items[0].role).toBe('reviewer')
    expect((await admin('POST', `/api/users/${made.id}/deactivation`, { successor: null, version: made.version })).status).toBe(409)
  })
  it('a quarantine is changed only as it was seen, by its settings and by its name', async () => {
    const made = (await admin('POST', '/api/quarantines', { name: 'Seen twice' })).body
    const { version } = (await settings()).quarantines.find((q: { id: string }) => q.id === made.id)
    expect((await setQuarantine(admin, made.id, { waitDays: 5 })).status).toBe(200)
    const put = (form: object) => admin('PUT', `/api/quarantines/${made.id}`, { version, ...form })
    expect([(await put({ waitDays: 9 })).status, (await put({ name: 'Old page' })).status]).toEqual([409, 409])
    expect((await setQuarantine(admin, made.id, { name: 'New name' })).status).toBe(200)
    const now = (await settings()).quarantines.find((q: { id: string }) => q.id === made.id)
    expect(now).toMatchObject({ name: 'New name', waitDays: 5 })
    expect((await admin('DELETE', `/api/quarantines/${made.id}?to=general&version=${version}`)).status).toBe(409)
  })
  it('of an undo of settings and another’s change at the same time one loses nothing that the other wrote', async () => {
    for (let n = 0; n < 12; n++) {
      const { body: first } = await changeSettings({ publicProviders: [`first-${n}.example`] })
      const { version } = await settings()
      const [undone, changed] = await Promise.all([
        undo(admin, first.eventId),
        admin('PUT', '/api/settings', { version, publicProviders: [`theirs-${n}.example`] }),
      ])
      // Whoever came second was told; the change that was answered with 200 last is what is there.
      expect([[undone.status, changed.status].sort()]).toEqual([[200, 409]])
      const now = (await settings()).publicProviders
      expect(now).toEqual(changed.status === 200 ? [`theirs-${n}.example`] : expect.not.arrayContaining([`first-${n}.example`]))
      await changeSettings({ publicProviders: [] })
    }
  })
})

describe('what is kept for a while only', () => {
  it('goes out of the bin for good, its record stays; what somebody else still has stays whole', async () => {
    const [nia, ola] = [await put('Nia Spar'), await put('Ola Keel')]
    const both = plainMessage({ subject: 'binned by one', text: 'a text that stays' })
    await smtp(gate.smtpPort, handOver('a@b.test', [`nia.spar@${OURS}`, `ola.keel@${OURS}`], both))
    await send(`nia.spar@${OURS}`, 'binned whole')
    await send(`nia.spar@${OURS}`, 'read in lately')
    await gate.ask.changeCopies({ person: nia.id }, { lane: 'bin', laneSince: daysAgo(40) })
    // An old archive that was read in counts from when it came here.
    await gate.ask.ageMessagesBut('read in lately', 40)
    await changeSettings({ retention: { bin: 30, attempts: 10 } })
    await jobEnded(admin, await gate.ask.runDaily())
    expect(await gate.ask.leftOf([nia.id, ola.id])).toEqual([
      { subject: 'binned by one', lane: 'discarded', erased: true, hasSource: true, hasText: true },
      { subject: 'binned by one', lane: 'inbox', erased: false, hasSource: true, hasText: true },
      { subject: 'binned whole', lane: 'discarded', erased: true, hasSource: false, hasText: false },
      { subject: 'read in lately', lane: 'bin', erased: false, hasSource: true, hasText: true },
    ])
    const line = (await admin('GET', '/api/copies?words=binned+whole')).body.items[0]
    expect(line).toMatchObject({ gone: 'erased', reason: 'deleted permanently after 30 days in Bin' })
  })
})

describe('quarantines', () => {
  it('are renamed without losing what refers to them', async () => {
    const made = (await admin('POST', '/api/quarantines', { name: 'Ropes' })).body
    expect((await setQuarantine(admin, made.id, { name: 'Cordage' })).body).toMatchObject({ name: 'Cordage' })
    expect((await settings()).quarantines.map((q: { name: string }) => q.name)).toContain('Cordage')
    expect((await setQuarantine(admin, 'nowhere', { name: 'x' })).status).toBe(404)
    expect((await setQuarantine(admin, made.id, { name: ' ' })).status).toBe(422)
  })
})
