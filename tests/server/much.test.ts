// More than anybody needs in one request: it is refused at once, and what was kept of before keeps nobody waiting.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import type { PolicyChange } from '#core/change'
import { blocking, change, putRule, versionFor } from '../support/clauses'
import { type Caller, signIn } from '../support/http'
import { install, type Installation } from '../support/installation'
import { ownerOf, personOf } from '../support/office'
import { until } from '../support/wait'

let gate: Installation
let admin: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'much')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

const rules = (many: number, owner: string) => Array.from({ length: many }, (_, n) => putRule(`much ${n}`, { owner }))
const entries = (many: number) => [{
  type: 'put', kind: 'entries',
  list: 'speculators',
  entries: Array.from({ length: many }, (_, n) => ({ kind: 'address', value: `much${n}@x.test` })),
}]
const listed = async (id: number) => (await admin('GET', '/api/proposals')).body.items.find((p: { id: number }) => p.id === id)

describe('changes in one request', () => {
  it.each(['/api/changes', '/api/impact', '/api/proposals'])('%s: a thousand at most', async (path) => {
    const form = {
      changes: rules(1001, 'organisation'),
      ...(path === '/api/impact' ? {} : { base: await versionFor(admin) }),
      ...(path === '/api/changes' ? { coming: true } : {}),
    }
    const { status, body } = await admin('POST', path, form)
    expect([status, body.detail]).toEqual([422, expect.stringContaining('at most 1000 changes')])
  })
  it('a thousand are made as one, and taken back as one', async () => {
    const size = async () => (await admin('GET', '/api/lists/speculators')).body.size as number
    const before = await size()
    const thousand = Array.from({ length: 1000 }, (_, n) => blocking(`one${n}@x.test`))
    const { status, body } = await change(admin, thousand, { confirmed: { broad: true } })
    expect([status, body.detail]).toEqual([200, undefined])
    expect(await size()).toBe(before + 1000)
    expect((await admin('POST', `/api/audit-events/${body.eventId}/undo`)).status).toBe(200)
    expect(await size()).toBe(before)
  })
  it('whose values are too many are refused before they are looked at', async () => {
    const { status, body } = await worker('POST', '/api/copies/lane', { ids: Array(25_000).fill(1), versions: 'any', lane: 'spam' })
    expect([status, body.detail]).toEqual([413, expect.stringContaining('20,000 values')])
  })
  it('with twenty thousand entries show their impact', async () => {
    const { status, body } = await admin('POST', '/api/impact', { changes: entries(20_000) })
    expect([status, body.detail, typeof body.looked]).toEqual([200, undefined, 'number'])
  })
  it('of which one is wrong name it, also the last of many entries', async () => {
    const [many] = entries(300)
    many!.entries.push({ kind: 'address', value: 'no address' })
    const { status, body } = await admin('POST', '/api/impact', { changes: [many] })
    expect([status, Object.keys(body.fields)]).toEqual([422, [expect.stringContaining('changes.0.entries.300')]])
  })
})

describe('a proposal', () => {
  it('holds what somebody can read', async () => {
    const form = { base: await versionFor(worker), changes: rules(101, 'organisation'), note: 'n' }
    const { status, body } = await worker('POST', '/api/proposals', form)
    expect([status, body.detail]).toEqual([422, expect.stringContaining('at most 100 changes')])
  })
  it('of before, with six thousand changes, is listed without them; whether it can be accepted is found beside', async () => {
    const list = {
      type: 'put',
      kind: 'list',
      value: { id: 'large', name: 'Large', owner: 'organisation', usualSide: 'block', enabled: true },
    }
    const many = Array.from({ length: 5999 }, (_, n) => blocking(`p${n}@x.test`, 'large'))
    const id = await gate.ask.addProposal(personOf('worker'), await versionFor(admin), [list, ...many] as PolicyChange[])
    const whole = await until('it was looked at', async () => {
      const line = await listed(id)
      return line.changes === null && line.hindered === null && line
    })
    expect(whole).toMatchObject({ state: 'open', since: null, canAnswer: true })
    // What it makes is made by somebody else meanwhile: it shows, and nobody had to ask.
    await change(admin, [{ ...list, value: { ...list.value, id: 'other' } }], { confirmed: { broad: true } })
    await until('it shows what hinders it', async () => (await listed(id)).hindered?.includes('A list named “Large” already exists'))
    const refused = await admin('POST', `/api/proposals/${id}/answer`, { accept: true, confirmed: { broad: true } })
    expect(refused.status).toBe(422)
    await change(admin, [{ type: 'remove', kind: 'list', id: 'other' }])
    await until('nothing hinders it', async () => (await listed(id)).hindered === null)
    const accepted = await admin('POST', `/api/proposals/${id}/answer`, { accept: true, confirmed: { broad: true } })
    expect([accepted.status, accepted.body.state]).toEqual([200, 'accepted'])
    expect((await admin('GET', '/api/lists/large')).body.size).toBe(5999)
  })
})

it('a worker’s own rules have their bound in all, not only in one request', async () => {
  const { status } = await change(worker, rules(201, ownerOf('worker')))
  expect(status).toBe(422)
})
