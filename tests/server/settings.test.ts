// What an office shares and inherits: mailboxes of several people, and people who have left.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { rule } from '../support/clauses'
import { type Caller, signIn } from '../support/http'
import { install, type Installation, receive } from '../support/installation'
import { addressOf, ownerOf, personOf } from '../support/office'

const HANNE = personOf('hanne.solberg')
const SHARED = addressOf('accounts')
let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'settings')
  admin = await signIn(gate, 'admin')
})
afterAll(() => gate.stop())

const subjects = async (who: Caller, words: string) =>
  (await who('GET', `/api/copies?words=${words}`)).body.items.map((c: { subject: string }) => c.subject)
const heronry = (name: string, owner: string, to: string) =>
  rule(name, { owner, when: { phrases: ['heronry'] }, claims: [{ stop: { to } }] })

describe('a mailbox of several people', () => {
  it('is everybody’s to whom it belongs and nobody else’s; their department’s rules stand over it, nobody’s own', async () => {
    await gate.ask.addAddress(SHARED, HANNE)
    const [oskar, hanne, dov] = [
      await signIn(gate, 'worker'),
      await signIn(gate, 'hanne.solberg'),
      await signIn(gate, 'dov.marchetti'),
    ]
    // Somebody's own rule would take a colleague's mail.
    await oskar('POST', '/api/rules', heronry('mine', ownerOf('worker'), 'bin'))
    await receive(gate, { subject: 'heronry first', to: SHARED })
    expect([
      await subjects(oskar, 'heronry'),
      await subjects(hanne, 'heronry'),
      await subjects(dov, 'heronry'),
    ]).toEqual([['heronry first'], ['heronry first'], []])
    const [copy] = (await hanne('GET', '/api/copies?words=heronry')).body.items
    expect(copy.lane).toBe('inbox')
    expect((await hanne('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'spam' })).status).toBe(200)
    expect((await dov('GET', `/api/copies/${copy.id}`)).status).toBe(404)
    // Their own mail to themselves is not opened as somebody else's.
    await hanne('GET', `/api/copies/${copy.id}`)
    expect(await gate.ask.eventsBy(HANNE, 'opened')).toEqual([])
    await admin('POST', '/api/rules', heronry('Accounts, all', 'department:accounts', 'spam'))
    await receive(gate, { subject: 'heronry second', to: SHARED.replace('@', '+tag@') })
    const { items } = (await hanne('GET', '/api/copies?words=heronry')).body
    expect(items.find((c: { subject: string }) => c.subject === 'heronry second').lane).toBe('spam')
  })
  it('whoever is left of it keeps what came while others shared it', async () => {
    const [hanne, oskar] = [await signIn(gate, 'hanne.solberg'), await signIn(gate, 'worker')]
    await receive(gate, { subject: 'plover for both', to: SHARED })
    await gate.ask.removeAddress(SHARED, HANNE)
    expect([await subjects(oskar, 'plover'), await subjects(hanne, 'plover')]).toEqual([['plover for both'], []])
    const own = (await admin('GET', `/api/copies?words=plover&recipient=${personOf('worker')}`)).body.items
    expect(own.map((c: { subject: string }) => c.subject)).toEqual(['plover for both'])
    // What comes from now on is theirs alone.
    await receive(gate, { subject: 'plover for one', to: SHARED })
    expect((await subjects(oskar, 'plover')).sort()).toEqual(['plover for both', 'plover for one'])
    await gate.ask.addAddress(SHARED, HANNE)
  })
  it('signs nobody in: it names nobody', async () => {
    const stranger = await signIn(gate, null)
    expect((await stranger('POST', '/api/session', { email: SHARED, password: 'harbour-demo' })).status).toBe(401)
  })
})

describe('whoever has left', () => {
  it('is signed out, and does not come back', async () => {
    const dov = await signIn(gate, 'dov.marchetti')
    expect((await dov('GET', '/api/copies')).status).toBe(200)
    await gate.ask.changePerson(personOf('dov.marchetti'), { deactivatedAt: new Date(), successorId: HANNE })
    expect((await dov('GET', '/api/copies')).status).toBe(401)
    const again = { email: addressOf('dov.marchetti'), password: 'harbour-demo' }
    expect((await (await signIn(gate, null))('POST', '/api/session', again)).status).toBe(401)
  })
})

describe('marks of upstream systems', () => {
  it('none are believed but those that were named', async () => {
    expect(await gate.ask.setting('upstreamVerdicts')).toMatchObject([{ id: 'provider' }])
  })
})
