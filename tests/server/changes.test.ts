// Changes of lists and rules: each is on record, and can be undone by whoever may, as long as nobody built on it.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import type { Policy } from '#core'
import { loadAt } from '../../server/policy/store'
import { list, rule } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive } from '../support/installation'
import { addressOf, ownerOf, personOf } from '../support/office'

const WORKER = addressOf('worker')
const ME = ownerOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller
let colleague: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'changes')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, WORKER)
  colleague = await signIn(gate, 'emeka.strand')
})
afterAll(() => gate.stop())

/** Everything that there is, in no order but that of the rules. */
const clauses = async () => clausesOf((await admin('GET', '/api/policy')).body)
const blockList = (name: string, over: object = {}) => list(name, {
  entries: `${name}.test\nmore.${name}.test`,
  assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
  ...over,
})

describe('a change that was a mistake: without a way back its maker tries to remember what was there', () => {
  const CHANGES: [string, () => Promise<number>][] = [
    [
      'a list is made with its use and its entries',
      async () => (await admin('POST', '/api/lists', blockList('made'))).body.eventId,
    ],
    [
      'a list is deleted that has entries and a use',
      async () => {
        const { id } = (await admin('POST', '/api/lists', blockList('deleted'))).body
        const { version } = (await admin('GET', `/api/lists/${id}`)).body
        return (await admin('DELETE', `/api/lists/${id}?version=${version}`)).body.eventId
      },
    ],
    [
      'an entry is added',
      async () => {
        const { id } = (await admin('POST', '/api/lists', blockList('added'))).body
        return (await admin('POST', `/api/lists/${id}/entries`, { text: 'new.test' })).body.eventId
      },
    ],
    [
      'entries are taken out',
      async () => {
        const { id, added } = (await admin('POST', '/api/lists', blockList('out'))).body
        return (await admin('POST', `/api/lists/${id}/removals`, { ids: added.map((a: { id: string }) => a.id) })).body
          .eventId
      },
    ],
    [
      'an entry gets another note and expiry',
      async () => {
        const { id, added } = (await admin('POST', '/api/lists', blockList('noted'))).body
        const { seen } = (await admin('GET', `/api/lists/${id}`)).body
        const noted = { ids: [added[0].id], seen, note: 'for a while', expires: '2027-03-01' }
        return (await admin('PUT', `/api/lists/${id}/entries`, noted)).body.eventId
      },
    ],
    [
      'a rule that protects is made on top',
      async () => (await admin('POST', '/api/rules', rule('shield', { claims: [{ protect: ['spam'] }] }))).body.eventId,
    ],
    [
      'a rule is deleted from the middle',
      async () => {
        const { items } = (await admin('GET', '/api/rules')).body
        const own = items.filter((r: { owner: string }) => r.owner === 'organisation')
        const { id, version } = own[Math.floor(own.length / 2)]
        return (await admin('DELETE', `/api/rules/${id}?version=${version}`)).body.eventId
      },
    ],
    [
      'rules are put in another order',
      async () => {
        const { items, version } = (await admin('GET', '/api/rules')).body
        const ids = items.filter((r: { owner: string }) => r.owner === 'organisation').map((r: { id: string }) => r.id)
        return (await admin('POST', '/api/rules/order', { owner: 'organisation', ids: ids.reverse(), version })).body
          .eventId
      },
    ],
    [
      'a phrase set is made',
      async () =>
        (await admin('POST', '/api/phrase-sets', { name: 'Taken back', owner: 'organisation', phrases: ['x'] })).body
          .eventId,
    ],
    ['a quarantine is made', async () => (await admin('POST', '/api/quarantines', { name: 'Taken back' })).body.eventId],
  ]
  it.each(CHANGES)('%s, and it is taken back: all is as before', async (_, make) => {
    // What was prepared for the change is there before as after.
    const eventId = await make()
    const { version } = (await admin('GET', '/api/audit-events?limit=1')).body.items[0]
    const before = await at(version - 1)
    const answer = await undo(admin, eventId)
    expect([answer.status, answer.body.version]).toEqual([200, version + 1])
    expect(await at(version + 1)).toEqual(before)
    expect((await undo(admin, eventId)).status).toBe(409)
  })
  it('the next message follows what was taken back', async () => {
    const { eventId } = (await admin('POST', '/api/lists', blockList('pelican'))).body
    const lane = async (subject: string) => (await receive(gate, { from: 'a@pelican.test', subject })).lane
    expect(await lane('pelicanfirst')).toBe('spam')
    await undo(admin, eventId)
    expect(await lane('pelicansecond')).toBe('inbox')
  })
  it('a confirmation that lapsed by a longer list is there again when the list is as it was', async () => {
    const made = (
      await admin(
        'POST',
        '/api/lists',
        blockList('shag', { assignment: { side: 'block', state: 'enabled', stop: { to: 'discard', confirmed: true } } }),
      )
    ).body
    const stop = async () =>
      (await admin('GET', `/api/lists/${made.id}`)).body.assignments[0].stop as { to: string, confirmed?: boolean }
    const { eventId } = (await admin('POST', `/api/lists/${made.id}/entries`, { text: 'wider.test' })).body
    expect(await stop()).toEqual({ to: 'discard' })
    await undo(admin, eventId)
    expect(await stop()).toEqual({ to: 'discard', confirmed: true })
  })
  it('what somebody built on since stays: the second is told, and nothing of it is taken back', async () => {
    const { id, eventId } = (await admin('POST', '/api/lists', blockList('grebe'))).body
    const { eventId: later } = (await admin('POST', `/api/lists/${id}/entries`, { text: 'later.test' })).body
    const { version } = (await admin('GET', `/api/lists/${id}`)).body
    await admin('PUT', `/api/lists/${id}`, { name: 'Grebes', usualSide: 'block', enabled: false, version })
    const before = await clauses()
    expect((await undo(admin, eventId)).status).toBe(409)
    expect(await clauses()).toEqual(before)
    // What does not touch it still can be.
    expect((await undo(admin, later)).status).toBe(200)
  })
  it('the same rule saved again makes no version and no act', async () => {
    const saved = (await admin('POST', '/api/rules', rule('again', { description: '', expires: '2027-01-01' }))).body
    const number = await gate.ask.latestVersion()
    const { name, owner, state, when, except, claims, version, expires } = saved
    const again = await admin('PUT', `/api/rules/${saved.id}`, {
      name,
      owner,
      state,
      when,
      except,
      claims,
      expires,
      version,
    })
    expect([again.status, again.body.eventId]).toEqual([200, null])
    expect(await gate.ask.latestVersion()).toBe(number)
  })
})

describe('whose acts they are', () => {
  it('a worker takes back their own change, and nobody else’s', async () => {
    const own = (await worker('POST', '/api/rules', rule('auk', { owner: ME }))).body.eventId
    const ours = (await admin('POST', '/api/rules', rule('auks'))).body.eventId
    expect((await undo(worker, ours)).status).toBe(404)
    expect((await undo(colleague, own)).status).toBe(404)
    // What is somebody's own is not the administrator's to see, in no direction.
    expect((await undo(admin, own)).status).toBe(404)
    expect((await undo(worker, own)).status).toBe(200)
  })
  it('an administrator takes back what another administrator changed', async () => {
    const { eventId } = (await admin('POST', '/api/rules', rule('dunlin'))).body
    await gate.ask.giveEvent(eventId, personOf('tove.halloran'))
    expect((await undo(admin, eventId)).status).toBe(200)
  })
  it('the record tells each their own, and of a colleague’s own clauses not a word', async () => {
    await worker('POST', '/api/rules', rule('secret plover', { owner: ME, when: { phrases: ['hidden word'] } }))
    const seen = JSON.stringify((await admin('GET', '/api/audit-events?limit=200')).body)
    expect(seen).not.toMatch(/secret plover|hidden word/)
    expect(seen).toContain('changed personal lists or rules')
    const mine = (await worker('GET', '/api/audit-events?limit=200')).body.items as { words: string, by: string }[]
    expect(mine[0]!.words).toContain('secret plover')
    expect(new Set(mine.map(a => a.by)).size).toBe(1)
    expect((await colleague('GET', '/api/audit-events')).body.items.map((a: { by: string }) => a.by)).not.toContain(
      'Oskar Brandt',
    )
  })
  it('pages through all acts once', async () => {
    const ids: number[] = []
    for (let before: number | null | undefined; before !== null;) {
      const page = (await admin('GET', `/api/audit-events?limit=7${before ? `&cursor=${before}` : ''}`)).body
      ids.push(...page.items.map((a: { id: number }) => a.id))
      before = page.next
    }
    expect(ids).toEqual([...new Set(ids)].sort((a, b) => b - a))
    expect(ids).toHaveLength(await gate.ask.countEvents())
  })
})

describe('changes at the same time', () => {
  it('of twenty who take one act back, one does', async () => {
    const { eventId } = (await admin('POST', '/api/rules', rule('sanderling'))).body
    const answers = await Promise.all(Array.from({ length: 20 }, () => undo(admin, eventId)))
    expect(answers.map(a => a.status).sort()).toEqual([200, ...Array.from({ length: 19 }, () => 409)])
  })
  it('of two rules of one name one is made; of two lists that add the same entry both say so', async () => {
    const made = await Promise.all([
      admin('POST', '/api/rules', rule('twin')),
      admin('POST', '/api/rules', rule('Twin')),
    ])
    expect(made.map(a => a.status).sort()).toEqual([201, 422])
    const { id } = (await admin('POST', '/api/lists', blockList('tern'))).body
    const added = await Promise.all(
      Array.from({ length: 5 }, () => admin('POST', `/api/lists/${id}/entries`, { text: 'same.test' })),
    )
    expect(added.map(a => a.body.added.length).sort()).toEqual([0, 0, 0, 0, 1])
  })
})

describe('a version can be loaded as it was', () => {
  it('each is what the policy said when it was in force', async () => {
    const result = (await admin('GET', '/api/policy')).body as Policy
    await admin('POST', '/api/lists', blockList('later'))
    await admin('POST', '/api/rules', rule('later'))
    expect(await at(result.version)).toEqual(await clausesOf(result))
  })
})

async function at(version: number) {
  return clausesOf(await gate.ask.db.transaction(tx => loadAt(tx, version)))
}

function clausesOf(policy: Policy) {
  // What is somebody's own, an administrator does not read.
  const open = <T extends { owner: string }>(things: readonly T[]) => things.filter(t => !t.owner.startsWith('person:'))
  const sorted = <T extends { id: string }>(things: readonly T[]) => [...things].sort((a, b) => (a.id < b.id ? -1 : 1))
  return {
    lists: sorted(open(policy.lists)).map(l => ({ ...l, entries: sorted(l.entries) })),
    assignments: sorted(open(policy.assignments)),
    phraseSets: sorted(open(policy.phraseSets)),
    quarantines: sorted(policy.quarantines),
    rules: [...new Set(open(policy.rules).map(r => r.owner))].sort().map(o => policy.rules.filter(r => r.owner === o)),
  }
}
