// Undo is asked what its user may do now: a former administrator would trust a forged relay again.
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import type { Role } from '../../server/access/roles'
import { changed, putRule } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive } from '../support/installation'
import { addressOf, ownerOf, personOf } from '../support/office'

let gate: Installation
let admin: Caller

/** Whose role changes: they do everything as an administrator, and undo it as what they are by then. */
const SOMEBODY = 'reviewer'
const ROLES: readonly Role[] = ['administrator', 'reviewer', 'worker']

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'undo_rights')
  admin = await signIn(gate, 'admin')
})
afterAll(() => gate.stop())

async function become(role: Role): Promise<Caller> {
  const id = personOf(SOMEBODY)
  const { body } = await admin('GET', '/api/house/people?limit=200')
  const { name, addresses, shared, departments } = body.items.find((p: { id: string }) => p.id === id)
  const set = await admin('PUT', `/api/house/people/${id}`, { name, role, addresses, shared, departments })
  expect([set.status, set.body]).toEqual([200, set.body])
  return signIn(gate, SOMEBODY)
}

const send = (subject: string, to: string) => receive(gate, { from: `${subject}@undo.test`, subject, text: subject, to: addressOf(to) })
const act = async (answer: Promise<{ status: number, body: { act?: number, actId?: number } }>): Promise<number> => {
  const { status, body } = await answer
  const id = body.act ?? body.actId
  if (!id) throw new Error(`nothing was done: ${status} ${JSON.stringify(body)}`)
  return id
}

/** Each kind of act: what does it, as an administrator, and which roles may do today what undoing it amounts to. */
const KINDS: Record<string, { does: (me: Caller) => Promise<number>, may: readonly Role[] }> = {
  'trust in relays': {
    does: async me => act(me('PUT', '/api/house', {
      version: (await me('GET', '/api/house')).body.version,
      relays: [{ network: '127.0.0.9/32', authservId: 'x.test' }],
    })),
    may: ['administrator'],
  },
  'who reviews a quarantine': {
    does: async (me) => {
      const { body } = await me('POST', '/api/quarantines', { name: `For undo ${randomUUID()}` })
      return act(me('PUT', `/api/quarantines/${body.id}`, { reviewers: [personOf('admin')] }))
    },
    may: ['administrator'],
  },
  'a rule of the organisation': { does: async me => (await changed(me, putRule('undone one'))).act, may: ['administrator'] },
  'a rule of their own': { does: async me => (await changed(me, putRule('undone two', { owner: ownerOf(SOMEBODY) }))).act, may: ROLES },
  'a move of their own mail': {
    does: async (me) => {
      const { id } = await send('ownmove', SOMEBODY)
      return act(me('POST', '/api/copies/lane', { ids: [id], lane: 'spam' }))
    },
    may: ROLES,
  },
  'a move of another’s mail': {
    does: async (me) => {
      const { id } = await send('othersmove', 'worker')
      return act(me('POST', '/api/copies/lane', { ids: [id], lane: 'spam' }))
    },
    may: ['administrator'],
  },
  'another’s mail that they put into quarantine': {
    does: async (me) => {
      const { id } = await send('othersheld', 'worker')
      return act(me('POST', '/api/copies/lane', { ids: [id], lane: 'quarantine' }))
    },
    may: ['administrator', 'reviewer'],
  },
  'their own mail that they put into quarantine': {
    does: async (me) => {
      const { id } = await send('ownheld', SOMEBODY)
      return act(me('POST', '/api/copies/lane', { ids: [id], lane: 'quarantine' }))
    },
    may: ['administrator', 'reviewer'],
  },
  'a release of another’s mail': {
    does: async (me) => {
      const { id } = await send('released', 'worker')
      await me('POST', '/api/copies/lane', { ids: [id], lane: 'quarantine' })
      return act(me('POST', '/api/copies/lane', { ids: [id], lane: 'inbox' }))
    },
    may: ['administrator', 'reviewer'],
  },
  'a mark on another’s mail': {
    does: async (me) => {
      const { id } = await send('marked', 'worker')
      return act(me('POST', '/api/copies/judgement', { ids: [id], value: 'unwanted' }))
    },
    may: ['administrator'],
  },
}

describe('what somebody did as an administrator', () => {
  const done = new Map<string, number>()
  const lines = async (me: Caller) =>
    new Map((await me('GET', '/api/acts?mine=true&limit=50')).body.items.map((a: { id: number, mayTakeBack: boolean }) => [a.id, a.mayTakeBack]))
  const allowedTo = (role: Role) => Object.fromEntries(Object.entries(KINDS).map(([kind, { may }]) => [kind, may.includes(role)]))

  beforeAll(async () => {
    const me = await become('administrator')
    for (const [kind, { does }] of Object.entries(KINDS)) done.set(kind, await does(me))
  })

  it.each(['administrator', 'reviewer', 'worker'] as const)('is offered to be undone as %s where the opposite is theirs to do, and refused elsewhere', async (role) => {
    const me = await become(role)
    const offered = await lines(me)
    expect(Object.fromEntries([...done].map(([kind, id]) => [kind, offered.get(id)]))).toEqual(allowedTo(role))
    for (const [kind, id] of done) if (!KINDS[kind]!.may.includes(role)) expect([kind, (await undo(me, id)).status]).toEqual([kind, 403])
  })
  // Who may least comes first: each undoes what nobody before might.
  it.each(['worker', 'reviewer', 'administrator'] as const)('is undone as %s where it is offered', async (role) => {
    const me = await become(role)
    for (const [kind, id] of done)
      if (KINDS[kind]!.may.includes(role)) {
        expect([kind, (await undo(me, id)).status]).toEqual([kind, 200])
        done.delete(kind)
      }
  })
  it('and all of it was', () => expect([...done.keys()]).toEqual([]))
})
