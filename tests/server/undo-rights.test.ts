// Undo is asked what its user may do now: a former administrator would trust a forged relay again.
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import type { Role } from '../../server/access/roles'
import { changed, putRule } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { changeUser, setQuarantine } from '../support/settings'
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
  const { body } = await admin('GET', '/api/users?limit=200')
  const { name, addresses, shared, departments } = body.items.find((p: { id: string }) => p.id === id)
  const set = await changeUser(admin, id, { name, role, addresses, shared, departments })
  expect([set.status, set.body]).toEqual([200, set.body])
  return signIn(gate, SOMEBODY)
}

const send = (subject: string, to: string) => receive(gate, { from: `${subject}@undo.test`, subject, text: subject, to: addressOf(to) })
const eventId = async (answer: Promise<{ status: number, body: { eventId?: number } }>): Promise<number> => {
  const { status, body } = await answer
  const id = body.eventId
  if (!id) throw new Error(`nothing was done: ${status} ${JSON.stringify(body)}`)
  return id
}

/**
 * Each kind of act: what does it, and which roles may do today what undoing it amounts to; those of `by` may do it, which are the same
 * unless said.
 */
const KINDS: Record<string, { does: (me: Caller) => Promise<number>, can: readonly Role[], by?: readonly Role[] }> = {
  'trust in relays': {
    does: async me => eventId(me('PUT', '/api/settings', {
      version: (await me('GET', '/api/settings')).body.version,
      relays: [{ network: '127.0.0.9/32', authservId: 'x.test' }],
    })),
    can: ['administrator'],
  },
  'who reviews a quarantine': {
    does: async (me) => {
      const { body } = await me('POST', '/api/quarantines', { name: `For undo ${randomUUID()}` })
      return eventId(setQuarantine(me, body.id, { reviewers: [personOf('admin')] }))
    },
    can: ['administrator'],
  },
  'a rule of the organisation': {
    does: async me => (await changed(me, putRule(`undone ${randomUUID()}`))).eventId,
    can: ['administrator'],
  },
  'a rule of their own': {
    does: async me => (await changed(me, putRule(`undone ${randomUUID()}`, { owner: ownerOf(SOMEBODY) }))).eventId,
    can: ROLES,
  },
  'a rule of their own that refused mail, which is an administrator’s word': {
    does: async (me) => {
      const name = `undone ${randomUUID()}`
      const rule = { id: randomUUID(), owner: ownerOf(SOMEBODY) }
      await changed(me, putRule(name, { ...rule, claims: [{ stop: { to: 'refuse' } }] }))
      return (await changed(me, putRule(name, { ...rule, claims: [{ stop: { to: 'spam' } }] }))).eventId
    },
    can: ['administrator'],
  },
  'a use of their own, with its list': {
    does: async (me) => {
      const { body } = await me('POST', '/api/lists', {
        name: `Undone ${randomUUID()}`, owner: ownerOf(SOMEBODY), usualSide: 'block', entries: 'a@undone.test',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
      })
      return eventId(me('DELETE', `/api/lists/${body.id}?version=${body.version}`))
    },
    can: ROLES,
  },
  'a move of their own mail': {
    does: async (me) => {
      const { id } = await send('ownmove', SOMEBODY)
      return eventId(me('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'spam' }))
    },
    can: ROLES,
  },
  'a move of another’s mail': {
    does: async (me) => {
      const { id } = await send('othersmove', 'worker')
      return eventId(me('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'spam' }))
    },
    can: ['administrator'],
  },
  'another’s mail that they put into quarantine': {
    does: async (me) => {
      const { id } = await send('othersheld', 'worker')
      return eventId(me('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'quarantine' }))
    },
    can: ['administrator', 'reviewer'],
    // What is not held yet is not theirs to see.
    by: ['administrator'],
  },
  'their own mail that they put into quarantine': {
    does: async (me) => {
      const { id } = await send('ownheld', SOMEBODY)
      return eventId(me('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'quarantine' }))
    },
    can: ['administrator', 'reviewer'],
  },
  'a release of another’s mail': {
    does: async (me) => {
      const { id } = await send('released', 'worker')
      await admin('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'quarantine' })
      return eventId(me('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'inbox' }))
    },
    can: ['administrator', 'reviewer'],
  },
  'a mark on another’s mail': {
    does: async (me) => {
      const { id } = await send('marked', 'worker')
      return eventId(me('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'unwanted' }))
    },
    can: ['administrator'],
  },
}

describe.each(ROLES)('what somebody did as %s', (before) => {
  const done = new Map<string, number>()
  const lines = async (me: Caller) => {
    const { items } = (await me('GET', '/api/audit-events?mine=true&limit=50')).body as { items: { id: number, canUndo: boolean }[] }
    return new Map(items.map(a => [a.id, a.canUndo]))
  }
  const allowedTo = (role: Role) => Object.fromEntries([...done.keys()].map(kind => [kind, KINDS[kind]!.can.includes(role)]))

  beforeAll(async () => {
    const me = await become(before)
    for (const [kind, { does, can, by = can }] of Object.entries(KINDS)) if (by.includes(before)) done.set(kind, await does(me))
  })

  it.each(ROLES)('is offered to be undone as %s where the opposite is theirs to do, refused elsewhere', async (role) => {
    const me = await become(role)
    const offered = await lines(me)
    expect(Object.fromEntries([...done].map(([kind, id]) => [kind, offered.get(id)]))).toEqual(allowedTo(role))
    for (const [kind, id] of done) if (!KINDS[kind]!.can.includes(role)) expect([kind, (await undo(me, id)).status]).toEqual([kind, 403])
  })
  // Who may least comes first: each undoes what nobody before might.
  it.each(['worker', 'reviewer', 'administrator'] as const)('is undone as %s where it is offered', async (role) => {
    const me = await become(role)
    for (const [kind, id] of done)
      if (KINDS[kind]!.can.includes(role)) {
        expect([kind, (await undo(me, id)).status]).toEqual([kind, 200])
        done.delete(kind)
      }
  })
  it('and all of it was', () => expect([...done.keys()]).toEqual([]))
})
