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
  it.each(Object.keys(KINDS).flatMap(kind => ROLES.map(role => [kind, role] as const)))('%s: undone as %s', async (kind, role) => {
    const { does, may } = KINDS[kind]!
    const done = await does(await become('administrator'))
    const me = await become(role)
    const line = (await me('GET', '/api/acts?mine=true&limit=50')).body.items.find((a: { id: number }) => a.id === done)
    const allowed = may.includes(role)
    expect(line.mayTakeBack).toBe(allowed)
    const undone = await undo(me, done)
    expect([undone.status, undone.body.detail]).toEqual([allowed ? 200 : 403, undone.body.detail])
    // Whoever may undo everything puts it back for the next.
    if (!allowed) expect((await undo(await become('administrator'), done)).status).toBe(200)
  })
})
