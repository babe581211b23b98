// Undoing one change after the other, the newest first: what an undo brought back is what was there, so that the next older one works.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { Random } from '../../demo/random'
import { change, list, putRule } from '../support/clauses'
import { signIn, undo, type Caller } from '../support/http'
import { install, type Installation } from '../support/installation'

let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'undo_order')
  admin = await signIn(gate, 'admin')
})
afterAll(() => gate.stop())

/** All clauses, and the entries of one list in the order in which they stand. */
async function state(listId: string): Promise<unknown> {
  const { lists, assignments, rules, phraseSets, quarantines, thresholds } = (await admin('GET', '/api/policy')).body
  const heads = lists.map(({ entries, ...l }: { id: string, entries: { value: string }[] }) =>
    [l, entries.map(e => e.value).sort()]).sort((a: [{ id: string }], b: [{ id: string }]) => a[0].id.localeCompare(b[0].id))
  const byId = (all: { id: string }[]) => [...all].sort((a, b) => a.id.localeCompare(b.id))
  const { body } = await admin('GET', `/api/lists/${listId}`)
  return {
    heads,
    assignments: byId(assignments),
    rules,
    sets: byId(phraseSets),
    quarantines: byId(quarantines),
    thresholds,
    entries: body.entries?.map((e: { value: string, note?: string }) => [e.value, e.note ?? null]),
  }
}

describe('thirty changes of the same things', () => {
  it.each([1, 2, 3])('are undone in reverse order, each, and everything stands where it stood (seed %i)', async (seed) => {
    const random = new Random(seed)
    const name = `order${seed}`
    const { id } = (await admin('POST', '/api/lists', list(name, {
      entries: Array.from({ length: 6 }, (_, i) => `e${i}.${name}.test`).join('\n'),
      assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
    }))).body
    const { assignments } = (await admin('GET', '/api/policy')).body
    const assignment = assignments.find((a: { list: string }) => a.list === id)
    const put = async (phrase: string, over: object = {}) => change(admin, [putRule(`${name} rule`, { id: `${name}-rule`, when: { phrases: [phrase] }, ...over })], SEEN)
    expect((await put('first phrase')).status).toBe(200)

    const entry = (i: number) => ({ kind: 'domain', value: `e${i}.${name}.test` })
    const changes: (() => Promise<{ status: number, body: { eventId: number | null } }>)[] = [
      () => change(admin, [{ type: 'remove', kind: 'entries', list: id, entries: [entry(random.between(0, 8))] }], SEEN),
      () => change(admin, [{ type: 'put', kind: 'entries', list: id, entries: [{ ...entry(random.between(0, 8)), note: `n${random.between(0, 3)}` }] }], SEEN),
      () => put(`phrase ${random.between(0, 3)}`),
      () => put('first phrase', { state: random.pick(['enabled', 'disabled', 'monitor']) }),
      () => change(admin, [{ type: 'remove', kind: 'rule', id: `${name}-rule` }], SEEN),
      () => change(admin, [{ type: 'put', kind: 'assignment', value: { ...assignment, state: random.pick(['enabled', 'disabled']) } }], SEEN),
    ]
    const made: { eventId: number, before: unknown }[] = []
    for (let tried = 0; made.length < 30 && tried < 200; tried++) {
      const before = await state(id)
      // What changes nothing, or takes out what is not there, is no change.
      const { status, body } = await random.pick(changes)()
      if (status === 200 && body.eventId !== null) made.push({ eventId: body.eventId, before })
    }
    expect(made.length).toBe(30)
    for (const { eventId, before } of made.reverse()) {
      const { status, body } = await undo(admin, eventId)
      expect([status, body.detail ?? ''], JSON.stringify(body)).toEqual([200, ''])
      expect(await state(id)).toEqual(before)
    }
  })
})

const SEEN = { confirmed: { broad: true, erases: 0 } }
